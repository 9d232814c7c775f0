// Cues that are there already: found, changed, copied, shared by twins.
import type { Command, Cue, Schemas, Step } from '../api/client'
import { words } from '../api/client'
import type { Ways } from '../core/core'
import { newId, place } from './actions'
import { useSession } from './session'

export function findCue(id: string): { cue: Cue; step: Step; index: number } | null {
  for (const step of useSession.getState().doc?.steps ?? []) {
    const index = (step.cues ?? []).findIndex((c) => c.id === id)
    if (index >= 0) return { cue: step.cues![index]!, step, index }
  }
  return null
}

// owner is the cue whose settings a cue uses: the one that it is a twin of, or
// itself.
export function owner(cue: Cue): Cue {
  return cue.twin ? (findCue(cue.twin)?.cue ?? cue) : cue
}

// changeCues changes settings: those of twins once, for all of them.
export function changeCues(ids: readonly string[], change: (c: Cue) => Cue) {
  const owners = new Map(
    ids.flatMap((id) => {
      const found = findCue(id)
      return found ? [[owner(found.cue).id, owner(found.cue)] as const] : []
    }),
  )
  return useSession.getState().run(...[...owners.values()].map((cue): Command => ({ op: 'setCue', cue: change(cue) })))
}

// changeOwn changes what twins do not share: targets, start, on or off.
export function changeOwn(ids: readonly string[], change: (c: Cue) => Cue) {
  const commands = ids.flatMap((id): Command[] => {
    const found = findCue(id)
    return found ? [{ op: 'setCue', cue: change(found.cue) }] : []
  })
  return useSession.getState().run(...commands)
}

// stagger lets each further target of cues come a little later, or all at once again.
export function stagger(ids: readonly string[]) {
  const several = ids.filter((id) => (findCue(id)?.cue.targets?.length ?? 0) > 1)
  const on = several.some((id) => !owner(findCue(id)!.cue).stagger)
  if (several.length > 0)
    changeCues(several, (c) => ({
      ...c,
      stagger: on ? Math.round(c.length / 5 / 10_000) * 10_000 || 100_000 : undefined,
    }))
}

// setTarget adds nodes to what cues act on, or takes them out.
export function setTargets(ids: readonly string[], nodes: readonly string[], on: boolean) {
  return changeOwn(ids, (c) => {
    if (!c.targets?.length) return c
    const rest = c.targets.filter((t) => !nodes.includes(t))
    const targets = on ? [...rest, ...nodes] : rest
    return { ...c, targets: targets.length > 0 ? targets : c.targets }
  })
}

// shiftCues moves cues in time, stretchCues one end of each: into another step where they leave theirs.
export const shiftCues = (cueIds: string[], by: number) => by !== 0 && fulfil({ do: 'shift', cueIds, by })
export const stretchCues = (cueIds: string[], by: number, edge: 'start' | 'end') =>
  by !== 0 && fulfil({ do: 'stretch', cueIds, by, edge })

// reverseDirection turns the selected movements round.
export function reverseDirection() {
  fulfil({ do: 'turnRound', cueIds: useSession.getState().selection.cues })
}

// pullOut lets unscrewed parts go on straight out where the thread ends: each in
// its turn.
export function pullOut(screws: readonly Cue[]) {
  const { core, run, select } = useSession.getState()
  const made: string[] = []
  const commands = screws.flatMap((c): Command[] => {
    const found = findCue(c.id)
    if (!found || !c.unscrew || !core) return []
    const { axes, along } = c.unscrew
    const distance = core.ask<Ways>({ ask: 'ways', nodes: c.targets ?? [] }).distance
    const cue: Cue = {
      id: newId('cue'),
      kind: 'pull',
      targets: c.targets,
      of: c.of,
      offset: c.offset + c.length,
      length: 1_000_000,
      stagger: c.stagger,
      easing: 'out',
      pull: { axes, along, distance: Math.max(distance, 20) },
    }
    made.push(cue.id)
    return [{ op: 'insertCue', stepId: found.step.id, cue, index: found.index + 1 }]
  })
  if (commands.length > 0 && run(...commands)) select({ cues: made })
}

export function removeSelected() {
  const { selection, select } = useSession.getState()
  if (selection.cues.length > 0) fulfil({ do: 'removeCues', cueIds: selection.cues })
  else if (selection.step && fulfil({ do: 'removeStep', stepId: selection.step })) select({})
}

export function duplicateSelected() {
  const { selection, run, select } = useSession.getState()
  const made: string[] = []
  const commands = selection.cues.flatMap((id): Command[] => {
    const f = findCue(id)
    if (!f) return []
    const cue = { ...f.cue, id: newId('cue'), offset: f.cue.offset + owner(f.cue).length }
    made.push(cue.id)
    return [{ op: 'insertCue', stepId: f.step.id, cue, index: f.step.cues!.length }]
  })
  if (commands.length > 0 && run(...commands)) select({ cues: made })
}

// fulfil has the core make one command of a wish, and carries it out.
export function fulfil(wish: Schemas['Wish']): boolean {
  const { core, run, tell } = useSession.getState()
  if (!core) return false
  try {
    return run(core.ask<Command>({ ask: 'compose', wish }))
  } catch (e) {
    tell(words(e))
    return false
  }
}

// What was copied last; it outlives the selection, not the page.
let copied: Cue[] = []

export function copySelected() {
  copied = useSession.getState().selection.cues.flatMap((id) => findCue(id)?.cue ?? [])
}

// pasteHere puts what was copied at the playhead: onto the picked parts when some
// are picked, else onto the same ones.
export function pasteHere() {
  const { selection, select } = useSession.getState()
  const p = place()
  if (copied.length === 0 || p.before.length > 0) return
  const cues =
    selection.nodes.length > 0
      ? copied.map((c) =>
          c.targets?.length ? { ...c, targets: c.kind === 'note' ? selection.nodes.slice(0, 1) : selection.nodes } : c,
        )
      : copied
  const fresh = newId('cue')
  if (fulfil({ do: 'paste', stepId: p.step, at: p.offset, cues, fresh }))
    select({ cues: cues.map((_, i) => `${fresh}-${i + 1}`) })
}

// pasteTwins puts twins of what was copied at the playhead, onto the picked parts.
export function pasteTwins() {
  const { selection, lastPick, select } = useSession.getState()
  const p = place()
  if (copied.length === 0 || p.before.length > 0) return
  const fresh = newId('cue')
  const nodes = selection.nodes.length > 0 ? selection.nodes : lastPick
  if (fulfil({ do: 'makeTwins', cueIds: copied.map((c) => c.id), nodes, stepId: p.step, at: p.offset, fresh }))
    select({ cues: copied.map((_, i) => `${fresh}-${i + 1}`) })
}

// pasteBack puts copies at the playhead that take back what was copied.
export function pasteBack() {
  const p = place()
  const fresh = newId('cue')
  if (p.before.length === 0)
    fulfil({ do: 'pasteBack', cueIds: copied.map((c) => c.id), stepId: p.step, at: p.offset, fresh })
}

// toggle switches cues off, or on where all of them are off.
export function toggle(ids: readonly string[]) {
  const off = ids.some((id) => !findCue(id)?.cue.muted)
  changeOwn(ids, (c) => ({ ...c, muted: off || undefined }))
}

export const toggleMuted = () => toggle(useSession.getState().selection.cues)
