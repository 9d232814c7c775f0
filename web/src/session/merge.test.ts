import { expect, test, vi } from 'vitest'
import type { Bar, RevealDocument, Schedule, Step } from '../api/client'
import { merged } from './merge'

const bar = (cue: string, start: number): Bar => ({
  cue,
  kind: 'pull',
  targets: ['a'],
  start,
  duration: 5,
  step: 's',
  label: '',
})
const step = (id: string, length: number): Step => ({ id, title: id, duration: length })
const doc = { title: 'x', steps: [step('s', 10), step('t', 10)] } as unknown as RevealDocument
const schedule = {
  duration: 20,
  frames: 1,
  bars: [bar('1', 0), bar('2', 3)],
  steps: [
    { step: 's', start: 0, duration: 10, done: 8 },
    { step: 't', start: 10, duration: 10, done: 0 },
  ],
} as Schedule

test('all of it takes the place of what was there', () => {
  expect(merged({ doc: null, schedule: null }, { reveal: doc, schedule })).toEqual({ doc, schedule })
})

test('bars that have moved change nothing else', () => {
  const now = merged({ doc, schedule }, { bars: [{ index: 1, bar: bar('2', 7) }] })
  expect(now.doc).toBe(doc)
  expect(now.schedule!.bars.map((b) => b.start)).toEqual([0, 7])
  expect(now.schedule!.bars[0]).toBe(schedule.bars[0])
  expect(schedule.bars[1]!.start).toBe(3)
})

test('steps come with their spans', () => {
  const now = merged(
    { doc, schedule },
    {
      bars: [],
      steps: [{ index: 0, step: step('s', 12), span: { step: 's', start: 0, duration: 12, done: 9, fitting: 9 } }],
    },
  )
  expect(now.doc!.steps.map((s) => s.duration)).toEqual([12, 10])
  expect(now.schedule!.steps[0]!.done).toBe(9)
  expect(now.doc!.steps[1]).toBe(doc.steps[1])
})

test('without a document there is nothing to change', () => {
  expect(merged({ doc: null, schedule: null }, { bars: [{ index: 0, bar: bar('1', 1) }] })).toEqual({
    doc: null,
    schedule: null,
  })
})

test('where others are is remembered until they go, and forgotten when they are silent', async () => {
  vi.stubGlobal('location', { origin: 'http://localhost' })
  const { heard, usePresence } = await import('./presence')
  const { page } = await import('./me')
  vi.useFakeTimers()
  heard('v', { page: 'a', name: 'Mara', time: 5 })
  heard('v', { page: 'a', name: 'Mara', time: 9 })
  heard('v', { page, name: 'Me', time: 1 })
  expect(usePresence.getState().others.map((o) => [o.name, o.time])).toEqual([['Mara', 9]])
  heard('v', { page: 'b', name: 'Jo', time: 0 })
  heard('v', { page: 'b', name: 'Jo', time: 0, gone: true })
  expect(usePresence.getState().others.map((o) => o.name)).toEqual(['Mara'])
  vi.advanceTimersByTime(60_000)
  heard('v', { page: 'c', name: 'Ada', time: 2 })
  expect(usePresence.getState().others.map((o) => o.name)).toEqual(['Ada'])
  vi.useRealTimers()
})
