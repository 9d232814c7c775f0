import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import type { Command, Cue } from '../api/client'
import { install, type Stand } from './fakeServer'
import { anythingUnsent, sendAll } from './outbox'
import { createSession } from './session'

let stand: Stand
let useSession: ReturnType<typeof createSession>

const pull = (id: string, distance: number): Cue => ({
  id,
  kind: 'pull',
  targets: ['cover'],
  offset: 0,
  duration: 1_000_000,
  easing: 'smooth',
  pull: { axes: 'own', along: [0, 0, 1], distance },
})
const add = (id: string, distance = 10): Command => ({
  op: 'insertCue',
  stepId: 's1',
  cue: pull(id, distance),
  index: 0,
})
const cues = () => useSession.getState().doc!.steps[0]!.cues?.map((c) => c.id) ?? []
const saved = () => vi.waitFor(() => expect(useSession.getState().saving).toBe('saved'), 5000)
const same = () => expect(useSession.getState().doc).toEqual(stand.document)

beforeEach(async () => {
  stand = await install()
  useSession = createSession()
  await useSession.getState().openProject('p')
  await useSession.getState().openReveal('v')
})

// Nothing of a test goes on into the next: what it left unsent is sent.
afterEach(async () => {
  vi.useRealTimers()
  stand.away = stand.lose = 0
  stand.hold = stand.refuse = null
  sendAll()
  await vi.waitFor(() => expect(anythingUnsent()).toBe(false), 5000)
  useSession.getState().close()
})

test('an edit shows at once and is saved after it', async () => {
  expect(useSession.getState().run(add('a'))).toBe(true)
  expect(cues()).toEqual(['a'])
  expect(stand.version).toBe(0)
  await saved()
  expect(stand.version).toBe(1)
  same()
})

test('several commands are one edit', async () => {
  useSession.getState().run(add('a'), add('b'))
  await saved()
  expect(stand.version).toBe(1)
  expect(cues()).toEqual(['b', 'a'])
})

test('what the core refuses is not sent, and said', () => {
  expect(useSession.getState().run({ op: 'removeCue', cueId: 'nobody' })).toBe(false)
  expect(useSession.getState().message).toMatch(/deleted this cue/)
  expect(useSession.getState().saving).toBe('saved')
})

test('an edit of somebody else comes in below mine, and both are kept', async () => {
  stand.other({ op: 'setTitle', title: 'Theirs' })
  useSession.getState().run(add('a'))
  useSession.getState().run(add('b'))
  await saved()
  expect(useSession.getState().doc!.title).toBe('Theirs')
  expect(cues()).toEqual(['b', 'a'])
  expect(stand.version).toBe(3)
  same()
})

test('an edit of what somebody else took away is taken back and explained', async () => {
  useSession.getState().run(add('a'))
  await saved()
  stand.other({ op: 'removeCue', cueId: 'a' })
  useSession.getState().run({ op: 'setCue', cue: pull('a', 99) })
  useSession.getState().run({ op: 'setTitle', title: 'Mine' })
  await saved()
  expect(useSession.getState().message).toMatch(/Your last change was taken back: Mara has changed the same thing/)
  expect(useSession.getState().doc!.title).toBe('Mine')
  expect(cues()).toEqual([])
  same()
})

test('what the server refuses is taken back with all that stood on it', async () => {
  stand.refuse = 'the disk is full'
  useSession.getState().run(add('a'))
  useSession.getState().run({ op: 'setCue', cue: pull('a', 99) })
  await saved()
  expect(useSession.getState().message).toMatch(/disk is full/)
  expect(cues()).toEqual([])
  same()
})

test('an edit waits for a server that is away, and goes through', async () => {
  stand.away = 2
  useSession.getState().run(add('a'))
  await vi.waitFor(() => expect(useSession.getState().saving).toBe('waiting'))
  await saved()
  expect(stand.version).toBe(1)
  same()
})

test('an edit whose answer is lost is sent again and done once', async () => {
  stand.lose = 3
  useSession.getState().run(add('a'))
  await saved()
  expect(stand.version).toBe(1)
  same()
})

test('an undo whose answer is lost takes back one edit', async () => {
  useSession.getState().run(add('a'))
  await saved()
  useSession.getState().run(add('b'))
  await saved()
  stand.lose = 2
  await useSession.getState().undo()
  expect(cues()).toEqual(['a'])
  expect(stand.version).toBe(3)
  same()
})

test('many edits go together: thirty of them are not thirty requests', async () => {
  let release = () => {}
  stand.hold = new Promise((done) => (release = done))
  for (let k = 0; k < 30; k++) useSession.getState().run(add(`c${k}`))
  stand.hold = null
  release()
  await saved()
  expect(stand.version).toBe(30)
  expect(stand.requests).toBeLessThanOrEqual(2)
  same()
})

test('of several edits only the one that clashes is taken back', async () => {
  useSession.getState().run(add('a'), add('b'))
  await saved()
  stand.other({ op: 'removeCue', cueId: 'a' })
  let release = () => {}
  stand.hold = new Promise((done) => (release = done))
  useSession.getState().run({ op: 'setTitle', title: 'Mine' })
  useSession.getState().run({ op: 'setCue', cue: pull('a', 99) })
  useSession.getState().run({ op: 'setCue', cue: pull('b', 77) })
  stand.hold = null
  release()
  await saved()
  expect(useSession.getState().message).toMatch(/taken back|changed the same/)
  expect(cues()).toEqual(['b'])
  expect(useSession.getState().doc!.title).toBe('Mine')
  same()
})

test('a project is left with edits unsent: they go on by themselves, and nothing hangs', async () => {
  let release = () => {}
  stand.hold = new Promise((done) => (release = done))
  for (let k = 0; k < 3; k++) useSession.getState().run(add(`c${k}`))
  useSession.getState().close()
  expect(useSession.getState().doc).toBeNull()
  expect(anythingUnsent()).toBe(true)
  await new Promise((done) => setTimeout(done, 50)) // the page is not stuck in a loop of its own
  stand.hold = null
  release()
  await vi.waitFor(() => expect(anythingUnsent()).toBe(false), 5000)
  expect(stand.version).toBe(3)
  await useSession.getState().openProject('p')
  await useSession.getState().openReveal('v')
  expect(cues()).toEqual(['c2', 'c1', 'c0'])
})

test('after many tries it stops asking, keeps what it has, and goes on when it is told', async () => {
  vi.useFakeTimers()
  stand.away = 1000
  useSession.getState().run(add('a'))
  await vi.advanceTimersByTimeAsync(200_000)
  expect(useSession.getState().saving).toBe('stuck')
  const asked = 1000 - stand.away
  expect(asked).toBeLessThan(20)
  await vi.advanceTimersByTimeAsync(200_000)
  expect(1000 - stand.away).toBe(asked)
  await expect(useSession.getState().idle()).rejects.toThrow(/not stored yet/)
  stand.away = 0
  sendAll()
  await vi.advanceTimersByTimeAsync(1000)
  vi.useRealTimers()
  await saved()
  expect(stand.version).toBe(1)
  same()
})

test('whoever goes on working while the server is away does not wear out its patience', async () => {
  vi.useFakeTimers()
  stand.away = 1000
  for (let k = 0; k < 30; k++) {
    useSession.getState().run(add(`c${k}`))
    await vi.advanceTimersByTimeAsync(20)
    expect(useSession.getState().saving).not.toBe('stuck')
  }
  expect(1000 - stand.away).toBeGreaterThan(12)
  expect(useSession.getState().saving).toBe('waiting')
  stand.away = 0
  await vi.advanceTimersByTimeAsync(10_000)
  vi.useRealTimers()
  await saved()
  expect(stand.version).toBe(30)
  same()
})

test('what a window could not send before it was closed, the next one sends', async () => {
  const { indexedDB } = await import('fake-indexeddb')
  vi.stubGlobal('indexedDB', indexedDB)
  stand.away = 1000
  useSession.getState().run(add('a'))
  useSession.getState().run(add('b'))
  await vi.waitFor(() => expect(useSession.getState().saving).toBe('waiting'))
  await new Promise((done) => setTimeout(done, 50))
  vi.resetModules() // another window has everything anew
  stand.away = 0
  const outbox = await import('./outbox')
  expect(await outbox.sendLeftBehind()).toBe(2)
  expect(stand.version).toBe(2)
  expect(await outbox.sendLeftBehind()).toBe(0)
})

test('an edit that is made while an undo is under way is sent after it', async () => {
  useSession.getState().run(add('a'))
  await saved()
  let release = () => {}
  stand.hold = new Promise((done) => (release = done))
  const undone = useSession.getState().undo()
  await Promise.resolve()
  useSession.getState().run(add('b'))
  stand.hold = null
  release()
  await undone
  await saved()
  expect(cues()).toEqual(['b'])
  expect(stand.entries.map((e) => e.kind)).toEqual(['edit', 'undo', 'edit'])
  same()
})

test('a page catches up with what others did', async () => {
  stand.other(add('a'))
  stand.other({ op: 'setTitle', title: 'Theirs' })
  await useSession.getState().catchUp(2)
  expect(cues()).toEqual(['a'])
  same()
  await useSession.getState().catchUp(1) // known already
  same()
})

test('a preview is shown, and nothing of it stays', () => {
  useSession.getState().preview(add('a', 500))
  expect(cues()).toEqual(['a'])
  useSession.getState().settle()
  expect(cues()).toEqual([])
  expect(stand.version).toBe(0)
})

test('a selection keeps only what is still there', async () => {
  useSession.getState().run(add('a'), add('b'))
  useSession.getState().select({ cues: ['a', 'b'] })
  useSession.getState().run({ op: 'removeCue', cueId: 'a' })
  expect(useSession.getState().selection.cues).toEqual(['b'])
  await saved()
})

const nameOf = (id: string) => useSession.getState().assembly!.nodes.find((n) => n.id === id)!.name

test('a rearranged assembly keeps the open reveal, also what is not saved yet', async () => {
  useSession.getState().run(add('a'))
  expect(await useSession.getState().arrange({ do: 'rename', node: 'cover', name: 'Lid' })).toBe(true)
  expect(nameOf('cover')).toBe('Lid')
  expect(cues()).toEqual(['a'])
  useSession.getState().run(add('b'))
  await saved()
  same()
})

test('an arrangement that somebody else has changed is taken in and said', async () => {
  stand.rearrange({ do: 'rename', node: 'screw', name: 'Bolt' })
  expect(await useSession.getState().arrange({ do: 'rename', node: 'cover', name: 'Lid' })).toBe(false)
  expect(useSession.getState().message).toMatch(/rearranged/)
  expect([nameOf('screw'), nameOf('cover')]).toEqual(['Bolt', 'cover'])
  expect(await useSession.getState().arrange({ do: 'rename', node: 'cover', name: 'Lid' })).toBe(true)
})
