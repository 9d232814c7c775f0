// The open reveal: what is shown of it, what is on its way to the server, and what others do to it meanwhile.
import {
  answer,
  api,
  Refused,
  words,
  type Changed,
  type Command,
  type RevealDocument,
  type Schemas,
} from '../api/client'
import type { State } from '../core/core'
import { dressed } from './dressed'
import { merged } from './merge'
import { answerWithin, onLost, outboxOf, type Outbox, type Unsent } from './outbox'
import { nothing, type DocumentSlice, type Part, type Selection } from './state'
import { seconds } from '../core/written'

type Entry = Schemas['Entry']

// How long, ms, a version has rested when its pictures are drawn anew and the film is proven.
const quiet = 500

export const documentSlice: Part<DocumentSlice> = (set, get) => {
  // What is on its way to the server. It is not part of what is shown.
  let outbox: Outbox | null = null
  // The version that is shown below what is on its way.
  let version = 0
  // What others have done to bars while a hand held them.
  let meanwhile: string | null = null

  // show takes in what the core has said, one answer after the other.
  const show = (...states: State[]) => {
    const now = states.reduce(merged, { doc: get().doc, schedule: get().schedule })
    set({
      ...now,
      ...dressed(get().product, ...states),
      selection: now.doc === get().doc || !now.doc ? get().selection : kept(get().selection, now.doc),
    })
  }

  // rest has the pictures of the steps drawn anew when nothing has changed for a while.
  let resting: ReturnType<typeof setTimeout> | undefined
  const rest = (wait: number) => {
    clearTimeout(resting)
    resting = setTimeout(() => set({ pictured: version }), wait)
  }

  // rebase takes back what is unsent, applies what the server has, and applies the unsent again but
  // for what is done or lost. It says what could not be applied any more.
  const rebase = (since: Entry[], whole: Schemas['StoredReveal'] | undefined, gone: ReadonlySet<string>): string[] => {
    const core = get().core!
    const mine = outbox?.edits ?? []
    const states: State[] = []
    const commands = new Map(mine.map((e) => [e.key, e.command]))
    if (whole) states.push(core.openReveal(whole.document), core.variant(get().variant))
    else {
      for (const e of [...mine].reverse()) states.push(core.apply(e.inverse))
      for (const e of since) states.push(core.apply((e.command ?? commands.get(e.key!)) as Command))
    }
    rest(quiet)
    const lost: string[] = []
    const again: Unsent[] = []
    for (const e of mine) {
      if (gone.has(e.key)) continue
      try {
        const s = core.apply(e.command)
        states.push(s)
        again.push({ ...e, inverse: s.inverse! })
      } catch (why) {
        lost.push(words(why))
      }
    }
    outbox?.replace(again)
    show(...states)
    return lost
  }

  // take brings the document to where the server is.
  const take = (r: Changed, done: ReadonlySet<string>) => {
    const mine = outbox?.edits ?? []
    const own = r.entries.every((e, i) => e.key !== undefined && e.key === mine[i]?.key)
    if (own && !r.whole)
      outbox?.replace(mine.slice(r.entries.length)) // as expected: it is shown already
    else tellLost(rebase(r.entries, r.whole, done))
    version = r.version
    if (outbox) outbox.version = r.version
    set({ undoTo: r.undoTo, redoTo: r.redoTo })
    tellNews(r.entries.filter((e) => !e.own))
  }

  // tellNews says what others have done last, and remembers what they did to bars that are being held.
  const tellNews = (theirs: Entry[]) => {
    const newest = theirs[theirs.length - 1]
    if (!newest) return
    set({ news: newsOf(newest) })
    const held = [...get().held.keys()]
    const touching = theirs.findLast((e) =>
      held.some((id) => JSON.stringify(e.command ?? null).includes(JSON.stringify(id))),
    )
    if (touching) meanwhile = newsOf(touching)
  }

  const tellLost = (lost: string[], who = 'Somebody else') => {
    if (lost.length > 0)
      set({ passing: false, message: `${who} changed the same thing: ${lost[0]} Your change was taken back.` })
  }

  // tellGrown says where steps have become longer with what was put into them.
  const tellGrown = (s: State) => {
    const [i] = s.grown ?? []
    const step = i === undefined ? undefined : get().doc?.steps[i]
    if (step) get().inform(`Step ${i! + 1} lasts ${seconds(step.duration)} now, so that its cues end in it.`)
  }

  // attach shows what becomes of the edits of the open reveal.
  const attach = (o: Outbox) => {
    if (outbox && outbox !== o) outbox.leave()
    outbox = o
    o.listener = {
      answered(r, done) {
        take(r, done)
        rest(quiet)
      },
      stale(p, key) {
        const gone = new Set(p.done)
        if (key) gone.add(key)
        const lost = rebase(p.since ?? [], p.whole, gone)
        version = o.version = p.version ?? version
        if (p.marks) set(p.marks)
        if (key) set({ passing: false, message: `Your last change was taken back: ${p.message}.` })
        else tellLost(lost)
      },
      refused(key, why) {
        rebase([], undefined, new Set([key]))
        set({ passing: false, message: why })
      },
      saving: (saving) => set({ saving }),
    }
  }

  // ask has the server change the reveal in a way that only it can work out, after everything that is
  // on its way. Others may be quicker: then it is asked once more of what is there now.
  const ask = async (
    what: (id: string, version: number) => Promise<Changed>,
    passed: (no: Refused) => boolean = () => false,
  ) => {
    const o = outbox
    if (!o) return
    for (let tries = 0; tries < 5; tries++) {
      try {
        let answered: Changed | undefined
        await o.whileIdle(async () => {
          const reply = await what(o.reveal, version)
          if (o !== outbox) return // another reveal is open by now: this one is read anew when it is opened
          answered = reply
          take(answered, new Set())
        })
        return answered
      } catch (e) {
        if (e instanceof Refused && e.problem.code === 'stale') o.listener?.stale(e.problem, null)
        else {
          if (e instanceof Refused && passed(e)) return
          if (!(e instanceof Refused && e.problem.code === 'nothing-left')) set({ passing: false, message: words(e) })
          return
        }
      }
    }
  }

  // reverse takes back what was done here last, before a version where that is given, or does it again.
  const reverse = async (what: 'undo' | 'redo', before = 0) => {
    const body = (version: number) => (what === 'undo' ? { version, before } : { version })
    const done = await ask(
      (id, version) => answer(api.POST(`/api/reveals/{id}/${what}`, { params: { path: { id } }, body: body(version) })),
      (no) => {
        const { code, version: at } = no.problem
        if (code !== 'depends' || !at) return false
        get().tell(
          `${no.message}.`,
          what === 'undo' ? { text: 'Take back what I did before it', run: () => void reverse('undo', at) } : undefined,
        )
        return true
      },
    )
    const entry = done?.entries.findLast((e) => e.own && e.kind === what)
    if (entry) get().inform(`${what === 'undo' ? 'Taken back' : 'Done again'}: ${entry.label}.`)
  }

  onLost((why) =>
    set({ passing: false, message: `A change that was still to be stored could not be made any more: ${why}` }),
  )

  return {
    revealId: null,
    doc: null,
    schedule: null,
    undoTo: 0,
    redoTo: 0,
    saving: 'saved',
    news: null,
    held: new Map(),
    renaming: null,
    pictured: -1,
    previews: 0,

    async openReveal(id) {
      const o = outboxOf(id, version)
      await o.settled() // what waits from an earlier visit is in it then
      const r = await answer(api.GET('/api/reveals/{id}', { params: { path: { id } } }))
      version = o.version = r.version
      attach(o)
      const s = get().core!.openReveal(r.document)
      rest(0)
      set({
        revealId: id,
        ...merged({ doc: null, schedule: null }, s),
        ...dressed(get().product, s),
        undoTo: r.undoTo,
        redoTo: r.redoTo,
        saving: 'saved',
        selection: nothing,
      })
    },

    leaveReveal() {
      outbox?.leave() // it goes on by itself until it is empty
      outbox = null
      set({ revealId: null, doc: null, schedule: null, selection: nothing })
    },

    unsent: () => outbox?.edits.length ?? 0,

    idle: async () => outbox?.settled(),

    goBack: async (versionId) =>
      void (await ask((_, version) =>
        answer(api.POST('/api/versions/{id}/restore', { params: { path: { id: versionId } }, body: { version } })),
      )),

    run(...commands) {
      const core = get().core
      if (!core || commands.length === 0) return false
      const command: Command = commands.length === 1 ? commands[0]! : { op: 'batch', commands }
      try {
        const s = core.do(command)
        show(s)
        outbox!.push({ key: crypto.randomUUID(), command: s.command ?? command, inverse: s.inverse! })
        tellGrown(s)
        return true
      } catch (e) {
        const s = core.settle()
        show(s)
        set({ passing: false, message: words(e) })
        return false
      }
    },

    preview(command) {
      try {
        const s = get().core!.preview(command)
        // Dragged bars are drawn where they are held; everything else waits.
        if (s.bars)
          set({
            held: new Map(s.bars.filter((m) => !m.bar.retraced).map((m) => [m.bar.cue, m.bar])),
            previews: get().previews + 1,
          })
        else set({ ...merged(get(), s), previews: get().previews + 1 })
      } catch {
        // What cannot be done is not shown; the drop will say why.
      }
    },

    settle() {
      if (get().held.size > 0) set({ held: new Map() })
      show(get().core!.settle())
      if (!meanwhile) return
      const theirs = `While you held it: ${meanwhile}.`
      const before = get().message
      meanwhile = null
      queueMicrotask(() => {
        // after what is done when the hand lets go, and what is said of that
        const { message, passing, inform } = get()
        inform(message && passing && message !== before ? `${message} ${theirs}` : theirs)
      })
    },

    undo: () => reverse('undo'),
    redo: () => reverse('redo'),

    async catchUp(known) {
      const o = outbox
      if (!o || o.edits.length > 0 || known <= version) return // with edits on their way, their answer brings it
      await o
        .whileIdle(async () => {
          const since = version
          const r = await answer(
            api.GET('/api/reveals/{id}/entries', {
              params: { path: { id: o.reveal }, query: { after: since } },
              signal: AbortSignal.timeout(answerWithin),
            }),
          )
          if (o !== outbox || since !== version) return // it has been opened anew meanwhile
          take(r, new Set())
          rest(quiet)
        })
        .catch((e: unknown) => set({ passing: false, message: words(e) }))
    },
  }
}

const newsOf = (e: Entry) =>
  `${e.author || 'Somebody else'}${e.kind === 'undo' ? ' took back' : e.kind === 'redo' ? ' did again' : ''}: ${e.label}`

// kept drops from a selection what is no longer in the document.
export function kept(s: Selection, doc: RevealDocument): Selection {
  const cues = new Set(doc.steps.flatMap((step) => (step.cues ?? []).map((c) => c.id)))
  const step = s.step && doc.steps.some((x) => x.id === s.step) ? s.step : null
  return { ...s, cues: s.cues.filter((c) => cues.has(c)), step }
}
