import { useQuery } from '@tanstack/react-query'
import clsx from 'clsx'
import { useState } from 'react'
import { answer, api, words } from '../api/client'
import { go } from '../session/route'
import { labelOf, useSession } from '../session/session'
import type { Selection } from '../session/state'
import { useTransport } from '../session/transport'
import { sleep } from '../api/patient'

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
  const { project, revealId, select } = useSession.getState()
  const [all, setAll] = useState(false)
  const lead = (f: Found) => {
    go(`/p/${project!.id}/direct/${revealId}`)
    select(f.selection)
    useTransport.getState().seek(f.at)
  }
  return (
    <p className={clsx('mb-3 text-[12.5px] text-advice', all && 'scroll max-h-[30vh]')}>
      {text} {found.slice(0, all ? found.length : 3).map((f, i) => (
        <span key={i}>{i > 0 && '; '}<button type="button" title={f.title ?? 'Go there in Direct'} className="text-left underline underline-offset-2 hover:text-ink" onClick={() => lead(f)}>{f.text}</button></span>
      ))}{!all && found.length > 3 && <> and <button type="button" title="Show them all" className="underline underline-offset-2 hover:text-ink" onClick={() => setAll(true)}>{found.length - 3} more</button></>}.{more && ` ${more}`}
    </p>
  )
}

const rest = 500 // ms that a version stays before it is looked at

// Interference says where parts go into one another in a version of the reveal, or that they do not, and what was looked at.
export function Interference({ revealId, version }: { revealId: string; version: number }) {
  const assembly = useSession((s) => s.assembly)
  const proof = useQuery({
    queryKey: ['proof', revealId, version], retry: false, staleTime: Infinity,
    queryFn: async ({ signal }) => {
      await sleep(rest)
      signal.throwIfAborted() // there is a newer one
      return answer(api.GET('/api/reveals/{id}/proof', { params: { path: { id: revealId } }, signal }))
    },
  })
  if (proof.isPending) return <p role="status" className="mb-3 text-[12.5px] text-ink-2">Looking whether parts go into one another…</p>
  if (proof.isError) return <p role="alert" className="mb-3 text-[12.5px] text-signal-ink">Whether parts go into one another is not known: {words(proof.error)}</p>
  const { findings, passed, beyond, pairs, duration } = proof.data
  const left = passed.length + beyond
  const more = left > 0 ? `${left === 1 ? 'One pair of parts was' : `${left.toLocaleString('en')} pairs of parts were`} not looked at: ${passed[0]?.why ?? 'too many come near one another'}.` : ''
  if (findings.length === 0) {
    if (pairs === 0) return null
    return <p className="mb-3 text-[12.5px] text-ink-2">No part goes into another one: {pairs === 1 ? 'one pair that comes' : `${pairs.toLocaleString('en')} pairs that come`} near one another, over {(duration / 1e6).toFixed(1)} s. {more}</p>
  }
  const found = findings.map(({ finding: f, words: title }) => ({
    text: `${labelOf(assembly, f.still)} and ${labelOf(assembly, f.moving)}, ${(f.from / 1e6).toFixed(1)} s`, title, at: f.at, selection: { nodes: [f.still, f.moving] },
  }))
  return <Findings text="Parts go into one another:" found={found} more={more} />
}
