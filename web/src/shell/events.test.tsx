// @vitest-environment jsdom
// What other pages and the workers do arrives, also what happened while the line was down.
import { act, renderHook } from '@testing-library/react'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { useLine } from '../api/line'
import type { Stand } from '../session/fakeServer'
import { add, closed, opened, pull, step } from '../session/fakePage'
import { usePresence } from '../session/presence'
import { useSession } from '../session/session'
import { useEvents } from './events'

class Source {
  static last: Source
  onopen: (() => void) | null = null
  onerror: (() => void) | null = null
  onmessage: ((m: { data: string }) => void) | null = null
  closed = false
  constructor(readonly url: string) {
    Source.last = this
  }
  close() {
    this.closed = true
  }
  say = (event: object) => act(() => this.onmessage!({ data: JSON.stringify(event) }))
}

let stand: Stand
const client = new QueryClient()
const behind = vi.spyOn(client, 'invalidateQueries')
const queries = () => behind.mock.calls.map(([what]) => what!.queryKey![0])
const s = () => useSession.getState()
const listen = (project: string | null = 'p') =>
  renderHook((id) => useEvents(id), {
    initialProps: project,
    wrapper: ({ children }) => <QueryClientProvider client={client}>{children}</QueryClientProvider>,
  })

beforeEach(async () => {
  vi.stubGlobal('EventSource', Source)
  stand = await opened()
  behind.mockClear()
})
afterEach(async () => {
  vi.useRealTimers()
  await closed()
  useLine.setState({ silent: false })
  usePresence.setState({ others: [] })
  vi.unstubAllGlobals()
})

test('an edit of somebody else comes in when it is told', async () => {
  listen()
  expect(Source.last.url).toBe('/api/projects/p/events')
  stand.other(add(pull('theirs')))
  Source.last.say({ kind: 'reveal', id: 'v', version: 1 })
  await vi.waitFor(() => expect(step().cues!.map((c) => c.id)).toEqual(['theirs']))
})

test('edits of another reveal are none of this page', async () => {
  listen()
  stand.other(add(pull('theirs')))
  Source.last.say({ kind: 'reveal', id: 'another', version: 1 })
  await new Promise((done) => setTimeout(done, 50))
  expect(step().cues ?? []).toEqual([])
})

test('what happened before the line stood is fetched, and everything when it stands again', async () => {
  stand.other({ op: 'setTitle', title: 'Before' })
  listen()
  act(() => Source.last.onopen!())
  await vi.waitFor(() => expect(s().doc!.title).toBe('Before'))
  expect(queries()).toEqual([])
  stand.other({ op: 'setTitle', title: 'Meanwhile' })
  stand.rearrange({ do: 'rename', node: 'cover', name: 'Lid' })
  act(() => Source.last.onopen!())
  await vi.waitFor(() => expect(s().doc!.title).toBe('Meanwhile'))
  await vi.waitFor(() => expect(s().assembly!.nodes.find((n) => n.id === 'cover')!.name).toBe('Lid'))
  expect(queries()).toEqual(['outputs', 'renewal'])
})

test('a line that is down is said after a while, and not when it comes back at once', () => {
  vi.useFakeTimers()
  listen()
  act(() => Source.last.onerror!())
  vi.advanceTimersByTime(1900)
  expect(useLine.getState().silent).toBe(false)
  act(() => Source.last.onerror!()) // it tries again, and that does not begin the time anew
  vi.advanceTimersByTime(200)
  expect(useLine.getState().silent).toBe(true)
  act(() => Source.last.onopen!())
  expect(useLine.getState().silent).toBe(false)
})

test('outputs and renewals are asked for again when they have changed', () => {
  listen()
  Source.last.say({ kind: 'output', id: 'o' })
  Source.last.say({ kind: 'renewal', id: 'r' })
  expect(queries()).toEqual(['outputs', 'renewal'])
})

test('others are where they say, until they go; this page is not one of them', () => {
  listen()
  const presence = { page: 'theirs', name: 'Mara', time: 5 }
  Source.last.say({ kind: 'presence', id: 'v', presence })
  expect(usePresence.getState().others).toMatchObject([{ name: 'Mara', reveal: 'v', time: 5 }])
  Source.last.say({ kind: 'presence', id: 'v', presence: { ...presence, time: 9 } })
  expect(usePresence.getState().others).toMatchObject([{ time: 9 }])
  Source.last.say({ kind: 'presence', id: 'v', presence: { ...presence, gone: true } })
  expect(usePresence.getState().others).toEqual([])
})

test('whoever leaves the project hears no more of it', () => {
  const page = listen()
  const source = Source.last
  page.rerender(null)
  expect(source.closed).toBe(true)
  expect(Source.last).toBe(source)
})
