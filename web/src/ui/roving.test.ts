import { expect, test } from 'vitest'
import { nextOf, typeAhead } from './roving'

let now = 0
/** type is a letter that is typed so many ms after the one before. */
const type = (key: string, after: number, more = {}) =>
  ({ key, timeStamp: (now += after), ...more }) as React.KeyboardEvent
const names = ['Foot', 'Front half', 'Seal', 'Screw', 'screw M4']

test('a letter goes to the next name that begins with it, around and around', () => {
  expect(typeAhead(type('s', 5000), names, 0)).toBe(2)
  expect(typeAhead(type('s', 5000), names, 2)).toBe(3)
  expect(typeAhead(type('S', 5000), names, 3)).toBe(4)
  expect(typeAhead(type('s', 5000), names, 4)).toBe(2)
})

test('letters that follow quickly are one word, which may be where one is', () => {
  expect(typeAhead(type('s', 5000), names, 0)).toBe(2)
  expect(typeAhead(type('c', 200), names, 2)).toBe(3)
  expect(typeAhead(type('r', 200), names, 3)).toBe(3)
  expect(typeAhead(type('x', 200), names, 3)).toBe(-1)
})

test('what is no letter is none', () => {
  for (const key of ['Enter', ' ', 'ArrowDown']) expect(typeAhead(type(key, 5000), names, 0)).toBe(-1)
  expect(typeAhead(type('s', 5000, { ctrlKey: true }), names, 0)).toBe(-1)
})

test('arrows stop at both ends', () => {
  const to = (key: string, at: number) => nextOf(type(key, 0), at, 3, 'ArrowUp', 'ArrowDown')
  expect([to('ArrowDown', 0), to('ArrowDown', 2), to('ArrowUp', 2), to('ArrowUp', 0)]).toEqual([1, 2, 1, 0])
  expect([to('Home', 2), to('End', 0), to('ArrowLeft', 1)]).toEqual([0, 2, -1])
})
