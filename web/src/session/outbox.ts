// What has been done to a reveal here and is not known to be stored. Every edit has a key: sent
// again, it is still one edit. Edits are kept in the browser's database until the server has
// answered, so that they outlive the page; they are sent together, in their order.
import { createStore, del, entries as stored, set as keep, type UseStore } from 'idb-keyval'
import { answer, api, Refused, words, type Changed, type Command, type Problem } from '../api/client'
import { passing, sleep } from '../api/patient'
import { page } from './me'

export interface Unsent {
  key: string
  command: Command
  /** What takes it back, as long as nothing comes in below it. */
  inverse: Command
}

/** What the outbox tells whoever shows its reveal. */
export interface Listener {
  /** The server has answered: shown edits may have to be taken back and done again. */
  answered(a: Changed, acknowledged: Set<string>): void
  /** Others have been quicker: edit `lost` touches the same, and is given up. */
  stale(p: Problem, lost: string | null): void
  /** The server will not take an edit. */
  refused(key: string, why: string): void
  saving(s: Saving): void
}

export type Saving = 'saved' | 'saving' | 'waiting' | 'stuck'

/** Tries in its own time and without an answer before it waits to be told to go on. */
const mostTries = 12
/** How long an answer is waited for, in ms: a line may have been cut without anybody being told. */
export const answerWithin = 60_000
/** Edits in one request, and about how long it may be. */
const batch = 200
const batchBytes = 3 << 20

let database: UseStore | null = null
const opened = () => (typeof indexedDB === 'undefined' ? null : (database ??= createStore('slowreveal', 'unsent')))

interface Kept {
  reveal: string
  version: number
  edits: Unsent[]
}

const all = new Map<string, Outbox>()

/** outboxOf returns the outbox of a reveal: one as long as something is in it. */
export function outboxOf(reveal: string, version: number): Outbox {
  const known = all.get(reveal)
  if (known) return known
  const fresh = new Outbox(reveal, version)
  all.set(reveal, fresh)
  return fresh
}

// lost tells what became of an edit that nobody is looking at any more.
let lost: (why: string) => void = () => {}

/** onLost has it told when an edit of a reveal that is not open cannot be stored. */
export function onLost(tell: (why: string) => void) {
  lost = tell
}

/** anythingUnsent says whether closing the window would leave something behind. */
export const anythingUnsent = () => [...all.values()].some((o) => o.edits.length > 0)

/** sendAll goes on with everything that waits: the server seems to be back. */
export function sendAll() {
  for (const o of all.values()) if (o.edits.length > 0) o.kick()
}

export class Outbox {
  edits: Unsent[] = []
  listener: Listener | null = null
  private running: Promise<void> | null = null
  private state: Saving = 'saved'
  private hurry: (() => void) | null = null

  constructor(
    readonly reveal: string,
    public version: number,
    private readonly place = `${page}/${reveal}`,
  ) {}

  /** leave lets it go on by itself: nobody shows its reveal any more. */
  leave() {
    this.listener = null
    if (this.edits.length === 0 && all.get(this.reveal) === this) all.delete(this.reveal)
  }

  push(edit: Unsent) {
    this.edits.push(edit)
    this.write()
    this.kick()
  }

  /** replace puts other edits in the place of what waits: they have been done again. */
  replace(edits: Unsent[]) {
    this.edits = edits
    this.write()
  }

  /** settled resolves when nothing is left, and rejects when the server does not answer. */
  async settled(): Promise<void> {
    while (this.running) await this.running
    if (this.edits.length > 0)
      throw new Error('The last changes are not stored yet, as the server does not answer. Try again when it is back.')
  }

  /** whileIdle runs do when nothing is being sent; what is pushed meanwhile is sent after it. */
  async whileIdle<T>(run: () => Promise<T>): Promise<T> {
    do await this.settled()
    while (this.running) // somebody else was told at the same time
    let ended = () => {}
    this.running = new Promise((done) => (ended = done))
    this.say('saving')
    try {
      return await run()
    } finally {
      this.running = null
      ended()
      if (this.edits.length > 0) this.kick()
      else this.say('saved')
    }
  }

  kick() {
    this.hurry?.()
    if (this.running) return
    this.say('saving')
    this.running = this.send().finally(() => {
      this.running = null
      if (this.edits.length > 0 && this.state !== 'stuck') this.kick()
      else if (this.edits.length === 0) {
        this.say('saved')
        if (!this.listener && all.get(this.reveal) === this) all.delete(this.reveal)
      }
    })
  }

  private say(s: Saving) {
    this.state = s
    this.listener?.saving(s)
  }

  private async send() {
    let tries = 0
    let called = false // a try that somebody called for says nothing of how long it has been tried
    while (this.edits.length > 0) {
      const sent = this.next()
      try {
        const r = await this.post(sent)
        tries = 0
        called = false
        this.take(r, sent)
        this.say(this.edits.length > 0 ? 'saving' : 'saved')
      } catch (e) {
        if (e instanceof Refused && e.problem.code === 'stale') this.behind(e.problem)
        else if (e instanceof Refused && e.status < 500) this.drop(sent[0]!.key, words(e))
        else if (e instanceof Refused && !passing(e.status) && tries >= 2) this.drop(sent[0]!.key, words(e))
        else if (!called && ++tries >= mostTries) return this.say('stuck')
        else {
          this.say('waiting')
          called = await this.pause(Math.min(250 * 2 ** tries, 8000))
        }
      }
    }
  }

  /** next is what goes into one request. */
  private next(): Unsent[] {
    let bytes = 0
    const last = this.edits.findIndex(
      (e, i) => i >= batch || ((bytes += JSON.stringify(e.command).length) > batchBytes && i > 0),
    )
    return last < 0 ? [...this.edits] : this.edits.slice(0, last)
  }

  private async post(sent: Unsent[]): Promise<Changed> {
    const body = { version: this.version, edits: sent.map(({ key, command }) => ({ key, command })) }
    const r = await answer(
      api.POST('/api/reveals/{id}/commands', {
        params: { path: { id: this.reveal } },
        body,
        signal: AbortSignal.timeout(answerWithin),
        fetch: (q: Request) => fetch(q),
      }),
    )
    if (typeof r?.version !== 'number') throw new TypeError('the answer was cut off')
    return r
  }

  /** pause waits, or until something calls for the next try, and says whether it did. */
  private async pause(ms: number): Promise<boolean> {
    const called = new Promise<boolean>((done) => (this.hurry = () => done(true)))
    const early = await Promise.race([sleep(ms).then(() => false), called])
    this.hurry = null
    return early
  }

  private take(r: Changed, sent: Unsent[]) {
    const stays = r.refused ? sent.findIndex((e) => e.key === r.refused!.key) : sent.length
    const done = new Set(sent.slice(0, stays).map((e) => e.key))
    this.version = r.version
    if (this.listener) this.listener.answered(r, done)
    else this.edits = this.edits.filter((e) => !done.has(e.key))
    if (r.refused) this.drop(r.refused.key!, r.refused.message)
    this.write()
  }

  private behind(p: Problem) {
    this.version = p.version ?? this.version
    if (this.listener) this.listener.stale(p, p.key ?? null)
    else {
      this.edits = this.edits.filter((e) => e.key !== p.key && !p.done?.includes(e.key))
      if (p.key) lost(p.message)
    }
    this.write()
  }

  private drop(key: string, why: string) {
    if (this.listener) this.listener.refused(key, why)
    else {
      this.edits = this.edits.filter((e) => e.key !== key)
      lost(why)
    }
    this.write()
  }

  private write() {
    const db = opened()
    if (!db) return
    const kept: Kept = { reveal: this.reveal, version: this.version, edits: this.edits }
    const done = this.edits.length > 0 ? keep(this.place, kept, db) : del(this.place, db)
    done.catch(() => undefined) // without the browser's database the page itself keeps them
  }
}

/** alive holds a lock as long as the page is open: so others know whose edits are left behind. */
export function alive() {
  void globalThis.navigator?.locks?.request(`slowreveal-${page}`, () => new Promise(() => undefined))
}

/** sendLeftBehind sends what pages that are gone could not send, and says how much that was. */
export async function sendLeftBehind(): Promise<number> {
  const db = opened()
  if (!db) return 0
  const open = new Set((await globalThis.navigator?.locks?.query())?.held?.map((l) => l.name))
  let count = 0
  for (const [place, kept] of await stored<string, Kept>(db)) {
    if (open.has(`slowreveal-${place.split('/')[0]}`) || place.startsWith(page)) continue
    const o = new Outbox(kept.reveal, kept.version, place)
    o.edits = kept.edits
    all.set(place, o)
    o.kick()
    await o.settled().then(
      () => {
        count += kept.edits.length
        all.delete(place)
      },
      () => undefined,
    )
  }
  return count
}
