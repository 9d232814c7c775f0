import { expect, test } from 'vitest'
import { install } from '../session/fakeServer'
import { createSession } from '../session/session'
import { across, exactly, grouped, lasting, megabytes, seconds, written } from './written'

test('numbers are written with their units, and with a minus sign', () => {
  expect(written(12.5, 'length')).toBe('12.5 mm')
  expect(written(-90, 'angle')).toBe('−90°')
  expect(written(1 / 3, 'plain')).toBe('0.33')
  expect(written(100, 'percent')).toBe('100 %')
  expect(written(1234.56, 'length', 0)).toBe('1235 mm')
})

test('times have all of their digits, so that they stand below one another', () => {
  expect(written(-1.5, 'time')).toBe('−1.50 s')
  expect(seconds(1_500_000)).toBe('1.50 s')
  expect(seconds(12_000_000, 1)).toBe('12.0 s')
})

test('what was measured has all of its digits: they say how exactly', () => {
  expect(exactly(106, 'length')).toBe('106.00 mm')
  expect(exactly(90, 'angle')).toBe('90.00°')
  expect(exactly(-0.0001, 'length', 3)).toBe('0.000 mm')
})

test('nothing is written as less than nothing by rounding', () => {
  expect(written(-0.001, 'length')).toBe('0 mm')
  expect(written(-0.001, 'time')).toBe('0.00 s')
})

test('the core writes the same numbers on its bars', async () => {
  await install()
  const s = createSession()
  await s.getState().openProject('p')
  await s.getState().openReveal('v')
  for (const [k, distance] of [12.5, 0.333, -40, 1234.567, 7, -0.001].entries()) {
    s.getState().core!.apply({
      op: 'insertCue',
      stepId: 's1',
      index: 0,
      cue: {
        id: `c${k}`,
        kind: 'pull',
        targets: ['cover'],
        offset: 0,
        duration: 1_000_000,
        easing: 'smooth',
        pull: { axes: 'own', along: [0, 0, 1], distance },
      },
    })
    const bars = s.getState().core!.settle().schedule!.bars
    expect(bars.find((b) => b.cue === `c${k}`)!.label).toBe(written(distance, 'length'))
  }
  s.getState().close()
})

test('sizes and times are written in few digits to be read', () => {
  expect([300, 4_600, 4_600_000, 21_252_364].map(megabytes)).toEqual(['1 kB', '5 kB', '4.6 MB', '21 MB'])
  expect([0.4, 79, 150, 7200].map(lasting)).toEqual(['a moment', '79 s', '3 minutes', '2.0 hours'])
  expect([0.25, 379.84, 1234].map(across)).toEqual(['0.25 mm', '380 mm', '1.23 m'])
  expect([grouped(12345.678), grouped(12), grouped(0.256, 2)]).toEqual(['12,345.7', '12', '0.26'])
})
