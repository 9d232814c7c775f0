import clsx from 'clsx'
import type { Level } from './proof'

const marks: Record<Level, string> = {
  fault: 'bg-signal',
  warning: 'border-2 border-signal',
  hint: 'border border-ink-3',
}

// Mark tells how grave a finding is: a full dot, a ring, a thin ring.
export function Mark({ level }: { level: Level }) {
  return <span aria-hidden className={clsx('mt-[5px] size-2.5 shrink-0 rounded-full', marks[level])} />
}
