// The shape of the frame that the stage shows: the reveal's own, or one that outputs have too. Nothing of it is recorded.
import { create } from 'zustand'
import type { RevealDocument } from '../api/client'
import { useSession } from './session'

/** A frame's width to its height, in lowest terms. */
export interface Shape {
  across: number
  down: number
}

export const shapes: readonly Shape[] = [
  [16, 9],
  [4, 3],
  [1, 1],
  [4, 5],
  [9, 16],
].map(([across, down]) => ({ across: across!, down: down! }))

export const nameOf = ({ across, down }: Shape) => `${across} : ${down}`

const ratio = ({ across, down }: Shape) => across / down

/** ownAspect is that of the reveal's own frame. */
export const ownAspect = (doc: RevealDocument | null) => (doc ? doc.frame.width / doc.frame.height : 16 / 9)

/** others are the shapes that are not the reveal's own. */
/** Whether two aspects are one shape (reveal.AlikeShapes): sizes are whole, even pixels. */
export const alike = (a: number, b: number) => Math.abs(a / b - 1) <= 0.004

export const others = (doc: RevealDocument) => shapes.filter((s) => !alike(ratio(s), ownAspect(doc)))

export const useShape = create<{ shape: Shape | null }>(() => ({ shape: null }))

/** frameAspect is that of the frame that the stage shows. */
export function frameAspect(): number {
  const { shape } = useShape.getState()
  return shape ? ratio(shape) : ownAspect(useSession.getState().doc)
}

export function show(shape: Shape | null) {
  useSession.getState().core?.shape(shape ? ratio(shape) : 0)
  useShape.setState({ shape })
}

// A reveal is opened in its own shape, and keeps it when its own becomes the one that is shown.
useSession.subscribe((s, before) => {
  const { shape } = useShape.getState()
  if (!shape) return
  if (s.revealId !== before.revealId || s.core !== before.core) useShape.setState({ shape: null })
  else if (s.doc && s.doc.frame !== before.doc?.frame && alike(ratio(shape), ownAspect(s.doc))) show(null)
})
