// @vitest-environment jsdom
// Bars are moved and stretched by hand and by keys; what is seen while they are held is what stands afterwards.
import { act, fireEvent, screen } from '@testing-library/react'
import { afterEach, beforeEach, expect, test } from 'vitest'
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { add, closed, cue, opened, pull, saved, shown, step } from '../session/fakePage'
import { BarView } from './BarView'
import { useDrag } from './drag'
import { snapEdges, snapTo, useTimelineView } from './view'

const px = 1 / 10_000 // a second is 100 pixels
const s = () => useSession.getState()

function Bars() {
  const bars = useSession((x) => x.schedule?.bars) ?? []
  const picked = useSession((x) => x.selection.cues)
  const drag = useDrag(px)
  return bars.map((bar) => (
    <BarView
      key={bar.cue}
      bar={bar}
      px={px}
      top={0}
      color="white"
      picked={picked.includes(bar.cue)}
      stop
      step={1}
      drag={drag}
    />
  ))
}

const bar = (id: string) => document.querySelector<HTMLElement>(`[data-cue="${id}"]`)!
const grip = (id: string, edge: 'start' | 'end') =>
  [...bar(id).querySelectorAll<HTMLElement>('span.absolute')].at(edge === 'start' ? -2 : -1)!
const take = (e: Element, more = {}) => fireEvent.pointerDown(e, { button: 0, clientX: 0, ...more })
const move = (x: number, more = {}) => fireEvent.pointerMove(window, { clientX: x, ...more })
const drop = () => fireEvent.pointerUp(window)
const times = (id: string) => [cue(id).offset, cue(id).duration]
const at = (e: HTMLElement) => [parseFloat(e.style.left), parseFloat(e.style.width)]

beforeEach(async () => {
  await opened()
  s().run(add(pull('a')), add(pull('b', { offset: 1_000_000, duration: 500_000 })))
  useTransport.setState({ time: 1_900_000 })
  shown(<Bars />)
})
afterEach(closed)

test('a bar says what it is, when it runs, and whether it is selected', () => {
  expect(bar('a').getAttribute('aria-label')).toBe('Pull 10 mm, cover, 0.00 s to 1.00 s, step 1')
  act(() => void s().run({ op: 'setCue', cue: { ...cue('a'), muted: true } }))
  act(() => s().select({ cues: ['a'] }))
  expect(bar('a').getAttribute('aria-label')).toBe('Pull 10 mm, cover, 0.00 s to 1.00 s, step 1, muted, selected')
  expect(bar('a').getAttribute('aria-pressed')).toBe('true')
})

test('a bar is dragged to a frame, and nothing is stored before it is let go', async () => {
  take(bar('a'))
  move(23) // 0.23 s: the nearest frame is 0.2333 s
  expect(at(bar('a')).map(Math.round)).toEqual([23, 100])
  expect(times('a')).toEqual([0, 1_000_000])
  drop()
  expect(times('a')).toEqual([233_333, 1_000_000])
  expect(s().held.size).toBe(0)
  await saved()
})

test('with Alt it is dragged between frames', () => {
  take(bar('a'))
  move(23, { altKey: true })
  drop()
  expect(times('a')[0]).toBe(230_000)
})

test('it snaps to where others end, and to the playhead', () => {
  take(bar('a'))
  move(47) // its end comes near the end of b
  drop()
  expect(times('a')[0]).toBe(500_000)
  take(bar('a'))
  move(36) // its end comes near the playhead, from 1.5 s to 1.9 s
  drop()
  expect(times('a')[0]).toBe(900_000)
})

test('an end is stretched, and the other one stays', () => {
  take(grip('a', 'end'))
  move(-30)
  drop()
  expect(times('a')).toEqual([0, 700_000])
  take(grip('b', 'start'))
  move(-20, { altKey: true })
  drop()
  expect(times('b')).toEqual([800_000, 700_000])
})

test('Escape lets it lie where it was', () => {
  take(bar('a'))
  move(50)
  fireEvent.keyDown(window, { key: 'Escape' })
  expect(times('a')).toEqual([0, 1_000_000])
  expect(at(bar('a'))).toEqual([0, 100])
  move(90) // nobody holds it any more
  drop()
  expect(times('a')).toEqual([0, 1_000_000])
})

test('a hand that trembles clicks; a click selects, and Ctrl adds and takes away', () => {
  take(bar('a'))
  move(2)
  drop()
  expect(s().selection.cues).toEqual(['a'])
  expect(times('a')[0]).toBe(0)
  take(bar('b'), { ctrlKey: true })
  drop()
  expect(s().selection.cues).toEqual(['a', 'b'])
  take(bar('a'), { ctrlKey: true })
  drop()
  expect(s().selection.cues).toEqual(['b'])
})

test('what is selected is dragged together', () => {
  act(() => s().select({ cues: ['a', 'b'] }))
  take(bar('a'))
  move(10, { altKey: true })
  drop()
  expect([times('a')[0], times('b')[0]]).toEqual([100_000, 1_100_000])
  expect(s().selection.cues).toEqual(['a', 'b'])
})

test('by keys: frames and seconds, earlier, later, shorter and longer', () => {
  const press = (key: string, more = {}) => fireEvent.keyDown(bar('b'), { key, altKey: true, ...more })
  press('ArrowRight')
  expect(times('b')[0]).toBe(1_033_333)
  press('ArrowLeft')
  expect(times('b')[0]).toBe(1_000_000)
  press('ArrowLeft', { ctrlKey: true })
  expect(times('b')[0]).toBe(0)
  press('ArrowRight', { shiftKey: true })
  expect(times('b')[1]).toBe(533_333)
  press('ArrowLeft', { shiftKey: true })
  expect(times('b')[1]).toBe(500_000)
  expect(times('a')).toEqual([0, 1_000_000])
})

test('Enter selects one, Space adds and takes away', () => {
  fireEvent.keyDown(bar('a'), { key: 'Enter' })
  fireEvent.keyDown(bar('b'), { key: ' ' })
  expect(s().selection.cues).toEqual(['a', 'b'])
  fireEvent.keyDown(bar('a'), { key: ' ' })
  expect(s().selection.cues).toEqual(['b'])
})

test('arrows go along a lane and to the nearest bar of the next', () => {
  const bars = s().schedule!.bars
  const lane = (...ids: string[]) => ({ bars: bars.filter((b) => ids.includes(b.cue)) }) as never
  const goes = (from: string, key: string) => {
    useTimelineView.setState({ at: null })
    fireEvent.keyDown(bar(from), { key })
    return useTimelineView.getState().at
  }
  useTimelineView.setState({ lanes: [lane('a', 'b')] })
  expect(goes('a', 'ArrowRight')).toBe('b')
  expect(goes('b', 'Home')).toBe('a')
  expect(goes('a', 'ArrowLeft')).toBeNull()
  useTimelineView.setState({ lanes: [lane('a'), lane('b')] })
  expect(goes('a', 'ArrowDown')).toBe('b')
  expect(goes('b', 'ArrowUp')).toBe('a')
  expect(goes('a', 'ArrowRight')).toBeNull()
})

test('a double click takes the playhead to where the bar begins', () => {
  fireEvent.doubleClick(bar('b'))
  expect(useTransport.getState().time).toBe(1_000_000)
})

test('the right button opens what fits the bar', () => {
  fireEvent.contextMenu(bar('a'))
  expect(step().cues).toHaveLength(2)
})

test('edges are those of the others, of steps, markers and the playhead', () => {
  act(
    () =>
      void s().run({
        op: 'setStep',
        step: { ...step(), cues: undefined, markers: [{ offset: 700_000, text: 'Here' }] },
      }),
  )
  expect(new Set(snapEdges(new Set(['a'])))).toEqual(new Set([1_900_000, 1_000_000, 1_500_000, 0, 2_000_000, 700_000]))
  expect(snapTo(703_000, [700_000, 705_000], 5000)).toBe(705_000)
  expect(snapTo(710_001, [700_000, 705_000], 5000)).toBeNull()
  expect(screen.queryByRole('menu')).toBeNull()
})
