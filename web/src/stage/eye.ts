// The author's eye, for those who do not draw: which one the stage looks with, and what it sees.
import type { Camera } from '../api/client'

let now: 'mine' | 'shot' = 'mine'
export const noteEye = (e: 'mine' | 'shot') => void (now = e)
export const eyeNow = () => now

let present = (): Camera | undefined => undefined
export const noteView = (p: typeof present) => void (present = p)
export const viewNow = () => present()
