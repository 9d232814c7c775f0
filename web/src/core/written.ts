// How numbers are written: one way for all of the page, and the core's for the same things (written.test.ts holds both
// together).
import type { Quantity } from './core'

const units: Record<Quantity, string> = { length: ' mm', angle: '°', time: ' s', percent: ' %', plain: '' }

// A minus sign is wider than a hyphen, and stands before no zero.
const minus = (text: string) => (Number(text) === 0 ? text.replace('-', '') : text.replace('-', '−'))

/** exactly is a quantity with its unit and all of its digits, which say how exactly it was measured. */
export const exactly = (value: number, quantity: Quantity, digits = 2) => minus(value.toFixed(digits)) + units[quantity]

/** written is a quantity with its unit: as many digits behind the point as it needs, up to so many; of a time all of them. */
export function written(value: number, quantity: Quantity, digits = 2): string {
  if (quantity === 'time') return exactly(value, quantity, digits)
  return minus(String(Number(value.toFixed(digits)))) + units[quantity]
}

/** seconds is a time of the film, µs, as it is read: “1.50 s”. */
export const seconds = (time: number, digits = 2) => written(time / 1e6, 'time', digits)

/** megabytes is the size of a file, to be read: “423 kB”, “4.2 MB”. */
export function megabytes(bytes: number): string {
  return bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`
}

/** lasting is a length of time as people say it: “a moment”, “6 s”, “11 minutes”. */
export function lasting(seconds: number): string {
  if (seconds < 2) return 'a moment'
  if (seconds < 90) return `${Math.round(seconds)} s`
  return seconds < 5400 ? `${Math.round(seconds / 60)} minutes` : `${(seconds / 3600).toFixed(1)} hours`
}

/** across is how large a thing is, mm, to be read: “380 mm”, “1.2 m”. */
export const across = (mm: number) =>
  mm >= 1000 ? `${Number((mm / 1000).toPrecision(3))} m` : `${Number(mm.toPrecision(3))} mm`

/** grouped is a bare number with its thousands apart: “12,345.6”. */
export const grouped = (value: number, digits = 1) => Number(value.toFixed(digits)).toLocaleString('en')
