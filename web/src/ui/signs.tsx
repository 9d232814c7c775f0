// The signs of safety notices, as the core has them.
import { useMemo } from 'react'
import type { Sign, Vec3 } from '../core/core'
import { useCore } from '../core/useCore'

export const css = (c: Vec3) => `rgb(${c.map((v) => Math.round(255 * v)).join(' ')})`

export function useSigns(): Record<string, Sign> {
  const core = useCore()
  return useMemo(() => core?.ask('signals') ?? {}, [core])
}

// Alert is the safety alert symbol, as high as the letters beside it.
export function Alert() {
  return (
    <svg aria-hidden viewBox="0 0 105 91" className="mt-[0.32em] h-[0.82em] w-auto shrink-0" fill="currentColor">
      <path fillRule="evenodd" d="M52.5 0 105 91H0ZM44 31l4 35h9l4-35ZM52.5 70.5a8 8 0 1 0 0 16 8 8 0 1 0 0-16Z" />
    </svg>
  )
}
