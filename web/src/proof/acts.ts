// What is done with findings.
import type { Schemas } from '../api/client'
import { go } from '../session/route'
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import type { Finding } from './proof'

/** What a finding is from version to version. */
export const keyOf = (f: Finding) => [f.check, f.step, f.cues.join(), f.parts.join()].join(' ')

/** lead goes to the moment of a finding in Direct, with what it is about picked. */
export function lead(f: Finding) {
  const { project, revealId, select, assembly, doc } = useSession.getState()
  go(`/p/${project!.id}/direct/${revealId}`)
  const known = new Set(assembly?.nodes.map((n) => n.id))
  const cues = f.cues.filter((id) => doc?.steps.some((s) => s.cues?.some((c) => c.id === id)))
  if (f.parts.length > 0 && (f.check === 'interference' || f.check === 'held' || cues.length === 0)) select({ nodes: f.parts.filter((id) => known.has(id)) })
  else select(cues.length > 0 ? { cues } : { step: f.step })
  useTransport.getState().seek(f.at)
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
