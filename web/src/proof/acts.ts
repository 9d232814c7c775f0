// What is done with findings.
import type { Schemas } from '../api/client'
import { go } from '../session/route'
import { useSession } from '../session/session'
import type { Selection } from '../session/state'
import { useTransport } from '../session/transport'
import type { Finding } from './proof'

/** What a finding is from version to version. */
export const keyOf = (f: Finding) => [f.check, f.step, f.cues.join(), f.parts.join()].join(' ')

/** leadTo goes to a moment in Direct, µs, with something picked. */
export function leadTo(at: number, selection: Partial<Selection>) {
  const { project, revealId, select } = useSession.getState()
  go(`/p/${project!.id}/direct/${revealId}`)
  select(selection)
  useTransport.getState().seek(at)
}

/** lead goes to the moment of a finding, with what it is about picked. */
export function lead(f: Finding) {
  const { assembly, doc } = useSession.getState()
  const known = new Set(assembly?.nodes.map((n) => n.id))
  const cues = f.cues.filter((id) => doc?.steps.some((s) => s.cues?.some((c) => c.id === id)))
  if (f.parts.length > 0 && (f.depth !== undefined || cues.length === 0))
    leadTo(f.at, { nodes: f.parts.filter((id) => known.has(id)) })
  else leadTo(f.at, cues.length > 0 ? { cues } : { step: f.step })
}

/** mend does what a mend says, as one edit. */
export function mend(m: Schemas['Mend']) {
  const { run, inform, undo } = useSession.getState()
  if (run(m.command)) inform(`Done: ${m.says}.`, { text: 'Undo', run: () => void undo() })
}

/** accept lets a finding be for a reason; without one it is open again. */
export function accept(f: Finding, reason: string) {
  const { run } = useSession.getState()
  run({ op: 'accept', accepted: { check: f.check, parts: f.parts, cues: f.cues, worse: f.worse, reason } })
}
