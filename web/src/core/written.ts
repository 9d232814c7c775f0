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
