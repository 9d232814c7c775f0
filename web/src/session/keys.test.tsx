// @vitest-environment jsdom
// Each shortcut does what the list says, and none does anything while somebody types.
import { fireEvent, renderHook } from '@testing-library/react'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { add, closed, cue, opened, pull, saved, step } from './fakePage'
import { shortcuts, useKeys } from './keys'
import type { Phase } from './route'
import { useSession } from './session'
import { useTransport } from './transport'

const s = () => useSession.getState()
const time = () => useTransport.getState().time
const [find, help] = [vi.fn(), vi.fn()]

/** press presses keys as they are written in the list: “Ctrl Shift Z”. */
function press(keys: string, at: Element = document.body): boolean {
  const words = keys.split(' ')
  const named: Record<string, string> = {
    Space: ' ',
    '←': 'ArrowLeft',
    '→': 'ArrowRight',
    Del: 'Delete',
    Esc: 'Escape',
  }
  const last = words.at(-1)!
  return fireEvent.keyDown(at, {
    key: named[last] ?? (last.length === 1 ? last.toLowerCase() : last),
    ctrlKey: words.includes('Ctrl'),
    shiftKey: words.includes('Shift'),
    altKey: words.includes('Alt'),
  })
}

const inPhase = (phase: Phase | null) => renderHook(() => useKeys(phase, find, help))

beforeEach(async () => {
  await opened()
  find.mockClear()
  help.mockClear()
  document.body.replaceChildren()
})
afterEach(closed)

test('no two shortcuts of a phase are the same keys', () => {
  for (const phase of ['prepare', 'direct', 'proof', 'release'] as const) {
    const keys = shortcuts.filter((x) => (x.phases ?? ['direct']).includes(phase)).map((x) => x.keys)
    expect(keys).toEqual([...new Set(keys)])
  }
})

test('the playhead goes by frames and seconds, to the ends, and not beyond', () => {
  inPhase('direct')
  press('→')
  expect(time()).toBe(33_333)
  press('→')
  expect(time()).toBe(66_667)
  press('←')
  expect(time()).toBe(33_333)
  press('Shift →')
  expect(time()).toBe(1_033_333)
  press('End')
  expect(time()).toBe(2_000_000)
  press('→')
  expect(time()).toBe(2_000_000)
  press('Home')
  expect(time()).toBe(0)
  press('Shift ←')
  expect(time()).toBe(0)
})

test('cues are muted, turned round, duplicated, copied and deleted', async () => {
  s().run(add(pull('a')))
  s().select({ cues: ['a'] })
  inPhase('direct')
  press('O')
  expect(cue('a').muted).toBe(true)
  press('O')
  expect(cue('a').muted).toBeUndefined()
  press('R')
  expect(cue('a').pull!.distance).toBe(-10)
  press('Ctrl D')
  expect(step().cues).toHaveLength(2)
  press('Ctrl C')
  useTransport.getState().seek(500_000)
  press('Ctrl V')
  expect(step().cues).toHaveLength(3)
  expect(s().selection.cues).toHaveLength(1)
  expect(cue(s().selection.cues[0]!).offset).toBe(500_000)
  press('Del')
  expect(step().cues).toHaveLength(2)
  await saved()
})

test('steps are added, split and marked where the playhead stands', () => {
  inPhase('direct')
  useTransport.getState().seek(800_000)
  press('J')
  expect(step().markers).toEqual([{ offset: 800_000, text: 'Marker 1' }])
  press('K')
  expect(s().doc!.steps.map((x) => x.duration)).toEqual([800_000, 1_200_000])
  press('Shift Enter')
  expect(s().doc!.steps).toHaveLength(3)
  expect(s().selection.step).toBeTruthy()
})

test('undo and redo, of the reveal in Direct and of the parts in Prepare', async () => {
  const direct = inPhase('direct')
  s().run(add(pull('a')))
  await saved()
  press('Ctrl Z')
  await vi.waitFor(() => expect(step().cues ?? []).toEqual([]))
  direct.unmount()
  const undoArrange = vi.fn(async () => true)
  const before = s().undoArrange
  useSession.setState({ undoArrange })
  inPhase('prepare')
  press('Ctrl Z')
  expect(undoArrange).toHaveBeenCalledOnce()
  useSession.setState({ undoArrange: before })
})

test('a move without anything picked is explained', () => {
  inPhase('direct')
  press('P')
  expect(s().message).toMatch(/Nothing is picked/)
})

test('a selected cue is followed by the next one of the same parts', () => {
  s().run(add(pull('a', { duration: 500_000 })))
  s().select({ cues: ['a'] })
  inPhase('direct')
  press('P')
  const [made] = s().selection.cues
  expect(made).not.toBe('a')
  expect(cue(made!)).toMatchObject({ kind: 'pull', targets: ['cover'], offset: 500_000 })
})

test('parts are hidden and shown again, and the pick grows, in Prepare as in Direct', () => {
  for (const phase of ['prepare', 'direct'] as const) {
    const { unmount } = inPhase(phase)
    s().select({ nodes: ['cover'] })
    press('X')
    expect(s().hidden).toEqual(['cover'])
    press('Shift X')
    expect(s().hidden).toEqual([])
    s().select({ nodes: ['screw'] })
    press('G')
    expect(s().selection.nodes).toEqual(['/'])
    press('Esc')
    expect(s().selection.nodes).toEqual([])
    unmount()
  }
})

test('the timeline’s keys do nothing where there is no timeline', () => {
  inPhase('release')
  press('K')
  press('J')
  press('Shift Enter')
  expect(s().doc!.steps).toHaveLength(1)
  expect(step().markers).toBeUndefined()
})

test('what is typed into a field or a dialog is no shortcut; Find opens from everywhere', () => {
  document.body.innerHTML =
    '<input id="a"><textarea id="b"></textarea><div role="dialog"><p id="c" tabindex="0"></p></div>'
  inPhase('direct')
  for (const id of ['a', 'b', 'c']) {
    const at = document.getElementById(id)!
    expect(press('K', at), 'the key is left to the field').toBe(true)
    press('?', at)
    press('Ctrl K', at)
  }
  expect(s().doc!.steps).toHaveLength(1)
  expect(help).not.toHaveBeenCalled()
  expect(find).toHaveBeenCalledTimes(3)
  press('?')
  expect(help).toHaveBeenCalledOnce()
})

test('a focused button keeps Space for itself', () => {
  document.body.innerHTML = '<button id="a">Part</button>'
  inPhase('direct')
  press('Space', document.getElementById('a')!)
  expect(useTransport.getState().playing).toBe(false)
  press('Space')
  expect(useTransport.getState().playing).toBe(true)
  press('Space')
  expect(useTransport.getState().playing).toBe(false)
})

test('without a project only Find and the list of shortcuts work', () => {
  inPhase(null)
  press('→')
  expect(time()).toBe(0)
  press('?')
  press('Ctrl K')
  expect([help.mock.calls.length, find.mock.calls.length]).toEqual([1, 1])
})
