// What the author's hand does, as operations that the core performs (core/compose). Here is only what is picked, where
// the playhead is and what the stage sees.
import { useAim } from './aim'
import { onStage } from './eye'
import type { Camera, Schemas, Step } from '../api/client'
import { words } from '../api/client'
import type { Composed, Offered } from '../core/core'
import { create } from 'zustand'
import { persist } from 'zustand/middleware'
import { namesOf, useSession } from './session'
import { useTransport } from './transport'

export type Operation = Omit<Schemas['Operation'], 'fresh'>
export type MoveKind =
  'pull' | 'turn' | 'unscrew' | 'unscrewOut' | 'route' | 'fade' | 'hide' | 'tint' | 'surface' | 'note'

export const newId = (what: string) => `${what}-${crypto.randomUUID().slice(0, 8)}`

/** perform has the core make one command of an operation, carries it out, and selects what is new. */
export function perform(operation: Operation): Composed | null {
  const { core, run, select, tell } = useSession.getState()
  if (!core) return null
  try {
    const done = core.ask('compose', { ...operation, fresh: newId('new') })
    if (!run(done.command)) return null
    if (done.made) select({ cues: done.made })
    else if (done.step) select({ step: done.step })
    return done
  } catch (e) {
    tell(sentence(words(e)))
    return null
  }
}

// sentence is what the core says as a sentence of its own.
export const sentence = (text: string) =>
  `${text.charAt(0).toUpperCase()}${text.slice(1)}${/[.!?]$/.test(text) ? '' : '.'}`

/** performHere is perform at the playhead. */
export const performHere = (operation: Operation) => perform({ ...operation, time: useTransport.getState().time })

// How moves are made, remembered by the browser: with a shot that follows them, and whether the playhead goes on
// to their end, so that the next one begins there.
interface Habits {
  shot: boolean
  onward: boolean
}

export const useHabits = create<Habits>()(persist<Habits>(() => ({ shot: false, onward: true }), { name: 'habits' }))

/** Where a move goes, and how far; a second direction that it goes along at the same time, or, of a route, then. */
export interface Aim {
  way: Offered
  distance: number
  second?: { way: Offered; distance: number }
}

const directionOf = ({ axes, along, of, pivot }: Offered) => ({ axes, along, of, pivot })

// make performs what makes cues, and takes the playhead to them: to the end of a movement where that is wanted.
function make(operation: Operation, aim: Aim | null, nodes: readonly string[]): string | null {
  const { assembly, doc } = useSession.getState()
  const done = perform({
    ...operation,
    ...(aim && {
      way: directionOf(aim.way),
      distance: aim.distance,
      secondary: aim.second && { along: aim.second.way.along, distance: aim.second.distance },
    }),
    camera: useHabits.getState().shot ? (onStage()?.eyes.present() ?? doc!.opening.camera) : undefined,
    text: namesOf(assembly, operation.do === 'note' ? nodes.slice(0, 1) : nodes),
    point: operation.do === 'note' ? (onStage()?.finder.seen(nodes[0]!) ?? undefined) : undefined,
  })
  if (!done?.made) return null
  const bars = useSession.getState().schedule?.bars.filter((b) => done.made!.includes(b.cue) && !b.retraced) ?? []
  if (bars.length > 0)
    useTransport
      .getState()
      .seek(
        done.moves && useHabits.getState().onward
          ? Math.max(...bars.map((b) => b.start + b.duration))
          : Math.min(...bars.map((b) => b.start)),
      )
  return done.made[0]!
}

/** addMove makes a cue for picked parts at the playhead. */
export function addMove(kind: MoveKind, nodes: string[], aim: Aim): string | null {
  useAim.setState({ last: aim })
  return make({ do: kind, nodes, time: useTransport.getState().time }, aim, nodes)
}

/** again makes the next cue for the parts of the selected ones, right after these. */
export function again(kind: MoveKind) {
  const { selection, schedule } = useSession.getState()
  const bars = schedule?.bars.filter((b) => !b.retraced && selection.cues.includes(b.cue)) ?? []
  const nodes = [...new Set(bars.flatMap((b) => b.targets ?? []))]
  if (nodes.length === 0) return
  make({ do: kind, cueIds: [...selection.cues] }, useAim.getState().last, nodes)
}

/** spread pulls the picked parts apart: ordered by place, or peeled in the order in which they were picked. */
export function spread(nodes: string[], aim: Aim, how: 'outermost' | 'gaps' | 'peel') {
  const time = useTransport.getState().time
  make({ do: how === 'peel' ? 'peel' : 'spread', on: how === 'gaps', nodes, time }, aim, nodes)
}

export function addCard() {
  const done = performHere({ do: 'card', text: useSession.getState().doc?.title ?? '' })
  if (done?.beside)
    useSession.getState().inform('The card lies over what happens beside it.', {
      text: 'Let it begin after the card',
      run: () => void perform({ do: 'makeRoom', cueIds: done.made }),
    })
  return done?.made?.[0] ?? null
}

/** drive has the joint that picked parts are on go by a turn, run, or come to a stop. */
export const drive = (how: 'drive' | 'run' | 'halt', nodes: readonly string[]) =>
  performHere({ do: how, nodes: [...nodes] })

export const addOrbit = () => performHere({ do: 'orbit' })
export const takeShot = (camera: Camera) => performHere({ do: 'shot', camera })

// bare is a step without its cues, as setStep takes it: they stay, and so does the time it takes, unless it is changed.
export function bare(step: Step, change: Partial<Step>): Step {
  return { ...step, duration: 0, ...change, cues: undefined }
}
