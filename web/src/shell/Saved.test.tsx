// @vitest-environment jsdom
// What the header says of what is stored, and what it takes back.
import { act, screen, waitFor } from '@testing-library/react'
import { userEvent } from '@testing-library/user-event'
import { Profiler } from 'react'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { useLine } from '../api/line'
import { add, closed, cue, opened, pull, saved, shown } from '../session/fakePage'
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { RevealMenu } from './RevealMenu'
import { RevealHistory, Saved } from './Saved'

const s = () => useSession.getState()
const button = (name: string) => screen.getByRole<HTMLButtonElement>('button', { name })

beforeEach(async () => {
  await opened()
})
afterEach(async () => {
  useLine.setState({ silent: false, again: 0 })
  await closed()
})

test('it says whether everything is stored, and whether the server answers', async () => {
  shown(<Saved />)
  const says = () => screen.getByRole('status').textContent
  expect(says()).toBe('Saved')
  act(() => useLine.setState({ silent: true }))
  expect(says()).toBe('Saved, but the server does not answer')
  act(() => useLine.setState({ silent: false, again: 2 }))
  expect(says()).toBe('Saved')
  act(() => void s().run(add(pull('a'))))
  expect(says()).toBe('Not saved yet: the server does not answer')
  act(() => useLine.setState({ again: 0 }))
  await waitFor(() => expect(says()).toBe('Saved'))
})

test('what was done is taken back', async () => {
  shown(<RevealHistory />)
  expect(button('Undo').disabled).toBe(true)
  expect(button('Redo').disabled).toBe(true)
  act(() => void s().run(add(pull('a'))))
  expect(button('Undo').disabled).toBe(false)
  await saved()
  await userEvent.click(button('Undo'))
  await waitFor(() => expect(cue('a')).toBeUndefined())
})

test('the reveal is named, and the only one cannot be deleted', async () => {
  shown(<RevealMenu project="p" phase="direct" onVersions={() => {}} />)
  act(() => void s().run({ op: 'setTitle', title: 'Service' }))
  await userEvent.click(screen.getByRole('button', { name: /Service/ }))
  const last = await screen.findByRole('menuitem', { name: 'Delete this one' })
  expect(last.getAttribute('aria-disabled')).toBe('true')
})

test('nothing of it is drawn anew when parts are picked, or time goes by', () => {
  const drawn = vi.fn()
  shown(
    <Profiler id="header" onRender={drawn}>
      <RevealMenu project="p" phase="direct" onVersions={() => {}} />
      <RevealHistory />
      <Saved />
    </Profiler>,
  )
  const before = drawn.mock.calls.length
  expect(before).toBeGreaterThan(0)
  act(() => s().select({ nodes: ['screw'] }))
  act(() => useTransport.getState().seek(500_000))
  expect(drawn).toHaveBeenCalledTimes(before)
})
