import { useState } from 'react'
import type { Schemas } from '../api/client'
import { labelOf, useSession } from '../session/session'
import { asked } from '../session/variants'
import { NumberField } from '../ui/NumberField'
import type { Outcome } from './proof'
import { seconds } from '../core/written'

// Looked says what was looked at, what was not, and from where on something counts.
export function Looked({ outcome: o, checks }: { outcome: Outcome; checks: readonly Schemas['Check'][] }) {
  const assembly = useSession((s) => s.assembly)
  const reveal = useSession((s) => s.revealId)!
  const variant = useSession((s) => s.variant)
  const limits = useSession((s) => s.doc?.proof?.limits)
  const set = (c: Schemas['Check'], v: number) => {
    const limit = Math.max(c.limit.least, Math.min(v, c.limit.most))
    useSession.getState().run({ op: 'setLimit', check: c.name, ...(limit !== c.limit.usual && { limit }) })
  }
  const [open, setOpen] = useState(false)
  const passed = o.passed ?? []
  const left = passed.length + (o.beyond ?? 0)
  return (
    <section aria-label="What was looked at" className="mt-8 max-w-[860px] border-t border-line pt-4 text-ink-2">
      <p>
        {o.pairs.toLocaleString('en')} pairs of parts that move against each other and come near, of{' '}
        {o.all.toLocaleString('en')}, over <span className="mono">{seconds(o.duration, 1)}</span> without a gap;{' '}
        {checks.length} checks.
        {left > 0 && (
          <>
            {' '}
            {left === 1 ? 'One pair was' : `${left.toLocaleString('en')} pairs were`} not looked at:{' '}
            {passed[0]?.why ?? 'too many come near one another'}
            {passed[0] && (
              <>
                {' '}
                ({labelOf(assembly, passed[0].still)} and {labelOf(assembly, passed[0].moving)}
                {left > 1 && <> first</>})
              </>
            )}
            .
          </>
        )}
      </p>
      <p className="mt-2 flex flex-wrap gap-x-5">
        <a
          href={`/api/reveals/${reveal}/proof/page?variant=${encodeURIComponent(asked(variant))}`}
          target="_blank"
          rel="noreferrer"
          className="inline-flex min-h-6 items-center underline underline-offset-2 hover:text-ink"
        >
          As a page, to hand on
        </a>
        <button
          type="button"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
          className="min-h-6 underline underline-offset-2 hover:text-ink"
        >
          {open ? 'Hide the checks' : 'What is looked for, and from where on it counts'}
        </button>
      </p>
      {open && (
        <ul className="mt-3">
          {checks
            .filter((c) => c.limit.unit)
            .map((c) => (
              <li key={c.name} className="flex items-center gap-6 border-t border-hair py-2 max-[520px]:block">
                <p className="grow">
                  <b className="font-semibold text-ink">{c.title}.</b> {c.finds} {c.limit.of}:
                </p>
                <p className="flex w-[230px] shrink-0 items-center gap-2">
                  <span className="w-20 shrink-0">
                    <NumberField
                      label={`${c.limit.of}, ${c.limit.unit}`}
                      quantity="plain"
                      className="w-full"
                      value={limits?.[c.name] ?? c.limit.usual}
                      onChange={(v) => set(c, v)}
                    />
                  </span>
                  <span>{c.limit.unit}</span>
                </p>
              </li>
            ))}
        </ul>
      )}
    </section>
  )
}
