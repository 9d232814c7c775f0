import { create } from 'zustand'
import { answer, api, Refused, words, type Assembly, type Command, type Node, type Report, type RevealDocument, type Schemas } from '../api/client'
import { Core, type State } from '../core/core'
import { myName } from './me'
import { merged } from './merge'
import type { Selection, Session } from './state'

const nothing: Selection = { nodes: [], cues: [], step: null, opening: false }

interface Pending {
  command: Command
  inverse: Command
}

// What is on its way to the server. It is not part of what is shown.
let pending: Pending[] = []
let version = 0
let sending: Promise<void> | null = null
let coreLoading: Promise<Core> | null = null

export function loadCore(): Promise<Core> {
  coreLoading ??= Core.load()
  return coreLoading
}

const sleep = (ms: number) => new Promise((done) => setTimeout(done, ms))

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

  // send works off what is pending, one command after the other. What cannot be
  // sent waits; what the server refuses is taken back and explained.
  const send = async () => {
    let wait = 500
    while (pending.length > 0) {
      const next = pending[0]!
      const id = get().revealId
      if (!id) return
      try {
        const r = await answer(api.POST('/api/reveals/{id}/commands', { params: { path: { id } }, body: { version, command: next.command } }))
        pending.shift()
        version = r.version
        rest(1500)
        wait = 500
        set({ undoTo: r.undoTo, redoTo: r.redoTo, saving: pending.length > 0 ? 'saving' : 'saved' })
      } catch (e) {
        if (e instanceof Refused && e.problem.code === 'stale') rebase(e.problem)
        else if (e instanceof Refused && e.status < 500) drop(words(e))
        else {
          set({ saving: 'waiting' })
          await sleep(wait)
          wait = Math.min(wait * 2, 8000)
        }
      }
    }
  }

  const kick = () => {
    set({ saving: 'saving' })
    sending ??= send().finally(() => {
      sending = null
      if (pending.length > 0) kick()
    })
  }

  // rebase takes back what is pending, applies what others did meanwhile, and
  // applies it again.
  const rebase = (problem: Schemas['Problem']) => {
    const core = get().core!
    const mine = pending
    pending = []
    const states: State[] = []
    for (const p of [...mine].reverse()) states.push(core.apply(p.inverse))
    for (const e of problem.since ?? []) states.push(core.apply(e.command as Command))
    version = problem.version ?? version
    rest(1500)
    const lost: string[] = []
    for (const p of mine) {
      try {
        const s = core.apply(p.command)
        states.push(s)
        pending.push({ command: p.command, inverse: s.inverse! })
      } catch (e) {
        lost.push(words(e))
      }
    }
    show(...states)
    if (lost.length > 0) set({ message: `Somebody else changed the same thing: ${lost[0]} Your change was taken back.` })
  }

  // drop takes back the first pending command and everything after it.
  const drop = (why: string) => {
    const core = get().core!
    show(...pending.reverse().map((p) => core.apply(p.inverse)))
    pending = []
    set({ saving: 'saved', message: why })
  }

  // reverse takes its turn in the same queue as edits: an edit that is made while
  // an undo is under way is sent after it.
  const reverse = async (what: 'undo' | 'redo') => {
    while (sending) await sending
    sending = reverseNow(what).finally(() => {
      sending = null
      if (pending.length > 0) kick()
    })
    await sending
  }

  const reverseNow = async (what: 'undo' | 'redo') => {
    const id = get().revealId
    for (let tries = 0; id && tries < 5; tries++) {
      try {
        const r = await answer(api.POST(`/api/reveals/{id}/${what}`, { params: { path: { id } }, body: { version } }))
        rebase({ code: 'stale', message: '', version: r.version, since: [{ version: r.version, kind: what, label: r.label, command: r.command, madeAt: '' }] })
        set({ undoTo: r.undoTo, redoTo: r.redoTo })
        return
      } catch (e) {
        if (e instanceof Refused && e.problem.code === 'stale') rebase(e.problem)
        else {
          if (!(e instanceof Refused && e.problem.code === 'nothing-left')) set({ message: words(e) })
          return
        }
      }
    }
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
      set({ message: `The parts could not be looked at: ${words(e)}` })
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
      assembly: a.assembly, arrangement: a.arrangement, geometry: a.geometry, survey: others ? null : known,
      selection: { ...selection, nodes: selection.nodes.filter((n) => there.has(n)) },
      ...(state && merged({ doc: null, schedule: null }, state)),
    })
    if (others) void survey(project.id)
  }

  // rearrange asks the server, which knows the whole of it.
  const rearrange = async (ask: (project: string, version: number) => Promise<Schemas['Arranged']>) => {
    const { project, arrangement } = get()
    if (!project || !arrangement) return false
    while (sending) await sending // the reveals must be as they are here
    set({ saving: 'saving' })
    try {
      takeArranged(await ask(project.id, arrangement.version))
      return true
    } catch (e) {
      if (e instanceof Refused && e.problem.code === 'stale') await get().refreshArranged()
      set({ message: e instanceof Refused && e.problem.code === 'stale' ? 'Somebody else has just rearranged the parts. Look again, then do it once more.' : words(e) })
      return false
    } finally {
      set({ saving: 'saved' })
    }
  }

  return {
    core: null, project: null, assembly: null, report: null, fileName: '', revisionId: '', importId: null, geometry: '', arrangement: null, survey: null, hidden: [], lastPick: [], reveals: [], revealId: null,
    doc: null, schedule: null, undoTo: 0, redoTo: 0, saving: 'saved', message: null, offer: null, news: null, held: new Map(), renaming: null, pictured: -1, previews: 0, selection: nothing, hover: null,

    async openProject(id) {
      const [core, page] = await Promise.all([loadCore(), answer(api.GET('/api/projects/{id}', { params: { path: { id } } }))])
      const assembly = page.arranged.assembly
      core.openAssembly(assembly)
      set({
        core, project: page.project, assembly, report: page.revision.report as Report, fileName: page.revision.fileName,
        revisionId: page.revision.id, importId: page.revision.importId, geometry: page.arranged.geometry, arrangement: page.arranged.arrangement,
        survey: null, hidden: [], reveals: page.reveals, revealId: null, doc: null, schedule: null, selection: nothing,
      })
      void survey(page.project.id)
    },

    async openReveal(id) {
      while (sending) await sending
      const r = await answer(api.GET('/api/reveals/{id}', { params: { path: { id } } }))
      version = r.version
      pending = []
      const s = get().core!.openReveal(r.document)
      rest(0)
      set({ revealId: id, ...merged({ doc: null, schedule: null }, s), undoTo: r.undoTo, redoTo: r.redoTo, saving: 'saved', selection: nothing })
    },

    async addReveal(title) {
      const project = get().project!
      const r = await answer(api.POST('/api/projects/{id}/reveals', { params: { path: { id: project.id } }, body: { title } }))
      set({ reveals: [...get().reveals, r] })
      return r.id
    },

    async idle() {
      while (sending) await sending
    },

    async goBack(versionId) {
      while (sending) await sending
      try {
        const r = await answer(api.POST('/api/versions/{id}/restore', { params: { path: { id: versionId } }, body: { version } }))
        rebase({ code: 'stale', message: '', version: r.version, since: [{ version: r.version, kind: 'do', label: r.label, command: r.command, madeAt: '' }] })
        set({ undoTo: r.undoTo, redoTo: r.redoTo })
      } catch (e) {
        get().tell(words(e))
      }
    },

    async bringReveal(document, title) {
      const project = get().project!
      const r = await answer(api.POST('/api/projects/{id}/reveals/bring', { params: { path: { id: project.id } }, body: { document: document as never, title } }))
      set({ reveals: [...get().reveals, r.reveal] })
      return { id: r.reveal.id, unmatched: r.unmatched }
    },

    close() {
      set({ project: null, assembly: null, report: null, reveals: [], revealId: null, doc: null, schedule: null, selection: nothing })
    },

    run(...commands) {
      const core = get().core
      if (!core || commands.length === 0) return false
      const command: Command = commands.length === 1 ? commands[0]! : { op: 'batch', commands }
      try {
        const s = core.apply(command)
        pending.push({ command, inverse: s.inverse! })
        show(s)
        kick()
        return true
      } catch (e) {
        const s = core.settle()
        show(s)
        set({ message: words(e) })
        return false
      }
    },

    preview(command) {
      try {
        const s = get().core!.preview(command)
        // Dragged bars are drawn where they are held; everything else waits.
        if (s.bars) set({ held: new Map(s.bars.filter((m) => !m.bar.retraced).map((m) => [m.bar.cue, m.bar])), previews: get().previews + 1 })
        else set({ ...merged(get(), s), previews: get().previews + 1 })
      } catch {
        // What cannot be done is not shown; the drop will say why.
      }
    },

    settle() {
      if (get().held.size > 0) set({ held: new Map() })
      show(get().core!.settle())
    },

    undo: () => reverse('undo'),
    redo: () => reverse('redo'),

    async catchUp(known) {
      while (sending) await sending
      const id = get().revealId
      if (!id || known <= version) return
      const since = await answer(api.GET('/api/reveals/{id}/entries', { params: { path: { id }, query: { after: version } } }))
      if (pending.length > 0) return // the next answer brings them
      const states: State[] = []
      for (const e of since) {
        if (e.version !== version + 1) continue
        states.push(get().core!.apply(e.command as Command))
        version = e.version
      }
      show(...states)
      rest(1500)
      const newest = since[since.length - 1]
      if (newest && newest.author !== (myName() || undefined)) set({ news: `${newest.author || 'Somebody else'}: ${newest.label}` })
      const r = await answer(api.GET('/api/reveals/{id}', { params: { path: { id } } }))
      if (r.version === version) set({ undoTo: r.undoTo, redoTo: r.redoTo })
    },

    arrange: (edit) => rearrange((id, version) => answer(api.POST('/api/projects/{id}/arrange', { params: { path: { id } }, body: { version, edit } }))),
    undoArrange: () => rearrange((id, version) => answer(api.POST('/api/projects/{id}/arrange/undo', { params: { path: { id } }, body: { version } }))),
    redoArrange: () => rearrange((id, version) => answer(api.POST('/api/projects/{id}/arrange/redo', { params: { path: { id } }, body: { version } }))),

    async refreshArranged(version) {
      const { project, arrangement } = get()
      if (!project || (version !== undefined && version <= (arrangement?.version ?? 0))) return
      const page = await answer(api.GET('/api/projects/{id}', { params: { path: { id: project.id } } }))
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
    tell: (message, offer) => set({ message, offer: offer ?? null }),
  }
})

// kept drops from a selection what is no longer in the document.
function kept(s: Selection, doc: RevealDocument): Selection {
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

// namesOf says in a few words which nodes these are.
export function namesOf(assembly: Assembly | null, ids: readonly string[]): string {
  const map = nodeById(assembly)
  const first = map.get(ids[0] ?? '')?.name ?? ids[0] ?? ''
  if (ids.length <= 1) return first
  const same = ids.every((id) => map.get(id)?.name === first)
  return same ? `${ids.length} × ${first}` : `${first} and ${ids.length - 1} more`
}
