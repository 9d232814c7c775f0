// @vitest-environment jsdom
// Words that are being written are never replaced, and never lost.
import { act, screen, waitFor } from '@testing-library/react'
import { userEvent } from '@testing-library/user-event'
import { useState } from 'react'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { closed, opened, shown } from '../session/fakePage'
import { useSession } from '../session/session'
import { Message } from '../shell/Message'
import { Words } from './Words'

const field = () => screen.getByRole<HTMLTextAreaElement>('textbox', { name: 'Title of step 1' })
const taken = vi.fn()
let theirs: (text: string) => void
let leave: () => void

function Title({ refuse, multiline, prose }: { refuse?: boolean; multiline?: boolean; prose?: boolean }) {
  const [value, set] = useState('Cover off')
  const [there, setThere] = useState(true)
  theirs = set
  leave = () => setThere(false)
  const take = (text: string) => {
    taken(text)
    if (refuse) return false
    set(text)
    return true
  }
  return (
    <>
      {there && <Words value={value} label="Title of step 1" onChange={take} multiline={multiline} prose={prose} />}
      <Message />
    </>
  )
}

beforeEach(async () => {
  taken.mockClear()
  await opened()
})
afterEach(closed)

test('Enter takes the words over, trimmed and on one line', async () => {
  shown(<Title />)
  await userEvent.clear(field())
  await userEvent.type(field(), '  Hood off {Enter}')
  expect(taken).toHaveBeenCalledExactlyOnceWith('Hood off')
  act(() => field().focus())
  await userEvent.paste('\nand on')
  expect(field().value).not.toContain('\n')
})

test('of several lines Enter makes one more, and Ctrl Enter takes them over', async () => {
  shown(<Title multiline />)
  await userEvent.clear(field())
  await userEvent.type(field(), 'One{Enter}Two{Control>}{Enter}{/Control}')
  expect(taken).toHaveBeenCalledExactlyOnceWith('One\nTwo')
})

test('Escape forgets what was written', async () => {
  shown(<Title />)
  await userEvent.type(field(), ' and away{Escape}')
  await waitFor(() => expect(document.activeElement).not.toBe(field()))
  expect(taken).not.toHaveBeenCalled()
  expect(field().value).toBe('Cover off')
})

test('what was only visited is not stored', async () => {
  shown(<Title />)
  await userEvent.click(field())
  await userEvent.tab()
  expect(taken).not.toHaveBeenCalled()
})

test('what others write meanwhile does not replace it; both are offered afterwards', async () => {
  shown(<Title />)
  await userEvent.type(field(), ' first')
  act(() => theirs('Lid off'))
  expect(field().value).toBe('Cover off first')
  await userEvent.keyboard('{Enter}')
  expect(taken).toHaveBeenLastCalledWith('Cover off first')
  expect(screen.getByRole('status').textContent).toMatch(/changed while you were writing.*“Lid off”/)
  await userEvent.click(screen.getByRole('button', { name: 'Take the other one' }))
  expect(taken).toHaveBeenLastCalledWith('Lid off')
  expect(screen.queryByRole('status'), 'the message leaves').toBeNull()
})

test('words whose place is gone are taken over when they go', async () => {
  shown(<Title />)
  await userEvent.type(field(), ' first')
  act(() => leave())
  expect(taken).toHaveBeenCalledExactlyOnceWith('Cover off first')
})

test('words that cannot be taken over are offered to be copied', async () => {
  userEvent.setup()
  useSession.getState().tell('Somebody else has deleted this step.')
  shown(<Title refuse />)
  await userEvent.type(field(), ' first{Enter}')
  expect(screen.getByRole('alert').textContent).toMatch(/deleted this step.*not lost: “Cover off first”/)
  await userEvent.click(screen.getByRole('button', { name: 'Copy it' }))
  expect(await navigator.clipboard.readText()).toBe('Cover off first')
})

test('prose reads at rest and is written with the focus', async () => {
  shown(<Title multiline prose />)
  expect(document.querySelector('textarea')).toBeNull()
  act(() => field().focus())
  await waitFor(() => expect(document.querySelector('textarea')).toBe(document.activeElement))
})
