// @vitest-environment jsdom
// What is typed and ticked beside the stage is what stands in the document.
import { act, screen, waitFor, within } from '@testing-library/react'
import { userEvent } from '@testing-library/user-event'
import { afterEach, beforeEach, expect, test } from 'vitest'
import type { Stand } from '../session/fakeServer'
import { add, closed, cue, opened, pull, saved, shown, step } from '../session/fakePage'
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { Inspector } from './Inspector'

let stand: Stand
const s = () => useSession.getState()
const field = (label: string) => screen.getByLabelText<HTMLInputElement>(label)
const button = (name: string | RegExp) => screen.getByRole<HTMLButtonElement>('button', { name })
const press = (name: string | RegExp) => userEvent.click(button(name))
const write = async (label: string, text: string) => {
  await userEvent.click(field(label))
  await userEvent.keyboard(`{Control>}a{/Control}${text}{Enter}`)
}
const choose = async (label: string, option: string) => {
  await userEvent.click(screen.getByRole('combobox', { name: label }))
  await userEvent.click(await screen.findByRole('option', { name: option }))
}

beforeEach(async () => {
  stand = await opened()
})
afterEach(closed)

test('without anything selected it says what to do', () => {
  shown(<Inspector />)
  expect(screen.getByRole('region', { name: 'Inspector' }).textContent).toMatch(/Pick a part/)
})

test('a distance and a length that are typed are in the document, and stored', async () => {
  s().run(add(pull('a')))
  s().select({ cues: ['a'] })
  shown(<Inspector />)
  await write('Distance', '2*35')
  expect(cue('a').pull!.distance).toBe(70)
  await write('Lasts', '2.5')
  expect(cue('a').duration).toBe(2_500_000)
  await write('Starts', '0.5')
  expect(cue('a').offset).toBe(500_000)
  await write('Ends', '1.5')
  expect(cue('a').duration).toBe(1_000_000)
  await saved()
  expect(stand.document).toEqual(s().doc)
})

test('the easing is chosen, and one of its own begins as the one before', async () => {
  s().run(add(pull('a')))
  s().select({ cues: ['a'] })
  shown(<Inspector />)
  await choose('Easing', 'comes to rest')
  expect(cue('a').easing).toBe('out')
  await choose('Easing', 'a curve of its own')
  // ease-out of W3C CSS Easing Functions 1: cubic-bezier(0, 0, 0.58, 1)
  expect(cue('a').easing).toEqual([0, 0, 0.58, 1])
})

test('several cues have one field for each number: a change is one of each', async () => {
  s().run(add(pull('a')), add(pull('b', { pull: { axes: 'own', along: [0, 0, 1], distance: 30 } })))
  s().select({ cues: ['a', 'b'] })
  shown(<Inspector />)
  expect(screen.getByText('2 selected')).toBeTruthy()
  expect(field('Distance').value).toBe('several')
  await write('Distance', '*2')
  expect([cue('a').pull!.distance, cue('b').pull!.distance]).toEqual([20, 60])
  await write('Distance', '15')
  expect([cue('a').pull!.distance, cue('b').pull!.distance]).toEqual([15, 15])
  expect(field('Distance').value).toBe('15 mm')
})

test('cues of several kinds have in common when they are', async () => {
  s().run(add(pull('a')), add({ ...pull('b'), kind: 'fade', pull: undefined, fade: { to: 0.2 } }))
  s().select({ cues: ['a', 'b'] })
  shown(<Inspector />)
  expect(screen.getByRole('heading', { name: '2 cues' })).toBeTruthy()
  expect(screen.queryByLabelText('Distance')).toBeNull()
  await write('Lasts', '0.75')
  expect([cue('a').duration, cue('b').duration]).toEqual([750_000, 750_000])
})

test('cues are aligned, muted, turned round and deleted', async () => {
  s().run(add(pull('a')), add(pull('b', { offset: 400_000 })))
  s().select({ cues: ['a', 'b'] })
  shown(<Inspector />)
  await press('Align starts')
  expect([cue('a').offset, cue('b').offset]).toEqual([0, 0])
  await press('Twice as fast')
  expect([cue('a').duration, cue('b').duration]).toEqual([500_000, 500_000])
  await press('Mute')
  expect([cue('a').muted, cue('b').muted]).toEqual([true, true])
  await press('Unmute')
  expect([cue('a').muted, cue('b').muted]).toEqual([undefined, undefined])
  await press('Turn round')
  expect(cue('a').pull).toMatchObject({ distance: -10 })
  await press('Delete')
  expect(step().cues ?? []).toEqual([])
  expect(screen.getByRole('region', { name: 'Inspector' }).textContent).toMatch(/Pick a part/)
})

test('a fade is at once, or slowly again', async () => {
  s().run(add({ ...pull('a'), kind: 'fade', pull: undefined, fade: { to: 0.2 } }))
  s().select({ cues: ['a'] })
  shown(<Inspector />)
  await press('at once')
  expect(cue('a').duration).toBe(1)
  await press('slowly')
  expect(cue('a').duration).toBe(1_000_000)
  await write('Lasts', '0.02') // a frame lasts 0.033 s
  expect(button('slowly')).toBeTruthy()
})

test('what was picked last is added to what a cue acts on, and taken out again', async () => {
  s().run(add(pull('a')))
  s().select({ nodes: ['screw'] })
  s().select({ cues: ['a'] })
  shown(<Inspector />)
  await press(/^\+ pick/)
  expect(cue('a').targets).toEqual(['cover', 'screw'])
  expect(screen.getByText('2 targets')).toBeTruthy()
  await press(/^− pick/)
  expect(cue('a').targets).toEqual(['cover'])
})

test('a twin shows whose settings it shares, a change is one of both, and parted it has its own', async () => {
  s().run(add(pull('a')), add({ id: 'b', kind: 'pull', targets: ['screw'], offset: 1_000_000, twin: 'a' } as never))
  s().select({ cues: ['b'] })
  shown(<Inspector />)
  expect(screen.getByText(/Twin: shares the settings of cover/)).toBeTruthy()
  await write('Distance', '44')
  expect(cue('a').pull!.distance).toBe(44)
  expect(cue('b').pull).toBeUndefined()
  await press('Part')
  expect(cue('b').pull!.distance).toBe(44)
  await write('Distance', '11')
  expect([cue('a').pull!.distance, cue('b').pull!.distance]).toEqual([44, 11])
})

test('a step’s length, and as long as its cues', async () => {
  s().run(add(pull('a', { offset: 300_000 })))
  s().select({ step: 's1' })
  shown(<Inspector />)
  expect(screen.getByText('1 cue')).toBeTruthy()
  await write('Length', '4')
  expect(step().duration).toBe(4_000_000)
  await press('As long as its cues')
  expect(step().duration).toBe(1_300_000)
  expect(button('As long as its cues').disabled).toBe(true)
  await write('Length', '0.8')
  expect(screen.getByText(/The film ends 0.50 s before its cues do/)).toBeTruthy()
})

test('a step of half a second is as short as its cues make one', async () => {
  s().run(add(pull('a', { duration: 100_000 })))
  s().select({ step: 's1' })
  shown(<Inspector />)
  await press('As long as its cues')
  expect(step().duration).toBe(500_000)
  expect(button('As long as its cues').disabled).toBe(true)
})

test('a step is split, joined and duplicated, and time is put in', async () => {
  s().run(add(pull('a')))
  s().select({ step: 's1' })
  useTransport.getState().seek(1_200_000)
  shown(<Inspector />)
  await press('Split at the playhead')
  expect(s().doc!.steps.map((x) => x.duration)).toEqual([1_200_000, 800_000])
  act(() => s().select({ step: 's1' }))
  await press('Join the next')
  expect(s().doc!.steps.map((x) => x.duration)).toEqual([2_000_000])
  await write('Time to insert', '0.5')
  await press('Insert here')
  expect(step().duration).toBe(2_500_000)
  await write('Time to insert', '−0.5')
  await press('Take out here')
  expect(step().duration).toBe(2_000_000)
  await press('Duplicate')
  expect(s().doc!.steps).toHaveLength(2)
})

test('a retrace is by length or by speed, and lasts as long', async () => {
  s().run(add(pull('a')), {
    op: 'insertStep',
    index: 1,
    step: { id: 's2', title: 'Back', duration: 4_000_000, retrace: { steps: ['s1'], speed: undefined as never } },
  })
  s().select({ step: 's2' })
  shown(<Inspector />)
  await userEvent.click(screen.getByRole('radio', { name: 'By speed' }))
  expect(step(1).retrace!.speed).toBe(0.5)
  expect(s().schedule!.steps[1]!.duration).toBe(4_000_000)
  await write('Speed', '2')
  expect(s().schedule!.steps[1]!.duration).toBe(1_000_000)
  await userEvent.click(screen.getByRole('radio', { name: 'By length' }))
  expect(step(1).retrace!.speed ?? 0).toBe(0)
  expect(step(1).duration).toBe(1_000_000)
  await choose('Camera', 'stays')
  expect(step(1).retrace!.keepCamera).toBe(true)
})

test('what cannot be done is said, and the field shows what holds', async () => {
  s().select({ step: 's1' })
  shown(<Inspector />)
  await write('Length', '0.01')
  expect(step().duration).toBe(2_000_000)
  expect(s().message).toMatch(/tenth of a second|0\.1 s/)
  await waitFor(() => expect(field('Length').value).toBe('2.00 s'))
})

test('every field of a cue has a name', () => {
  s().run(add(pull('a')))
  s().select({ cues: ['a'] })
  shown(<Inspector />)
  const inspector = within(screen.getByRole('region', { name: 'Inspector' }))
  for (const e of [...inspector.queryAllByRole('textbox'), ...inspector.queryAllByRole('combobox')])
    expect(e.getAttribute('aria-label'), e.outerHTML.slice(0, 120)).toBeTruthy()
})
