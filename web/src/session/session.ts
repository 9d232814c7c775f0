import { create } from 'zustand'
import {
  answer,
  api,
  Refused,
  words,
  type Assembly,
  type Changed,
  type Command,
  type Node,
  type Report,
  type RevealDocument,
  type Schemas,
} from '../api/client'
import { Core, type State } from '../core/core'
import { merged } from './merge'
import { onLost, outboxOf, type Outbox, type Unsent } from './outbox'
import type { Selection, Session } from './state'

type Entry = Schemas['Entry']

const nothing: Selection = { nodes: [], cues: [], step: null, opening: false }

// What is on its way to the server. It is not part of what is shown.
let outbox: Outbox | null = null
// The version that is shown below what is on its way.
let version = 0
// What others have done to bars while a hand held them.
let meanwhile: string | null = null
let coreLoading: Promise<Core> | null = null

export function loadCore(): Promise<Core> {
  coreLoading ??= Core.load()
  return coreLoading
}

export const useSession = create<Session>((set, get) => {
  // show takes in what the core has said, one answer after the other.
  const show = (...states: State[]) => {
    const now = states.reduce(merged, { doc: get().doc, schedule: get().schedule })
    set({ ...now, selection: now.doc === get().doc || !now.doc ? get().selection : kept(get().selection, now.doc) })
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
    if (whole) states.push(core.openReveal(whole.document))
    else {
      for (const e of [...mine].reverse()) states.push(core.apply(e.inverse))
      for (const e of since) states.push(core.apply((e.command ?? commands.get(e.key!)) as Command))
    }
    rest(1500)
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
    if (step)
      get().inform(`Step ${i! + 1} lasts ${(step.duration / 1e6).toFixed(2)} s now, so that its cues end in it.`)
  }

  // attach shows what becomes of the edits of the open reveal.
  const attach = (o: Outbox) => {
    if (outbox && outbox !== o) outbox.leave()
    outbox = o
    o.listener = {
      answered(r, done) {
        take(r, done)
        rest(1500)
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

  // survey fetches what is known of the parts: it may take the server a while.
  const survey = async (project: string) => {
    try {
      const found = await answer(api.GET('/api/projects/{id}/survey', { params: { path: { id: project } } }))
      const s = get()
      if (s.project?.id !== project || !s.core || s.assembly?.shapes.length !== found.shapes.length) return
      s.core.openSurvey(found)
      set({ survey: found })
    } catch (e) {
      set({ passing: false, message: `The parts could not be looked at: ${words(e)}` })
    }
  }

  // takeArranged lays a rearranged assembly on the desk, with the open reveal as
  // it is.
  const takeArranged = (a: Schemas['Arranged']) => {
    const { core, doc, project, survey: known, selection } = get()
    if (!core || !project) return
    const others = a.geometry !== get().geometry
    core.openAssembly(a.assembly)
    if (known && !others) core.openSurvey(known)
    const there = new Set(a.assembly.nodes.map((n) => n.id))
    const state = doc ? core.openReveal(doc) : null
    set({
      assembly: a.assembly,
      arrangement: a.arrangement,
      geometry: a.geometry,
      survey: others ? null : known,
      selection: { ...selection, nodes: selection.nodes.filter((n) => there.has(n)) },
      ...(state && merged({ doc: null, schedule: null }, state)),
    })
    if (others) void survey(project.id)
  }

  // rearrange asks the server, which knows the whole of it.
  const rearrange = async (ask: (project: string, version: number) => Promise<Schemas['Arranged']>) => {
    const { project, arrangement } = get()
    if (!project || !arrangement) return false
    try {
      await get().idle() // the reveals must be as they are here
      set({ saving: 'saving' })
      takeArranged(await ask(project.id, arrangement.version))
      return true
    } catch (e) {
      if (e instanceof Refused && e.problem.code === 'stale') await get().refreshArranged()
      set({
        passing: false,
        message:
          e instanceof Refused && e.problem.code === 'stale'
            ? 'Somebody else has just rearranged the parts. Look again, then do it once more.'
            : words(e),
      })
      return false
    } finally {
      if (!outbox?.edits.length) set({ saving: 'saved' })
    }
  }

  onLost((why) =>
    set({ passing: false, message: `A change that was still to be stored could not be made any more: ${why}` }),
  )

  return {
    core: null,
    project: null,
    assembly: null,
    report: null,
    fileName: '',
    revisionId: '',
    importId: null,
    geometry: '',
    arrangement: null,
    survey: null,
    hidden: [],
    lastPick: [],
    reveals: [],
    revealId: null,
    doc: null,
    schedule: null,
    undoTo: 0,
    redoTo: 0,
    saving: 'saved',
    message: null,
    passing: false,
    offer: null,
    news: null,
    held: new Map(),
    renaming: null,
    pictured: -1,
    previews: 0,
    selection: nothing,
    hover: null,

    async openProject(id) {
      const [core, page] = await Promise.all([
        loadCore(),
        answer(api.GET('/api/projects/{id}', { params: { path: { id } } })),
      ])
      const assembly = page.arranged.assembly
      core.openAssembly(assembly)
      set({
        core,
        project: page.project,
        assembly,
        report: page.revision.report as Report,
        fileName: page.revision.fileName,
        revisionId: page.revision.id,
        importId: page.revision.importId,
        geometry: page.arranged.geometry,
        arrangement: page.arranged.arrangement,
        survey: null,
        hidden: [],
        reveals: page.reveals,
        revealId: null,
        doc: null,
        schedule: null,
        selection: nothing,
      })
      void survey(page.project.id)
    },

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
        undoTo: r.undoTo,
        redoTo: r.redoTo,
        saving: 'saved',
        selection: nothing,
      })
    },

    async addReveal(title) {
      const project = get().project!
      const r = await answer(
        api.POST('/api/projects/{id}/reveals', { params: { path: { id: project.id } }, body: { title } }),
      )
      set({ reveals: [...get().reveals, r] })
      return r.id
    },

    idle: async () => outbox?.settled(),

    goBack: async (versionId) =>
      void (await ask((_, version) =>
        answer(api.POST('/api/versions/{id}/restore', { params: { path: { id: versionId } }, body: { version } })),
      )),

    async bringReveal(document, title) {
      const project = get().project!
      const r = await answer(
        api.POST('/api/projects/{id}/reveals/import', {
          params: { path: { id: project.id } },
          body: { document: document as never, title },
        }),
      )
      set({ reveals: [...get().reveals, r.reveal] })
      return { id: r.reveal.id, unmatched: r.unmatched }
    },

    close() {
      outbox?.leave() // it goes on by itself until it is empty
      get().core?.close()
      outbox = null
      set({
        project: null,
        assembly: null,
        report: null,
        reveals: [],
        revealId: null,
        doc: null,
        schedule: null,
        selection: nothing,
      })
    },

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
          const r = await answer(
            api.GET('/api/reveals/{id}/entries', { params: { path: { id: o.reveal }, query: { after: version } } }),
          )
          if (o !== outbox) return
          take(r, new Set())
          rest(1500)
        })
        .catch((e: unknown) => set({ passing: false, message: words(e) }))
    },

    async refreshReveals() {
      const project = get().project
      if (!project) return
      const reveals = await answer(api.GET('/api/projects/{id}/reveals', { params: { path: { id: project.id } } }))
      if (get().project?.id === project.id) set({ reveals })
    },

    arrange: (edit) =>
      rearrange((id, version) =>
        answer(api.POST('/api/projects/{id}/arrange', { params: { path: { id } }, body: { version, edit } })),
      ),
    undoArrange: () =>
      rearrange((id, version) =>
        answer(api.POST('/api/projects/{id}/arrange/undo', { params: { path: { id } }, body: { version } })),
      ),
    redoArrange: () =>
      rearrange((id, version) =>
        answer(api.POST('/api/projects/{id}/arrange/redo', { params: { path: { id } }, body: { version } })),
      ),

    async refreshArranged(version) {
      const { project, arrangement } = get()
      if (!project || (version !== undefined && version <= (arrangement?.version ?? 0))) return
      const page = await answer(api.GET('/api/projects/{id}', { params: { path: { id: project.id } } })).catch(
        (e: unknown) => {
          set({ passing: false, message: `What others have changed could not be fetched: ${words(e)}` })
        },
      )
      if (!page) return
      set({ report: page.revision.report as Report, revisionId: page.revision.id, importId: page.revision.importId })
      takeArranged(page.arranged)
    },

    hide: (hidden) => set({ hidden }),

    select: (s) => set({ selection: { ...nothing, ...s }, ...(s.nodes?.length && { lastPick: s.nodes }) }),

    pickNode(id, add) {
      const now = get().selection
      if (!add) set({ selection: { ...nothing, nodes: [id] }, lastPick: [id] })
      else {
        const nodes = now.nodes.includes(id) ? now.nodes.filter((n) => n !== id) : [...now.nodes, id]
        set({ selection: { ...nothing, nodes }, lastPick: nodes })
      }
    },

    setHover: (hover) => get().hover !== hover && set({ hover }),
    tell: (message, offer) => set({ message, offer: offer ?? null, passing: false }),
    inform: (message, offer) => set({ message, offer: offer ?? null, passing: true }),
  }
})

const newsOf = (e: Entry) =>
  `${e.author || 'Somebody else'}${e.kind === 'undo' ? ' took back' : e.kind === 'redo' ? ' did again' : ''}: ${e.label}`

// kept drops from a selection what is no longer in the document.
export function kept(s: Selection, doc: RevealDocument): Selection {
  const cues = new Set(doc.steps.flatMap((step) => (step.cues ?? []).map((c) => c.id)))
  const step = s.step && doc.steps.some((x) => x.id === s.step) ? s.step : null
  return { ...s, cues: s.cues.filter((c) => cues.has(c)), step }
}

export function nodeById(assembly: Assembly | null): Map<string, Node> {
  const known = nodeMaps.get(assembly as object)
  if (known) return known
  const map = new Map((assembly?.nodes ?? []).map((n) => [n.id, n]))
  if (assembly) nodeMaps.set(assembly, map)
  return map
}

const nodeMaps = new WeakMap<object, Map<string, Node>>()

// labelOf is a node's name with what tells it from others of that name: the group that it is in, and
// which of several there it is.
export const labelOf = (assembly: Assembly | null, id: string): string => (assembly && labelsOf(assembly).get(id)) ?? id

// labelsOf are the labels of all nodes; they are made once for an assembly.
function labelsOf(assembly: Assembly): Map<string, string> {
  const known = labels.get(assembly)
  if (known) return known
  const alike = new Map<string, number>()
  const beside = new Map<string, number>()
  const place = (n: Node) => `${n.parent} ${n.name}`
  const count = (m: Map<string, number>, key: string) => {
    const n = (m.get(key) ?? 0) + 1
    m.set(key, n)
    return n
  }
  const which = assembly.nodes.map((n) => {
    count(alike, n.name)
    return count(beside, place(n))
  })
  const made = new Map(
    assembly.nodes.map((n, i) => {
      const here = beside.get(place(n))!
      const group = here < alike.get(n.name)! ? assembly.nodes[n.parent] : undefined
      return [n.id, `${n.name}${here > 1 ? `, ${which[i]} of ${here}` : ''}${group ? ` · ${group.name}` : ''}`]
    }),
  )
  labels.set(assembly, made)
  return made
}

const labels = new WeakMap<Assembly, Map<string, string>>()

// namesOf says in a few words which nodes these are.
export function namesOf(assembly: Assembly | null, ids: readonly string[]): string {
  const map = nodeById(assembly)
  if (ids.length === 1) return labelOf(assembly, ids[0]!)
  const first = map.get(ids[0] ?? '')?.name ?? ids[0] ?? ''
  if (ids.length === 0) return first
  const same = ids.every((id) => map.get(id)?.name === first)
  return same ? `${ids.length} × ${first}` : `${first} and ${ids.length - 1} more`
}
