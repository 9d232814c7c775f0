// Which eye the stage looks with, for the key that changes it.
let now: 'mine' | 'shot' = 'mine'
export const noteEye = (e: 'mine' | 'shot') => void (now = e)
export const eyeNow = () => now
