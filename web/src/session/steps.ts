// Steps and the opening.
import type { Schemas, Step } from '../api/client'
import { bare, perform, performHere } from './actions'
import { useSession } from './session'
import { useTransport } from './transport'
import { seconds } from '../core/written'

// splitHere cuts the step at the playhead in two.
export const splitHere = () => void performHere({ do: 'splitStep' })

// insertTime makes room at the playhead, or takes time out there; in another step than the one that runs, at its end.
export const insertTime = (by: number, stepId?: string) => void performHere({ do: 'insertHere', stepId, by })

const setMarkers = (step: Step, markers: NonNullable<Step['markers']>) =>
  useSession.getState().run({ op: 'setStep', step: bare(step, { markers: markers.length > 0 ? markers : undefined }) })

const stepOf = (id: string) => useSession.getState().doc?.steps.find((s) => s.id === id)

// addMarker sets a marker at the playhead and lets it be named.
export function addMarker() {
  const done = performHere({ do: 'addMarker' })
  if (done?.marked) useSession.setState({ renaming: { step: done.marked, index: done.marker ?? 0 } })
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
  const last = useSession((s) => late > 0 && !s.schedule!.steps.slice(index + 1).some((x) => x.duration > 0))
  if (late === 0) return null
  const by = seconds(late)
  return last ? `The film ends ${by} before its cues do.` : `Its cues go on for ${by} in the next step.`
}

export function addStep(after?: string) {
  const done = perform({ do: 'addStep', stepId: after })
  const made = useSession.getState().schedule?.steps.find((s) => s.step === done?.step)
  if (made) useTransport.getState().seek(made.start)
}

// backTogether makes the teardown a whole film: a pause, then all of it backwards.
export const backTogether = () => void perform({ do: 'backTogether' })

// openHere makes the moment at the playhead the opening.
export function openHere() {
  const done = performHere({ do: 'openHere' })
  if (!done) return
  const { select, tell } = useSession.getState()
  select({ opening: true })
  if (done.off)
    tell(
      `The reveal opens as it was here. ${done.off === 1 ? 'The cue that led here is' : `The ${done.off} cues that led here are`} switched off.`,
    )
}

export const setSuppressed = (nodes: string[], on: boolean) => void perform({ do: 'suppress', nodes, on })
export const setOpeningOpacity = (node: string, opacity: number) =>
  void perform({ do: 'openFaded', nodes: [node], opacity })

// setCaptions changes how the words of the steps are set.
export function setCaptions(change: Partial<Schemas['Captions']>) {
  const { core, run } = useSession.getState()
  run({ op: 'setCaptions', captions: { ...core!.ask('captions'), ...change } })
}
