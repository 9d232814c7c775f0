import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { useLine } from './line'
import { patiently, upload } from './patient'

type Answer = number | 'nothing' | { status: number; after: string }
let answers: Answer[]
let asked: Request[]

const post = () => new Request('http://pump.test/api/things', { method: 'POST', body: '{}' })
const keys = () => asked.map((r) => r.headers.get('Idempotency-Key'))

beforeEach(() => {
  vi.useFakeTimers()
  asked = []
  vi.stubGlobal('fetch', async (what: Request | string, init?: RequestInit) => {
    asked.push(what instanceof Request ? what : new Request(new URL(what, 'http://pump.test'), init))
    const a = answers.shift() ?? 200
    if (a === 'nothing') throw new TypeError('no connection')
    const { status, after } = typeof a === 'number' ? { status: a, after: '' } : a
    return new Response('said', { status, headers: after ? { 'Retry-After': after } : {} })
  })
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

/** told waits for an answer while time passes. */
async function told(reply: Promise<Response>) {
  const settled = reply.then(
    (r) => r.status,
    (e: Error) => e.message,
  )
  await vi.advanceTimersByTimeAsync(20_000)
  return settled
}

test('what changes something is asked again under the same key until it is answered', async () => {
  answers = ['nothing', 503, 200]
  expect(await told(patiently(post()))).toBe(200)
  expect(asked).toHaveLength(3)
  expect(keys()[0]).toMatch(/^[0-9a-f-]{36}$/)
  expect(new Set(keys()).size).toBe(1)
})

test('two requests have two keys, and a key that is there already stays', async () => {
  answers = []
  await told(patiently(post()))
  await told(patiently(post()))
  expect(new Set(keys()).size).toBe(2)
  const own = post()
  own.headers.set('Idempotency-Key', 'mine')
  await told(patiently(own))
  expect(keys()[2]).toBe('mine')
})

test('a refusal is an answer', async () => {
  for (const status of [400, 404, 409, 500]) {
    answers = [status]
    asked = []
    expect(await told(patiently(post()))).toBe(status)
    expect(asked).toHaveLength(1)
  }
})

test('it gives up after four tries, with what it was told last', async () => {
  answers = [503, 503, 503, 503]
  expect(await told(patiently(post()))).toBe(503)
  answers = ['nothing', 'nothing', 'nothing', 'nothing']
  expect(await told(patiently(post()))).toBe('no connection')
  expect(asked).toHaveLength(8)
})

test('reading is not asked again: whoever reads knows when', async () => {
  answers = ['nothing']
  expect(await told(patiently(new Request('http://pump.test/api/things')))).toBe('no connection')
  expect(asked).toHaveLength(1)
})

test('it waits as long as the server asks for, but not for ever', async () => {
  answers = [{ status: 503, after: '2' }, { status: 503, after: '3600' }, 200]
  const reply = patiently(post())
  await vi.advanceTimersByTimeAsync(1900)
  expect(asked).toHaveLength(1)
  await vi.advanceTimersByTimeAsync(200)
  expect(asked).toHaveLength(2)
  await vi.advanceTimersByTimeAsync(4800)
  expect(asked).toHaveLength(2)
  expect(await told(reply)).toBe(200)
})

test('the line tells how many wait, and forgets them when they are answered', async () => {
  answers = ['nothing', 'nothing', 200, 200]
  const [a, b] = [patiently(post()), patiently(post())]
  await vi.advanceTimersByTimeAsync(10)
  expect(useLine.getState().again).toBe(2)
  await told(a)
  await told(b)
  expect(useLine.getState().again).toBe(0)
})

test('files are put together anew for each try, under one key', async () => {
  answers = ['nothing', 200]
  const form = vi.fn(() => new FormData())
  expect(await told(upload('/api/imports', form))).toBe(200)
  expect(form).toHaveBeenCalledTimes(2)
  expect(new Set(keys()).size).toBe(1)
})
