// @vitest-environment jsdom
// Where the author was outlives a reload of the page, and only that; others are told where we are.
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { api } from '../api/client'
import { setEye, useEye } from './eye'
import { add, closed, opened, pull, saved } from './fakePage'
import { announce } from './presence'
import { useSession } from './session'
import { useTransport } from './transport'
import { keepWhereabouts, resume, whereaboutsIn } from './whereabouts'

const s = () => useSession.getState()
const camera = { target: [1, 2, 3], orientation: [0, 0, 0, 1], distance: 400, focalLength: 50 } as never
const reloaded = (how: string) => vi.spyOn(performance, 'getEntriesByType').mockReturnValue([{ type: how } as never])
const leave = () => window.dispatchEvent(new Event('pagehide'))

beforeEach(async () => {
  sessionStorage.clear()
  await opened()
  s().run(add(pull('a')))
  await saved()
})
afterEach(async () => {
  vi.useRealTimers()
  vi.restoreAllMocks()
  setEye('mine')
  await closed()
})

test('after a reload playhead, eye and selection are where they were, once', () => {
  reloaded('reload')
  const forget = keepWhereabouts(() => camera)
  useTransport.getState().seek(700_000)
  s().select({ cues: ['a'] })
  setEye('shot')
  leave()
  forget()
  const was = whereaboutsIn('v')!
  expect(was).toMatchObject({ time: 700_000, camera, eye: 'shot' })
  useTransport.getState().seek(0)
  s().select({})
  resume(was)
  expect(useTransport.getState()).toMatchObject({ time: 700_000, playing: false })
  expect(s().selection.cues).toEqual(['a'])
  expect(whereaboutsIn('v')).toBeNull()
})

test('whoever comes by a link begins at the beginning', () => {
  reloaded('navigate')
  const forget = keepWhereabouts(() => camera)
  useTransport.getState().seek(700_000)
  leave()
  forget()
  expect(whereaboutsIn('v')).toBeNull()
})

test('what is gone meanwhile is left out', () => {
  resume({
    time: 9_000_000,
    selection: { nodes: ['cover', 'a part that is gone'], cues: ['a', 'gone'], step: 'gone', opening: false },
    eye: useEye.getState().eye,
  })
  expect(s().selection).toMatchObject({ nodes: ['cover'], cues: ['a'], step: null })
  expect(useTransport.getState().time, 'the film is shorter now').toBe(2_000_000)
})

test('others are told where we are when that has changed, now and then again, and that we go', () => {
  vi.useFakeTimers()
  const post = vi.spyOn(api, 'POST').mockResolvedValue({} as never)
  const told = () => (post.mock.calls as unknown as [string, { body: object }][]).map(([, { body }]) => body)
  const end = announce('v')
  expect(told()).toMatchObject([{ time: 0, name: 'Somebody' }])
  vi.advanceTimersByTime(5000)
  expect(told(), 'nothing has changed').toHaveLength(1)
  useTransport.getState().seek(500_000)
  s().select({ cues: ['a'] })
  vi.advanceTimersByTime(1000)
  expect(told()[1]).toMatchObject({ time: 500_000, selected: 'Pull' })
  vi.advanceTimersByTime(25_000)
  expect(told(), 'so that they do not forget us').toHaveLength(3)
  end()
  expect(told().at(-1)).toMatchObject({ gone: true })
  vi.advanceTimersByTime(60_000)
  expect(told()).toHaveLength(4)
})
