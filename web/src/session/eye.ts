// Which eye the stage looks with, and the stage that is on the screen, for those who do not draw: keys, inspectors, what
// lies over the picture. The stage itself (stage/stage.ts) is put here by the view that holds it.
import { create } from 'zustand'
import type { Camera } from '../api/client'
import type { Vec3 } from '../core/core'
import { useSession } from './session'
import { frameAspect } from './shape'

export type Eye = 'mine' | 'shot'

/** What can be asked of the author's own eye on the stage. */
export interface OwnEye {
  /** The camera that it looks with. */
  present(): Camera
  lookFrom(camera: Camera): void
  orientation(): [number, number, number, number]
  isParallel(): boolean
  setParallel(on: boolean): void
  /** The line of sight through a place of the page, in the world: its origin and direction. */
  sightline(e: { clientX: number; clientY: number }): [Vec3, Vec3]
}

/** What lines of sight find on the stage. */
export interface OnSight {
  /** A point of a node that the shot at the playhead sees, in the node's own frame, mm. */
  seen(node: string): Vec3 | null
  /** Whether something stands before a point of a node, in its own frame. */
  hides(node: string, at: Vec3, slack: number, slackOf: number): boolean
  /** The part at a place of the page, and the point of it there, in the world. */
  at(e: { clientX: number; clientY: number }): { node: string; point: Vec3 } | null
  inBox(left: number, top: number, right: number, bottom: number): string[]
}

/** What can be asked of the stage on the screen. */
export interface OnStage {
  readonly eyes: OwnEye
  readonly finder: OnSight
  /** Where a point of the world is on it, in its pixels; null where it is not seen. */
  place(at: Vec3): readonly [number, number] | null
  width(): number
  pickAt(e: { clientX: number; clientY: number }, add: boolean): void
  pickBehind(): void
}

interface State {
  stage: OnStage | null
  eye: Eye
  /** Where the author's eye was when a stage went, for the next one in its place: by reveal. */
  left: ReadonlyMap<string, Camera>
}

export const useEye = create<State>(() => ({ stage: null, eye: 'mine', left: new Map() }))

export const onStage = () => useEye.getState().stage
export const setEye = (eye: Eye) => useEye.setState({ eye })

/** leaveEye keeps where the author's eye was in a reveal, for the stage that comes up next. */
export function leaveEye(revealId: string, camera: Camera) {
  useEye.setState((s) => ({ left: new Map(s.left).set(revealId, camera) }))
}

/** framed is a camera that has nodes in the frame, or all that shows, from where the stage looks or an orientation. */
export function framed(nodes: string[], parallel: boolean, orientation: readonly number[]): Camera | null {
  const { core, tell } = useSession.getState()
  try {
    return core!.ask('fit', {
      nodes,
      from: {
        target: [0, 0, 0],
        orientation: [...orientation],
        distance: 1,
        focalLength: 50,
        orthographic: parallel,
      },
      aspect: frameAspect(),
      margin: nodes.length > 0 ? 0.45 : 0.25,
    })
  } catch {
    tell('There is nothing to frame: everything is hidden at this moment.')
    return null
  }
}

/** comeClose brings nodes into the frame of the author's eye, from where it looks. */
export function comeClose(nodes: string[]) {
  const stage = onStage()
  if (!stage || nodes.length === 0) return
  const camera = framed(nodes, stage.eyes.isParallel(), stage.eyes.orientation())
  if (camera) stage.eyes.lookFrom(camera)
  setEye('mine')
}
