// The author's eye, for those who do not draw: which one the stage looks with, and what it sees.
import type { Camera } from '../api/client'
import type { Vec3 } from '../core/core'

let now: 'mine' | 'shot' = 'mine'
export const noteEye = (e: 'mine' | 'shot') => void (now = e)
export const eyeNow = () => now

let present = (): Camera | undefined => undefined
let seen: (node: string) => Vec3 | null = () => null
export function noteView(p: typeof present, s: typeof seen) {
  present = p
  seen = s
}
export const viewNow = () => present()

/** A point of a node that the shot at the playhead sees, in the node's own frame, mm. */
export const seenNow = (node: string) => seen(node)
