// @vitest-environment jsdom
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { closed, opened } from './fakePage'
import { useSession } from './session'
import { useTransport } from './transport'

const t = () => useTransport.getState()
let frames: FrameRequestCallback[] = []
/** pass lets pictures come, so many ms apart. */
const pass = (...ms: number[]) => {
  for (const by of ms) {
    now += by
    frames.splice(0).forEach((f) => f(now))
  }
}
let now = 0

beforeEach(async () => {
  await opened() // two seconds
  frames = []
  now = 1000
  vi.stubGlobal('requestAnimationFrame', (f: FrameRequestCallback) => frames.push(f))
})
afterEach(async () => {
  useTransport.setState({ playing: false })
  pass(0)
  vi.unstubAllGlobals()
  await closed()
})

test('it keeps real time: a slow picture drops frames', () => {
  t().toggle()
  pass(0, 16, 400)
  expect(t().time).toBe(416_000)
  t().toggle()
  pass(500)
  expect(t().time).toBe(416_000)
  t().toggle()
  pass(500, 20) // the first picture after a pause begins to count
  expect(t().time).toBe(436_000)
})

test('it stops at the end, and plays from the beginning when it is started there', () => {
  t().toggle()
  pass(0, 1500, 1500)
  expect([t().time, t().playing]).toEqual([2_000_000, false])
  t().toggle()
  expect([t().time, t().playing]).toEqual([0, true])
})

test('backwards it stops at the beginning', () => {
  t().seek(500_000)
  t().toggle(true)
  pass(0, 200)
  expect(t().time).toBe(300_000)
  pass(400)
  expect([t().time, t().playing]).toEqual([0, false])
  t().toggle(true)
  expect(t().time).toBe(2_000_000)
})

test('a change of direction while it plays goes on from where it is', () => {
  t().toggle()
  pass(0, 700)
  t().toggle(true)
  expect([t().playing, t().backwards]).toEqual([true, true])
  pass(200)
  expect(t().time).toBeLessThan(700_000)
})

test('at another speed and in a loop', () => {
  t().setSpeed(0.5)
  t().setSpan({ from: 500_000, to: 1_000_000 })
  expect(t().loop).toBe(true)
  t().seek(900_000)
  t().toggle()
  pass(0, 100)
  expect(t().time).toBe(950_000)
  pass(100)
  expect([t().time, t().playing], 'the loop begins anew').toEqual([500_000, true])
  t().seek(1_900_000)
  pass(10)
  expect(t().time, 'outside of the loop it goes into it').toBe(500_000)
  t().setLoop(false)
  t().setSpan(null)
  pass(100, 4000)
  expect([t().time, t().playing]).toEqual([2_000_000, false])
})

test('the playhead stays in the film, but where a cue is to make it longer', () => {
  t().seek(-5)
  expect(t().time).toBe(0)
  t().seek(9e9)
  expect(t().time).toBe(2_000_000)
  t().seek(2_500_000.4, true)
  expect(t().time).toBe(2_500_000)
})

test('a film without a step is not played', () => {
  useSession.getState().run({ op: 'removeStep', stepId: 's1' })
  t().toggle()
  expect(t().playing).toBe(false)
})
