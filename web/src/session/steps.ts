// Steps and the opening.
import type { Command, Schemas, Step } from '../api/client'
import { bare, newId, place } from './actions'
import { fulfil } from './cues'
import { useSession } from './session'
import { useTransport } from './transport'

// splitHere cuts the step at the playhead in two.
export function splitHere() {
  const p = place()
  const fresh = newId('step')
  if (p.before.length === 0 && fulfil({ do: 'splitStep', stepId: p.step, at: p.offset, fresh }))
    useSession.getState().select({ step: fresh })
}

// insertTime makes room at the playhead, or takes time out there.
export function insertTime(by: number) {
  const p = place()
  if (p.before.length === 0) fulfil({ do: 'insertTime', stepId: p.step, at: p.offset, by })
}

const setMarkers = (step: Step, markers: NonNullable<Step['markers']>) =>
  useSession.getState().run({ op: 'setStep', step: bare(step, { markers: markers.length > 0 ? markers : undefined }) })

const stepOf = (id: string) => useSession.getState().doc?.steps.find((s) => s.id === id)

// addMarker sets a marker at the playhead and lets it be named.
export function addMarker() {
  const p = place()
  const step = stepOf(p.step)
  if (!step) return
  const n = useSession.getState().doc!.steps.reduce((sum, s) => sum + (s.markers?.length ?? 0), 0)
  const markers = [...(step.markers ?? []), { offset: p.offset, text: `Marker ${n + 1}` }]
  if (setMarkers(step, markers)) useSession.setState({ renaming: { step: step.id, index: markers.length - 1 } })
}

export function renameMarker(id: string, index: number, text: string) {
  useSession.setState({ renaming: null })
  const step = stepOf(id)
  if (step?.markers && text.trim() && text.trim() !== step.markers[index]?.text)
    setMarkers(
      step,
      step.markers.map((m, i) => (i === index ? { ...m, text: text.trim() } : m)),
    )
}

export function removeMarker(id: string, index: number) {
  const step = stepOf(id)
  if (step?.markers)
    setMarkers(
      step,
      step.markers.filter((_, i) => i !== index),
    )
}

// useOutrun says in words that the cues of a step end later than it does, null where they do not.
export function useOutrun(index: number): string | null {
  const late = useSession((s) => s.schedule?.steps[index]?.late ?? 0)
  const last = useSession((s) => late > 0 && !s.schedule!.steps.slice(index + 1).some((x) => x.length > 0))
  if (late === 0) return null
  const by = `${(late / 1e6).toFixed(2)} s`
  return last ? `The film ends ${by} before its cues do.` : `Its cues go on for ${by} in the next step.`
}

// insertIn makes room in a step at the playhead, or at its end where the
// playhead is elsewhere; a negative time is taken out.
export function insertIn(step: string, by: number) {
  const p = place()
  const length = useSession.getState().doc?.steps.find((s) => s.id === step)?.length ?? 0
  fulfil({ do: 'insertTime', stepId: step, at: p.step === step ? p.offset : length, by })
}

export function addStep(after?: string) {
  const { doc, run, select } = useSession.getState()
  if (!doc) return
  const index = after ? doc.steps.findIndex((s) => s.id === after) + 1 : doc.steps.length
  const step: Step = { id: newId('step'), title: `Step ${doc.steps.length + 1}`, length: 4_000_000 }
  if (run({ op: 'insertStep', step, index })) {
    select({ step: step.id })
    const start = useSession.getState().schedule!.steps[index]!.start
    useTransport.getState().seek(start)
  }
}

// backTogether makes the teardown a whole film: a pause, then all of it backwards.
export function backTogether() {
  const fresh = newId('step')
  if (fulfil({ do: 'backTogether', fresh, by: 1_000_000, factor: 3 }))
    useSession.getState().select({ step: `${fresh}-back` })
}

// openHere makes the moment at the playhead the opening.
export function openHere() {
  const { core, run, select, tell } = useSession.getState()
  const command = core!.ask<Command>({ ask: 'openHere', time: useTransport.getState().time })
  const off = (command.commands?.length ?? 1) - 1
  if (!run(command)) return
  select({ opening: true })
  if (off > 0)
    tell(
      `The reveal opens as it was here. ${off === 1 ? 'The cue that led here is' : `The ${off} cues that led here are`} switched off.`,
    )
}

export function setLeftOut(nodes: string[], out: boolean) {
  const { doc, run } = useSession.getState()
  if (!doc) return
  const now = (doc.opening.leftOut ?? []).filter((n) => !nodes.includes(n))
  const leftOut = out ? [...now, ...nodes] : now
  run({ op: 'setOpening', opening: { ...doc.opening, leftOut: leftOut.length > 0 ? leftOut : undefined } })
}

// setCaptions changes how the words of the steps are set.
export function setCaptions(change: Partial<Schemas['Captions']>) {
  const { core, run } = useSession.getState()
  run({ op: 'setCaptions', captions: { ...core!.ask<Schemas['Captions']>({ ask: 'captions' }), ...change } })
}

export function setOpeningOpacity(node: string, opacity: number) {
  const { doc, run } = useSession.getState()
  if (!doc) return
  const others = (doc.opening.opacities ?? []).filter((o) => o.node !== node)
  const opacities = opacity < 1 ? [...others, { node, opacity }] : others
  run({ op: 'setOpening', opening: { ...doc.opening, opacities: opacities.length > 0 ? opacities : undefined } })
}
