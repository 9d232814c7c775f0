// @vitest-environment jsdom
// A renewal on the page: begun, stopped, and what came of it.
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { screen, waitFor } from '@testing-library/react'
import { userEvent } from '@testing-library/user-event'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { closed, opened, shown } from '../session/fakePage'
import { came, Renewal } from './Renewal'

let state: Record<string, unknown>
const asked: string[] = []

beforeEach(async () => {
  await opened()
  state = { state: 'none' }
  asked.length = 0
  vi.stubGlobal('fetch', async (request: Request) => {
    const path = new URL(request.url).pathname
    if (request.method === 'POST') {
      asked.push(path)
      state = path.endsWith('/stop')
        ? { id: 'n', state: 'cancelled', says: 'Stopped when one output had been made again.' }
        : { id: 'n', state: 'running', says: 'Making “Door” …' }
    }
    return new Response(JSON.stringify(state), { headers: { 'content-type': 'application/json' } })
  })
})
afterEach(closed)

const show = (due: number) =>
  shown(
    <QueryClientProvider client={new QueryClient()}>
      <Renewal due={due} label="Renew all that is out of date" />
    </QueryClientProvider>,
  )

test('it is begun and stopped, and says how far it came', async () => {
  show(2)
  await userEvent.click(await screen.findByRole('button', { name: 'Renew all that is out of date' }))
  await waitFor(() => expect(screen.getByRole('status').textContent).toBe('Making “Door” …'))
  expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Being renewed' }).disabled).toBe(true)
  await userEvent.click(screen.getByRole('button', { name: 'Stop' }))
  await waitFor(() =>
    expect(screen.getByRole('status').textContent).toBe('Stopped when one output had been made again.'),
  )
  expect(screen.queryByRole('button', { name: 'Stop' })).toBeNull()
  expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Renew all that is out of date' }).disabled).toBe(false)
  expect(asked).toEqual(['/api/projects/p/renewals', '/api/renewals/n/stop'])
})

test('where nothing is out of date there is nothing to press', async () => {
  show(0)
  await waitFor(() => expect(screen.queryByRole('button')).toBeNull())
})

test('what a renewal has come to is said in one sentence', () => {
  expect(came({ made: 3, failed: 0, changed: 1, faults: 0 })).toBe('3 made again, 1 looks otherwise, no fault is open.')
  expect(came({ made: 1, failed: 0, changed: 0, faults: 1 })).toBe(
    '1 made again, none look otherwise, one fault is open.',
  )
  expect(came({ made: 2, failed: 1, changed: 2, faults: 4 })).toBe(
    '2 made again, 2 look otherwise, 1 could not be made, 4 faults are open.',
  )
  expect(came({ made: 0, failed: 0, changed: 0, faults: 0 })).toBe('nothing was out of date, no fault is open.')
})
