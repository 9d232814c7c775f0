// What the author's hand can do, as commands on the document. Nothing here is a
// rule of the job: it puts together what the core will check and carry out.
import type { Camera, Command, Cue, Step } from '../api/client'
import type { Place, Spread, Way, Ways } from '../core/core'
import { create } from 'zustand'
import { persist } from 'zustand/middleware'
import { words } from '../api/client'
import { seenNow, viewNow } from '../stage/eye'
import { fulfil } from './cues'
import { namesOf, useSession } from './session'
import { useTransport } from './transport'

export type MoveKind =
  'pull' | 'turn' | 'unscrew' | 'unscrewOut' | 'route' | 'fade' | 'tint' | 'surface' | 'note' | 'vanish'

const usual = 1_500_000 // µs: a move that can be followed (1–2.5 s, common practice)

export const newId = (what: string) => `${what}-${crypto.randomUUID().slice(0, 8)}`

// place finds the step at the playhead and the time in it. Where there is none
// it gives the commands that make one.
export function place(): { step: string; offset: number; before: Command[]; index: number } {
  const { core, doc } = useSession.getState()
  const time = useTransport.getState().time
  if (!core || !doc || doc.steps.length === 0) {
    const step: Step = { id: newId('step'), title: 'First step', length: 3_000_000 }
    return { step: step.id, offset: time, before: [{ op: 'insertStep', step, index: 0 }], index: 0 }
  }
  const here = core.ask<Place>({ ask: 'place', time })
  const at = Math.max(here.step, 0)
  const step = doc.steps[at]!
  return { step: step.id, offset: here.offset, before: [], index: step.cues?.length ?? 0 }
}

// insert adds cues at the playhead, or so much later as they say, as one edit and selects them.
function insert(...cues: (Omit<Cue, 'id' | 'offset'> & { offset?: number })[]): string | null {
  const s = useSession.getState()
  if (!s.doc || cues.length === 0) return null
  const p = place()
  const full = cues.map((cue): Cue => ({ ...cue, id: newId('cue'), offset: p.offset + (cue.offset ?? 0) }))
  const commands: Command[] = [
    ...p.before,
    ...full.map((cue, i): Command => ({ op: 'insertCue', stepId: p.step, cue, index: p.index + i })),
  ]
  if (!s.run(...commands)) return null
  s.select({ cues: full.map((c) => c.id) })
  return full[0]!.id
}

// How moves are made, remembered by the browser: with a shot that follows them, and whether the playhead goes on
// to their end, so that the next one begins there.
interface Habits {
  shot: boolean
  onward: boolean
}

export const useHabits = create<Habits>()(persist<Habits>(() => ({ shot: false, onward: true }), { name: 'habits' }))

// move inserts what moves parts, in the way that the author has chosen.
function move(nodes: string[], ...cues: Omit<Cue, 'id' | 'offset'>[]): string | null {
  return insert(...(useHabits.getState().shot ? [shotOf(nodes), ...cues] : cues)) && goOn()
}

// goOn takes the playhead to the end of what has just been made, where that is wanted.
function goOn(): string {
  const { selection, schedule } = useSession.getState()
  const made = schedule?.bars.filter((b) => selection.cues.includes(b.cue) && !b.retraced) ?? []
  if (useHabits.getState().onward && made.length > 0)
    useTransport.getState().seek(Math.max(...made.map((b) => b.start + b.length)))
  return selection.cues[0]!
}

// shotOf comes close to parts, from where the author looks, and follows them.
function shotOf(nodes: string[]): Omit<Cue, 'id' | 'offset'> {
  const { core, doc, assembly } = useSession.getState()
  const eye = viewNow() ?? doc!.opening.camera
  const camera = core!.ask<Camera>({
    ask: 'fit',
    nodes,
    orientation: eye.orientation,
    lens: eye.lens,
    parallel: eye.parallel,
    aspect: doc!.frame.width / doc!.frame.height,
    margin: 0.45,
  })
  return {
    kind: 'shot',
    length: 1_000_000,
    easing: 'smooth',
    shot: { name: namesOf(assembly, nodes), camera, keep: { nodes, margin: 0.45 } },
  }
}

// bare is a step without its cues, as setStep takes it: they stay, and so does the length, unless it is changed.
export function bare(step: Step, change: Partial<Step>): Step {
  return { ...step, length: 0, ...change, cues: undefined }
}

/** How the last movement was made, for the next one of the same parts. */
let lastWay: { way: Way; distance: number } | null = null

// again makes the next cue for the parts of the selected ones, right after these: the
// playhead goes there.
export function again(kind: MoveKind) {
  const { core, selection, schedule } = useSession.getState()
  const bars = schedule?.bars.filter((b) => !b.retraced && selection.cues.includes(b.cue)) ?? []
  const nodes = [...new Set(bars.flatMap((b) => b.targets ?? []))]
  if (!core || nodes.length === 0) return
  const ways = core.ask<Ways>({ ask: 'ways', nodes })
  const way = lastWay?.way ?? ways.ways?.find((w) => w.label === '+Z')
  if (!way) return
  useTransport.getState().seek(Math.max(...bars.map((b) => b.start + b.length)), true)
  addMove(kind, nodes, way, ways, lastWay?.distance ?? ways.distance)
}

const threadOf = (way: Way, ways: Ways) =>
  ways.thread
    ? {
        axes: 'own' as const,
        along: ways.thread.along,
        pivot: ways.thread.pivot,
        turns: ways.thread.turns,
        lead: ways.thread.lead,
      }
    : {
        axes: way.axes,
        along: way.along,
        pivot: way.pivot ?? (way.axes === 'own' ? ways.pivot : ([0, 0, 0] as const)),
        turns: 8,
        lead: 0.5,
      }

/** A second direction that a pull goes along at the same time. */
export interface Across {
  way: Way
  distance: number
}

export function addMove(kind: MoveKind, nodes: string[], way: Way, ways: Ways, distance: number, across?: Across) {
  const common = {
    targets: nodes,
    length: usual,
    easing: 'smooth' as const,
    of: ['pull', 'turn', 'unscrew', 'unscrewOut', 'route'].includes(kind) ? way.of : undefined,
  }
  lastWay = { way, distance }
  const second = across && { along: across.way.along, distance: across.distance }
  switch (kind) {
    case 'pull':
      return move(nodes, { ...common, kind, pull: { axes: way.axes, along: way.along, distance, across: second } })
    case 'turn':
      return move(nodes, {
        ...common,
        kind,
        turn: {
          axes: way.axes,
          about: way.along,
          pivot: way.pivot ?? (way.axes === 'own' ? ways.pivot : [0, 0, 0]),
          degrees: 90,
        },
      })
    case 'unscrew':
      return move(nodes, { ...common, of: ways.thread ? undefined : way.of, kind, unscrew: threadOf(way, ways) })
    case 'unscrewOut': {
      // several one after the other, each straight on where its thread ends
      const unscrew = threadOf(way, ways)
      const of = ways.thread ? undefined : way.of
      const stagger = nodes.length > 1 ? 300_000 : undefined
      const out: Omit<Cue, 'id'> = {
        ...common,
        of,
        kind: 'pull',
        offset: usual,
        length: 1_000_000,
        stagger,
        easing: 'out',
        pull: { axes: unscrew.axes, along: unscrew.along, distance: Math.max(distance, 20) },
      }
      return move(nodes, { ...common, of, kind: 'unscrew', stagger, unscrew }, out)
    }
    case 'route': {
      // out, then aside
      const aside = second ?? { along: way.along[1] === 0 && way.along[0] === 0 ? [0, 1, 0] : [0, 0, 1], distance }
      return move(nodes, {
        ...common,
        length: 2 * usual,
        kind,
        route: { axes: way.axes, legs: [{ along: way.along, distance }, aside], radius: Math.round(distance / 4) },
      })
    }
    case 'surface':
      return insert({ ...common, length: 1_000_000, kind, surface: { style: 'see-through' } })
    case 'vanish':
      return show(nodes, 0, 1)
    case 'fade':
      return insert({ ...common, length: 1_000_000, kind, fade: { to: 0.15 } })
    case 'tint':
      return insert({ ...common, length: 1_000_000, kind, tint: { colour: [0.62, 0.07, 0.03], amount: 0.8 } })
    case 'note':
      return insert({
        ...common,
        targets: nodes.slice(0, 1),
        length: 4_000_000,
        easing: 'linear',
        kind,
        note: {
          text: namesOf(useSession.getState().assembly, nodes.slice(0, 1)),
          at: seenNow(nodes[0]!) ?? ways.pivot,
        },
      })
  }
}

// spread pulls the picked parts apart with even gaps: ordered by place, or peeled
// in the order in which they were picked.
export function spread(nodes: string[], way: Way, distance: number, how: 'outermost' | 'gaps' | 'peel') {
  const { core, tell } = useSession.getState()
  try {
    const s = core!.ask<Spread>({
      ask: 'spread',
      nodes,
      along: way.world,
      distance,
      peel: how === 'peel',
      gap: how === 'gaps',
    })
    move(
      nodes,
      ...s.pulls.map((p) => ({
        targets: [p.node],
        kind: 'pull' as const,
        length: usual,
        easing: 'smooth' as const,
        pull: { axes: 'assembly' as const, along: s.along, distance: p.distance },
      })),
    )
  } catch (e) {
    tell(words(e))
  }
}

// show fades the picked parts to an opacity in no time, or softly.
export function show(nodes: string[], opacity: number, length: number) {
  return nodes.length > 0 && insert({ targets: nodes, length, easing: 'smooth', kind: 'fade', fade: { to: opacity } })
}

export function addCard() {
  const title = useSession.getState().doc?.title ?? ''
  const made = insert({ kind: 'card', length: 3_000_000, easing: 'linear', card: { title } })
  const cues = useSession.getState().doc?.steps.find((s) => s.cues?.some((c) => c.id === made))?.cues ?? []
  const card = cues.find((c) => c.id === made)
  const beside = cues.filter(
    (c) => card && c.id !== made && c.offset >= card.offset && c.offset < card.offset + card.length,
  )
  if (made && beside.length > 0)
    useSession.getState().inform('The card lies over what happens beside it.', {
      text: 'Let it begin after the card',
      run: () => void fulfil({ do: 'makeRoom', cueIds: [made] }),
    })
  return made
}

export function addOrbit() {
  return insert({ kind: 'orbit', length: 8_000_000, easing: 'linear', orbit: { about: [0, 1, 0], degrees: 360 } })
}

export function takeShot(camera: Camera) {
  const shots =
    useSession
      .getState()
      .doc?.steps.flatMap((s) => s.cues ?? [])
      .filter((c) => c.kind === 'shot').length ?? 0
  return insert({ kind: 'shot', length: usual, easing: 'smooth', shot: { name: `Shot ${shots + 1}`, camera } })
}
