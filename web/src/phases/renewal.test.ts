import { expect, test } from 'vitest'
import { came } from './Renewal'

test('what a renewal has come to is said in one sentence', () => {
  expect(came({ made: 3, failed: 0, changed: 1, faults: 0 })).toBe('3 made again, 1 looks otherwise, no fault is open.')
  expect(came({ made: 1, failed: 0, changed: 0, faults: 1 })).toBe(
    '1 made again, none look otherwise, one fault is open.',
  )
  expect(came({ made: 2, failed: 1, changed: 2, faults: 4 })).toBe(
    '2 made again, 2 look otherwise, 1 could not be made, 4 faults are open.',
  )
  expect(came({ made: 0, failed: 0, changed: 0, faults: 0 })).toBe('nothing was out of date, no fault is open.')
})
