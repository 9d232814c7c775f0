// @vitest-environment jsdom
import { screen, waitFor, within } from '@testing-library/react'
import { userEvent } from '@testing-library/user-event'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { closed, opened, saved, shown } from '../session/fakePage'
import { shortcuts } from '../session/keys'
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { Find, Help } from './Find'

const gone = vi.fn()
const s = () => useSession.getState()
const hits = () => screen.getAllByRole('option').map((o) => o.textContent)

beforeEach(async () => {
  await opened()
  gone.mockClear()
  s().run({ op: 'insertStep', index: 1, step: { id: 's2', title: 'Second', duration: 1_000_000 } })
  await saved()
  shown(<Find open onClose={gone} />)
})
afterEach(closed)

test('everything has a name: commands with their keys, parts, steps', async () => {
  expect(document.activeElement).toBe(screen.getByRole('combobox'))
  await userEvent.keyboard('cover')
  expect(hits()).toEqual(['Partcover'])
  await userEvent.clear(screen.getByRole('combobox'))
  await userEvent.keyboard('playhead split')
  expect(hits()).toEqual(['CommandSplit at the playheadK'])
  expect(screen.getByRole('status').textContent).toBe('1 found')
})

test('what has just the name that is typed comes first', async () => {
  await userEvent.keyboard('second')
  expect(hits()[0]).toBe('Step2 Second')
  expect(hits().length).toBeGreaterThan(1) // “One second back”
})

test('a step that is found is selected, and the playhead goes there', async () => {
  await userEvent.keyboard('second{Enter}')
  expect(gone).toHaveBeenCalledOnce()
  await waitFor(() => expect(s().selection.step).toBe('s2'))
  expect(useTransport.getState().time).toBe(2_000_000)
})

test('a part that is found is picked', async () => {
  await userEvent.keyboard('screw{Enter}')
  await waitFor(() => expect(s().selection.nodes).toEqual(['screw']))
})

test('a command that is found is carried out', async () => {
  await userEvent.keyboard('to the end')
  const i = hits().findIndex((h) => h!.startsWith('CommandTo the end'))
  await userEvent.keyboard('{ArrowDown}'.repeat(i) + '{Enter}')
  await waitFor(() => expect(useTransport.getState().time).toBe(3_000_000))
})

test('arrows go through what was found and stop at its ends', async () => {
  const at = () => screen.getAllByRole('option').findIndex((o) => o.getAttribute('aria-selected') === 'true')
  await userEvent.keyboard('{ArrowUp}')
  expect(at()).toBe(0)
  await userEvent.keyboard('{ArrowDown}{ArrowDown}')
  expect(at()).toBe(2)
  expect(screen.getByRole('combobox').getAttribute('aria-activedescendant')).toBe('hit-2')
  await userEvent.keyboard('cover')
  expect(at(), 'another search begins at the top').toBe(0)
  await userEvent.keyboard('{ArrowDown}{ArrowDown}')
  expect(at()).toBe(0)
})

test('what is not there is said, and Enter does nothing', async () => {
  await userEvent.keyboard('gasket of lead{Enter}')
  expect(screen.getByRole('status').textContent).toBe('Nothing is called that.')
  expect(gone).not.toHaveBeenCalled()
})

test('the list of shortcuts has every one of them once', async () => {
  shown(<Help open onClose={gone} />)
  const list = within(screen.getByRole('dialog', { name: 'Shortcuts' }))
  for (const x of shortcuts) expect(list.getAllByText(x.text, { selector: 'dt' }), x.text).toHaveLength(1)
})
