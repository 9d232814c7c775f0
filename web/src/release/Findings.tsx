import clsx from 'clsx'
import { useState } from 'react'
import { words } from '../api/client'
import { leadTo } from '../proof/acts'
import { openOnes, useProof } from '../proof/proof'
import { go } from '../session/route'
import { labelOf, useSession } from '../session/session'
import type { Selection } from '../session/state'
import { seconds } from '../core/written'

/** Something that may be wrong, and where it is. */
export interface Found {
  text: string
  /** All of it, in a sentence. */
  title?: string
  at: number // µs
  selection: Partial<Selection>
}

// Findings say what may be wrong with the film; each leads to its moment.
export function Findings({ text, found, more }: { text: string; found: readonly Found[]; more?: string }) {
  const [all, setAll] = useState(false)
  return (
    <p className={clsx('mb-3 text-[12.5px] text-advice', all && 'scroll max-h-[30vh]')}>
      {text}{' '}
      {found.slice(0, all ? found.length : 3).map((f, i) => (
        <span key={i}>
          {i > 0 && '; '}
          <button
            type="button"
            title={f.title ?? 'Go there in Direct'}
            className="text-left underline underline-offset-2 hover:text-ink"
            onClick={() => leadTo(f.at, f.selection)}
          >
            {f.text}
          </button>
        </span>
      ))}
      {!all && found.length > 3 && (
        <>
          {' '}
          and{' '}
          <button
            type="button"
            title="Show them all"
            className="underline underline-offset-2 hover:text-ink"
            onClick={() => setAll(true)}
          >
            {found.length - 3} more
          </button>
        </>
      )}
      .{more && ` ${more}`}
    </p>
  )
}

// Proven says what is still wrong with the reveal, the faults one by one, and what was looked at where there is none.
export function Proven() {
  const assembly = useSession((s) => s.assembly)
  const proof = useProof(false)
  const { project, revealId } = useSession.getState()
  if (proof.isError)
    return (
      <p role="alert" className="mb-3 text-[12.5px] text-signal-ink">
        Whether something is wrong with the film is not known: {words(proof.error)}
      </p>
    )
  const outcome = proof.data?.report
  if (!outcome || !proof.data?.looked)
    return (
      <p role="status" className="mb-3 text-[12.5px] text-ink-2">
        Looking whether something is wrong with the film…
      </p>
    )
  const faults = openOnes(outcome, 'fault')
  const others = openOnes(outcome).length - faults.length
  const found = faults.map((f) => ({
    text: `${f.parts.map((p) => labelOf(assembly, p)).join(' and ')}, ${seconds(f.from, 1)}`,
    title: f.says,
    at: f.at,
    selection: { nodes: f.parts },
  }))
  return (
    <>
      {found.length > 0 ? (
        <Findings text="Parts go into one another:" found={found} />
      ) : (
        outcome.pairs > 0 && (
          <p className="mb-3 text-[12.5px] text-ink-2">
            No part goes into another one:{' '}
            {outcome.pairs === 1 ? 'one pair that comes' : `${outcome.pairs.toLocaleString('en')} pairs that come`} near
            one another, over {seconds(outcome.duration, 1)}.
          </p>
        )
      )}
      {others > 0 && (
        <p className="mb-3 text-[12.5px] text-ink-2">
          {others === 1 ? 'One thing more may be wrong' : `${others} things more may be wrong`}:{' '}
          <button
            type="button"
            className="underline underline-offset-2 hover:text-ink"
            onClick={() => go(`/p/${project!.id}/proof/${revealId}`)}
          >
            look in Proof
          </button>
          .
        </p>
      )}
    </>
  )
}
