// What the author's hand can do, as commands on the document. Nothing here is a
// rule of the job: it puts together what the core will check and carry out.
import type { Camera, Command, Cue, Schemas, Step } from '../api/client'
import type { Place, Spread, Way, Ways } from '../core/core'
import { words } from '../api/client'
import { namesOf, useSession } from './session'
import { useTransport } from './transport'

export type MoveKind = 'pull' | 'turn' | 'unscrew' | 'fade' | 'tint' | 'note'

const usual = 1_500_000 // µs: a move that can be followed (1–2.5 s, common practice)
const room = 500_000

const newId = (what: string) => `${what}-${crypto.randomUUID().slice(0, 8)}`

// place finds the step at the playhead and the time in it. Where there is none
// it gives the commands that make one.
function place(): { step: string; offset: number; before: Command[]; index: number; grow?: Step } {
  const { core, doc } = useSession.getState()
  const time = useTransport.getState().time
  if (!core || !doc || doc.steps.length === 0) {
    const step: Step = { id: newId('step'), title: 'First step', length: 3_000_000 }
    return { step: step.id, offset: time, before: [{ op: 'insertStep', step, index: 0 }], index: 0 }
  }
  const here = core.ask<Place>({ ask: 'place', time })
  const at = Math.max(here.step, 0)
  const step = doc.steps[at]!
  const last = at === doc.steps.length - 1
  return { step: step.id, offset: here.offset, before: [], index: step.cues?.length ?? 0, grow: last ? step : undefined }
}

// insert adds cues at the playhead as one edit and selects them.
function insert(...cues: Omit<Cue, 'id' | 'offset'>[]): string | null {
  const s = useSession.getState()
  if (!s.doc || cues.length === 0) return null
  const p = place()
  const full = cues.map((cue): Cue => ({ ...cue, id: newId('cue'), offset: p.offset }))
  const commands: Command[] = [...p.before, ...full.map((cue, i): Command => ({ op: 'insertCue', stepId: p.step, cue, index: p.index + i }))]
  const needed = p.offset + Math.max(...cues.map((c) => c.length)) + room
  if (p.grow && needed > p.grow.length) commands.push({ op: 'setStep', step: bare(p.grow, { length: needed }) })
  if (!s.run(...commands)) return null
  s.select({ cues: full.map((c) => c.id) })
  return full[0]!.id
}

// bare is a step without its cues, as setStep takes it.
export function bare(step: Step, change: Partial<Step>): Step {
  return { ...step, ...change, cues: undefined }
}

export function addMove(kind: MoveKind, nodes: string[], way: Way, ways: Ways, distance: number) {
  const common = { targets: nodes, length: usual, easing: 'smooth' as const }
  switch (kind) {
    case 'pull':
      return insert({ ...common, kind, pull: { axes: way.axes, along: way.along, distance } })
    case 'turn':
      return insert({ ...common, kind, turn: { axes: way.axes, about: way.along, pivot: way.pivot ?? (way.axes === 'own' ? ways.pivot : [0, 0, 0]), degrees: 90 } })
    case 'unscrew':
      return insert({ ...common, kind, unscrew: ways.thread
        ? { axes: 'own', along: ways.thread.along, pivot: ways.thread.pivot, turns: ways.thread.turns, lead: ways.thread.lead }
        : { axes: 'own', along: way.along, pivot: ways.pivot, turns: 8, lead: 0.5 } })
    case 'fade':
      return insert({ ...common, length: 1_000_000, kind, fade: { to: 0.15 } })
    case 'tint':
      return insert({ ...common, length: 1_000_000, kind, tint: { colour: [0.62, 0.07, 0.03], amount: 0.8 } })
    case 'note':
      return insert({ ...common, targets: nodes.slice(0, 1), length: 4_000_000, easing: 'linear', kind, note: { text: namesOf(useSession.getState().assembly, nodes.slice(0, 1)), at: ways.pivot } })
  }
}

// spread pulls the picked parts apart with even gaps: ordered by place, or peeled
// in the order in which they were picked.
export function spread(nodes: string[], way: Way, distance: number, peel: boolean) {
  const { core, tell } = useSession.getState()
  try {
    const s = core!.ask<Spread>({ ask: 'spread', nodes, along: way.world, distance, peel })
    insert(...s.pulls.map((p) => ({ targets: [p.node], kind: 'pull' as const, length: usual, easing: 'smooth' as const, pull: { axes: 'assembly' as const, along: s.along, distance: p.distance } })))
  } catch (e) {
    tell(words(e))
  }
}

export function addOrbit() {
  return insert({ kind: 'orbit', length: 8_000_000, easing: 'linear', orbit: { about: [0, 1, 0], degrees: 360 } })
}

export function takeShot(camera: Camera) {
  const shots = useSession.getState().doc?.steps.flatMap((s) => s.cues ?? []).filter((c) => c.kind === 'shot').length ?? 0
  return insert({ kind: 'shot', length: usual, easing: 'smooth', shot: { name: `Shot ${shots + 1}`, camera } })
}

export function findCue(id: string): { cue: Cue; step: Step; index: number } | null {
  for (const step of useSession.getState().doc?.steps ?? []) {
    const index = (step.cues ?? []).findIndex((c) => c.id === id)
    if (index >= 0) return { cue: step.cues![index]!, step, index }
  }
  return null
}

export function changeCues(ids: readonly string[], change: (c: Cue) => Cue) {
  const commands = ids.flatMap((id): Command[] => {
    const found = findCue(id)
    return found ? [{ op: 'setCue', cue: change(found.cue) }] : []
  })
  return useSession.getState().run(...commands)
}

// reverse turns the selected movements round.
export function reverseDirection() {
  changeCues(useSession.getState().selection.cues, (c) => ({
    ...c,
    pull: c.pull && { ...c.pull, distance: -c.pull.distance },
    turn: c.turn && { ...c.turn, degrees: -c.turn.degrees },
    unscrew: c.unscrew && { ...c.unscrew, along: c.unscrew.along.map((v) => -v) },
  }))
}

export function removeSelected() {
  const { selection, run, select } = useSession.getState()
  if (selection.cues.length > 0) {
    run(...selection.cues.map((id): Command => ({ op: 'removeCue', cueId: id })))
  } else if (selection.step) {
    run({ op: 'removeStep', stepId: selection.step })
    select({})
  }
}

export function duplicateSelected() {
  const { selection, run, select } = useSession.getState()
  const made: string[] = []
  const commands = selection.cues.flatMap((id): Command[] => {
    const f = findCue(id)
    if (!f) return []
    const cue = { ...f.cue, id: newId('cue'), offset: f.cue.offset + f.cue.length }
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

// splitHere cuts the step at the playhead in two.
export function splitHere() {
  const p = place()
  const fresh = newId('step')
  if (p.before.length === 0 && fulfil({ do: 'splitStep', stepId: p.step, at: p.offset, fresh })) useSession.getState().select({ step: fresh })
}

// insertSecond makes room in a step at the playhead, or at its end where the
// playhead is elsewhere.
export function insertSecond(step: string) {
  const p = place()
  const length = useSession.getState().doc?.steps.find((s) => s.id === step)?.length ?? 0
  fulfil({ do: 'insertTime', stepId: step, at: p.step === step ? p.offset : length, by: 1_000_000 })
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
  const cues = selection.nodes.length > 0 ? copied.map((c) => (c.targets?.length ? { ...c, targets: c.kind === 'note' ? selection.nodes.slice(0, 1) : selection.nodes } : c)) : copied
  const fresh = newId('cue')
  if (fulfil({ do: 'paste', stepId: p.step, at: p.offset, cues, fresh })) select({ cues: cues.map((_, i) => `${fresh}-${i + 1}`) })
}

export function toggleMuted() {
  const ids = useSession.getState().selection.cues
  const off = ids.some((id) => !findCue(id)?.cue.muted)
  changeCues(ids, (c) => ({ ...c, muted: off || undefined }))
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

// addRetrace adds a last step that runs all earlier ones backwards.
export function addRetrace() {
  const { doc, run, select } = useSession.getState()
  if (!doc) return
  const taken = new Set(doc.steps.flatMap((s) => s.retrace?.steps ?? []))
  const steps = doc.steps.filter((s) => !s.retrace && !taken.has(s.id))
  if (steps.length === 0) return
  const length = Math.max(1_000_000, Math.round(steps.reduce((sum, s) => sum + s.length, 0) / 3))
  const step: Step = { id: newId('step'), title: 'Put it together again', length, retrace: { steps: steps.map((s) => s.id) } }
  if (run({ op: 'insertStep', step, index: doc.steps.length })) select({ step: step.id })
}

export function setLeftOut(nodes: string[], out: boolean) {
  const { doc, run } = useSession.getState()
  if (!doc) return
  const now = (doc.opening.leftOut ?? []).filter((n) => !nodes.includes(n))
  const leftOut = out ? [...now, ...nodes] : now
  run({ op: 'setOpening', opening: { ...doc.opening, leftOut: leftOut.length > 0 ? leftOut : undefined } })
}

export function setOpeningOpacity(node: string, opacity: number) {
  const { doc, run } = useSession.getState()
  if (!doc) return
  const others = (doc.opening.opacities ?? []).filter((o) => o.node !== node)
  const opacities = opacity < 1 ? [...others, { node, opacity }] : others
  run({ op: 'setOpening', opening: { ...doc.opening, opacities: opacities.length > 0 ? opacities : undefined } })
}
