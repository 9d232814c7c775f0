import { ArrowUpRight, Check, Undo2, Wrench } from 'lucide-react'
import { useState } from 'react'
import type { Schemas } from '../api/client'
import { labelOf, useSession } from '../session/session'
import { Button } from '../ui/controls'
import { accept, lead, mend } from './acts'
import { Mark } from './Mark'
import type { Finding } from './proof'
import { seconds } from '../core/written'

type Mending = Schemas['Mend']

// One is a finding: its picture, what is wrong, and what can be done.
export function One({
  finding: f,
  title,
  picture,
  searching,
  together,
}: {
  finding: Finding
  title: string
  picture(f: Finding, mend?: number): string
  searching: boolean
  together?: Mending
}) {
  const assembly = useSession((s) => s.assembly)
  const doc = useSession((s) => s.doc)!
  const step = doc.steps.findIndex((s) => s.id === f.step)
  const mends = f.mends ?? []
  const [tried, setTried] = useState<number | null>(null) // the mend whose outcome is shown
  return (
    <article aria-labelledby="what-is-wrong" className="max-w-[860px]">
      <div className="relative max-w-[720px]">
        <img
          src={picture(f, tried ?? undefined)}
          alt={`${f.parts.map((p) => labelOf(assembly, p)).join(', ') || 'The film'} at ${seconds(f.at, 1)}`}
          width={640}
          height={360}
          className="block aspect-video w-full max-w-[720px] border border-line bg-stage object-contain"
        />
        {tried !== null && (
          <p className="absolute top-2 left-2 rounded-[3px] bg-ink px-2 py-0.5 text-[12px] text-sheet">
            After: {mends[tried]?.says}
          </p>
        )}
      </div>
      <div className="mt-4 flex items-start gap-2.5">
        <Mark level={f.level} />
        <div className="min-w-0">
          <h2 id="what-is-wrong" className="text-[15px] font-semibold">
            {title} <span className="font-normal text-ink-2">{f.level}</span>
          </h2>
          <p className="serif mt-1 max-w-[64ch] text-[16px] leading-relaxed text-pretty break-words">{f.says}</p>
          <p className="mt-1 text-[12.5px] text-ink-2">
            {step >= 0 && (
              <>
                Step {step + 1}, {doc.steps[step]!.title}.{' '}
              </>
            )}
            <span className="mono">{seconds(f.from)}</span>
            {f.to > f.from && (
              <>
                {' '}
                to <span className="mono">{seconds(f.to)}</span>
              </>
            )}
            .
          </p>
          <div className="mt-3 flex flex-wrap gap-2">
            <Button onClick={() => lead(f)} title="To its moment in Direct (G)">
              <ArrowUpRight size={14} /> Go there
            </Button>
          </div>
        </div>
      </div>
      {!f.accepted && (
        <Mends
          mends={mends}
          searching={searching}
          together={f.check === 'reading' ? together : undefined}
          onTry={setTried}
        />
      )}
      <Accepting finding={f} />
    </article>
  )
}

function Mends({
  mends,
  searching,
  together,
  onTry,
}: {
  mends: readonly Mending[]
  searching: boolean
  together?: Mending
  onTry(mend: number | null): void
}) {
  if (mends.length === 0)
    return (
      <p className="mt-5 border-t border-hair pt-4 text-ink-2">
        {searching ? 'Looking for what mends it…' : 'No small change was found that mends it.'}
      </p>
    )
  return (
    <div className="mt-5 border-t border-hair pt-4">
      <h3 className="mb-2 text-[12px] text-ink-2">Mends it, and has been tried; point at one to see it</h3>
      <ul className="flex flex-wrap gap-2">
        {mends.map((m, i) => (
          <li
            key={m.says}
            className="max-w-full"
            onPointerEnter={() => onTry(i)}
            onPointerLeave={() => onTry(null)}
            onFocus={() => onTry(i)}
            onBlur={() => onTry(null)}
          >
            <Button
              kind={i === 0 ? 'strong' : 'plain'}
              onClick={() => mend(m)}
              title={i === 0 ? `${m.says} (M)` : m.says}
              className="max-w-full"
            >
              <Wrench size={13} className="shrink-0" /> <span className="truncate">{m.says}</span>
            </Button>
          </li>
        ))}
        {together && (
          <li>
            <Button onClick={() => mend(together)}>{together.says}</Button>
          </li>
        )}
      </ul>
    </div>
  )
}

function Accepting({ finding: f }: { finding: Finding }) {
  const [reason, setReason] = useState('')
  if (f.accepted) {
    return (
      <div className="mt-5 flex flex-wrap items-center gap-3 border-t border-hair pt-4">
        <p>
          <Check size={14} className="mr-1 inline" /> Accepted: {f.accepted}
        </p>
        <Button onClick={() => accept(f, '')} title="It counts again (O)">
          <Undo2 size={13} /> Open it again
        </Button>
      </div>
    )
  }
  return (
    <form
      className="mt-4 flex max-w-[560px] gap-2 border-t border-hair pt-4"
      onSubmit={(e) => {
        e.preventDefault()
        if (reason.trim()) accept(f, reason.trim())
      }}
    >
      <input
        id="reason"
        value={reason}
        maxLength={300}
        onChange={(e) => setReason(e.target.value)}
        onKeyDown={(e) => e.stopPropagation()}
        aria-label="Why it is meant so"
        placeholder="Why it is meant so: it snaps in"
        className="h-8 min-w-0 grow rounded-md border border-line bg-white px-2.5 placeholder:text-ink-3 hover:border-ink-3"
      />
      <Button type="submit" className="!h-8" disabled={!reason.trim()} title="Let it be, for this reason (A)">
        Accept it
      </Button>
    </form>
  )
}
