// @vitest-environment jsdom
import { act, fireEvent, screen, waitFor } from '@testing-library/react'
import { userEvent } from '@testing-library/user-event'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { add, closed, opened, pull, shown } from '../session/fakePage'
import { useSession } from '../session/session'
import { PartsTree } from './PartsTree'

const s = () => useSession.getState()
const rows = () => screen.queryAllByRole('treeitem')
const names = () => rows().map((r) => r.getAttribute('aria-label'))
const row = (name: string) => rows().find((r) => r.getAttribute('aria-label')!.startsWith(name))!
const focused = () => waitFor(() => rows().indexOf(document.activeElement as HTMLElement))

// A head of two halves with a seal between them, and a foot.
const product = {
  name: 'Pump',
  nodes: [
    { id: '/', name: 'Pump', parent: -1, shape: -1 },
    { id: 'head', name: 'Head', parent: 0, shape: -1 },
    { id: 'front', name: 'Front half', parent: 1, shape: 0 },
    { id: 'seal', name: 'Seal', parent: 1, shape: 0 },
    { id: 'back', name: 'Back half', parent: 1, shape: 0 },
    { id: 'foot', name: 'Foot', parent: 0, shape: 0 },
  ].map((n) => ({ ...n, pose: { move: [0, 0, 0], turn: [0, 0, 0, 1] }, ...(n.shape < 0 ? {} : { finishes: [0] }) })),
  shapes: [{ hash: '0'.repeat(64), triangles: 12, submeshes: 1, min: [0, 0, 0], max: [1, 1, 1] }],
  finishes: [{ name: 'Steel', colour: [0.5, 0.5, 0.5], metalness: 1, roughness: 0.5, opacity: 1 }],
}

beforeEach(async () => {
  // jsdom lays nothing out: the list is as high as it says here.
  vi.spyOn(Element.prototype, 'clientHeight', 'get').mockReturnValue(600)
  vi.spyOn(Element.prototype, 'clientWidth', 'get').mockReturnValue(260)
  await opened(product as never)
})
afterEach(async () => {
  await closed()
  vi.restoreAllMocks()
})

/** tree shows the tree with its group open: below the whole, groups are closed until somebody opens them. */
async function tree(coverage = false) {
  shown(<PartsTree coverage={coverage} />)
  expect(names()).toEqual([
    expect.stringMatching(/^Pump/),
    expect.stringMatching(/^Head.*collapsed$/),
    expect.stringMatching(/^Foot/),
  ])
  await userEvent.click(screen.getByRole('button', { name: 'Open' }))
}

test('groups say how many parts are in them, and parts what they are called', async () => {
  await tree()
  expect(names()).toEqual([
    'Pump, 4 parts, expanded',
    'Head, 3 parts, expanded',
    'Front half',
    'Seal',
    'Back half',
    'Foot',
  ])
  expect(rows().map((r) => r.getAttribute('aria-level'))).toEqual(['1', '2', '3', '3', '3', '2'])
})

test('a click picks, Ctrl adds, Shift takes everything between', async () => {
  await tree()
  const user = userEvent.setup()
  await user.click(row('Front half'))
  expect(s().selection.nodes).toEqual(['front'])
  await user.keyboard('{Shift>}')
  await user.click(row('Foot'))
  expect(s().selection.nodes).toEqual(['front', 'seal', 'back', 'foot'])
  await user.keyboard('{/Shift}{Control>}')
  await user.click(row('Seal'))
  expect(s().selection.nodes).toEqual(['front', 'back', 'foot'])
  expect(row('Seal').getAttribute('aria-selected')).toBe('false')
  expect(row('Foot').getAttribute('aria-selected')).toBe('true')
})

test('a group that is closed hides what is in it, and opens for what is picked elsewhere', async () => {
  await tree()
  await userEvent.click(screen.getAllByRole('button', { name: 'Close' })[1]!)
  expect(names()).toEqual(['Pump, 4 parts, expanded', 'Head, 3 parts, collapsed', 'Foot'])
  act(() => s().select({ nodes: ['seal'] }))
  await waitFor(() => expect(row('Seal')).toBeTruthy())
})

test('arrows go through the tree, open and close, and Enter picks', async () => {
  await tree()
  act(() => rows()[0]!.focus())
  const press = async (key: string) => {
    fireEvent.keyDown(document.activeElement!, { key })
    await act(() => new Promise((done) => requestAnimationFrame(done)))
  }
  await press('ArrowDown')
  expect(await focused()).toBe(1)
  await press('ArrowLeft')
  expect(names()[1]).toBe('Head, 3 parts, collapsed')
  await press('ArrowRight')
  expect(names()[1]).toBe('Head, 3 parts, expanded')
  await press('ArrowRight')
  expect(await focused()).toBe(2)
  await press('ArrowLeft')
  expect(await focused()).toBe(1)
  await press('End')
  expect(await focused()).toBe(5)
  await press('ArrowDown')
  expect(await focused(), 'it stops at the end').toBe(5)
  await press('Enter')
  expect(s().selection.nodes).toEqual(['foot'])
  await press('Home')
  expect(await focused()).toBe(0)
})

test('one row is where Tab stops: where the focus was last, else what is picked, else the first', async () => {
  shown(<PartsTree />)
  const stops = () => rows().filter((r) => r.tabIndex === 0)
  expect(stops()).toEqual([row('Pump')])
  act(() => s().select({ nodes: ['foot'] }))
  expect(stops()).toEqual([row('Foot')])
  act(() => row('Head').focus())
  expect(stops()).toEqual([row('Head')])
})

test('letters with Shift go to a part by its name, and alone they are left to the page', async () => {
  await tree()
  act(() => rows()[0]!.focus())
  expect(fireEvent.keyDown(rows()[0]!, { key: 's' })).toBe(true)
  expect(fireEvent.keyDown(rows()[0]!, { key: 'S', shiftKey: true })).toBe(false)
  await waitFor(() => expect(document.activeElement).toBe(row('Seal')))
})

test('the search finds by all words, in groups that are closed too', async () => {
  shown(<PartsTree />)
  await userEvent.type(screen.getByRole('searchbox'), 'half fr')
  expect(names()).toEqual(['Front half'])
  await userEvent.clear(screen.getByRole('searchbox'))
  await userEvent.type(screen.getByRole('searchbox'), 'flange')
  expect(rows()).toEqual([])
  expect(screen.getByRole('status').textContent).toMatch(/No part is called “flange”/)
})

test('what is put out of sight says so, with everything below it, and comes back', async () => {
  await tree()
  act(() => s().hide(['head']))
  expect(row('Seal').getAttribute('aria-label')).toBe('Seal, hidden')
  expect(row('Foot').getAttribute('aria-label')).toBe('Foot')
  await userEvent.click(screen.getByRole('button', { name: /show all/ }))
  expect(s().hidden).toEqual([])
})

test('parts that no cue has touched are told, and picked together', async () => {
  await tree(true)
  expect(screen.getByText(/4 parts no cue has touched yet/)).toBeTruthy()
  act(() => void s().run(add(pull('a', { targets: ['head'] }))))
  expect(row('Seal').getAttribute('aria-label')).toBe('Seal')
  expect(row('Foot').getAttribute('aria-label')).toBe('Foot, no cue has touched it')
  await userEvent.click(screen.getByRole('button', { name: /1 part no cue has touched yet/ }))
  expect(s().selection.nodes).toEqual(['foot'])
  act(() => void s().run(add(pull('b', { targets: ['foot'] }))))
  expect(screen.getByRole('button', { name: /Every part is touched/ })).toHaveProperty('disabled', true)
})
