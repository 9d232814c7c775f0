// Cues that are there already: found, changed, copied, shared by twins.
import type { Command, Cue, Step } from '../api/client'
import { perform, performHere } from './actions'
import { useSession } from './session'

export function findCue(id: string): { cue: Cue; step: Step; index: number } | null {
  for (const step of useSession.getState().doc?.steps ?? []) {
    const index = (step.cues ?? []).findIndex((c) => c.id === id)
    if (index >= 0) return { cue: step.cues![index]!, step, index }
  }
  return null
}

// sourceOf is the cue whose settings a cue uses: the one that it is a twin of, or itself.
export function sourceOf(cue: Cue): Cue {
  return cue.twin ? (findCue(cue.twin)?.cue ?? cue) : cue
}

// changeCues changes settings: those of twins once, for all of them.
export function changeCues(ids: readonly string[], change: (c: Cue) => Cue) {
  const sources = new Map(
    ids.flatMap((id) => {
      const found = findCue(id)
      return found ? [[sourceOf(found.cue).id, sourceOf(found.cue)] as const] : []
    }),
  )
  return useSession.getState().run(...[...sources.values()].map((cue): Command => ({ op: 'setCue', cue: change(cue) })))
}

/** What is done to the selected cues by name. */
const onSelected = (what: 'stagger' | 'mute' | 'turnRound' | 'duplicateCues') => () =>
  void perform({ do: what, cueIds: [...useSession.getState().selection.cues] })

export const reverseDirection = onSelected('turnRound')
export const toggleMuted = onSelected('mute')
export const stagger = onSelected('stagger')
export const duplicateSelected = onSelected('duplicateCues')

export const setTargets = (cueIds: string[], nodes: string[], on: boolean) =>
  perform({ do: 'setTargets', cueIds, nodes, on })
export const toggle = (cueIds: string[]) => perform({ do: 'mute', cueIds })

// shiftCues moves cues in time, stretchCues one end of each: into another step where they leave theirs.
export const shiftCues = (cueIds: string[], by: number) => by !== 0 && perform({ do: 'shift', cueIds, by })
export const stretchCues = (cueIds: string[], by: number, edge: 'start' | 'end') =>
  by !== 0 && perform({ do: 'stretch', cueIds, by, edge })

export function removeSelected() {
  const { selection, select } = useSession.getState()
  if (selection.cues.length > 0) perform({ do: 'removeCues', cueIds: selection.cues })
  else if (selection.step && perform({ do: 'removeStep', stepId: selection.step })) select({})
}

const copied = () => useSession.getState().copied

export function copySelected() {
  const { selection } = useSession.getState()
  useSession.setState({ copied: selection.cues.flatMap((id) => findCue(id)?.cue ?? []) })
}

const ids = () => copied().map((c) => c.id)

// pasteHere puts what was copied at the playhead: onto the picked parts when some
// are picked, else onto the same ones.
export function pasteHere() {
  if (copied().length > 0) performHere({ do: 'paste', cues: copied(), nodes: useSession.getState().selection.nodes })
}

// pasteTwins puts twins of what was copied at the playhead, onto the picked parts.
export function pasteTwins() {
  const { selection, lastPick } = useSession.getState()
  const nodes = selection.nodes.length > 0 ? selection.nodes : lastPick
  if (copied().length > 0) performHere({ do: 'makeTwins', cueIds: ids(), nodes })
}

// pasteBack puts copies at the playhead that take back what was copied.
export function pasteBack() {
  performHere({ do: 'pasteBack', cueIds: ids() })
}
