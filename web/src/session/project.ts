// The open project: its assembly, as it is arranged, what is known of its parts, and its reveals.
import { answer, api, Refused, words, type Report, type Schemas } from '../api/client'
import { Core } from '../core/core'
import { dressed, whole } from './dressed'
import { merged } from './merge'
import { nothing, type Part, type ProjectSlice } from './state'

let coreLoading: Promise<Core> | null = null

export function loadCore(): Promise<Core> {
  coreLoading ??= Core.load()
  return coreLoading
}

export const projectSlice: Part<ProjectSlice> = (set, get) => {
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

  // takeArranged lays a rearranged assembly in the editor, with the open reveal as
  // it is. One that does not fit another revision is fetched anew.
  const takeArranged = (a: Schemas['Arranged'], revised = false) => {
    const { core, doc, project, survey: known, selection } = get()
    if (!core || !project) return
    const others = a.geometry !== get().geometry
    core.openAssembly(a.assembly)
    if (known && !others) core.openSurvey(known)
    const there = new Set(a.assembly.nodes.map((n) => n.id))
    // What has been told from the revision before is another node now: the server has fitted the reveal.
    let state = null
    let fitted = false
    try {
      state = doc && !revised ? core.openReveal(doc) : null
    } catch {
      fitted = true
    }
    const again = core.variant(get().variant) // the one that was shown, whatever the reveal is for
    set({
      product: a.assembly,
      ...whole(a.assembly),
      ...dressed(a.assembly, state, again),
      arrangement: a.arrangement,
      geometry: a.geometry,
      survey: others ? null : known,
      selection: { ...selection, nodes: selection.nodes.filter((n) => there.has(n)) },
      ...(state && [state, again].reduce(merged, { doc: null, schedule: null })),
    })
    if (others) void survey(project.id)
    const { revealId } = get()
    if (fitted && revealId)
      void get()
        .openReveal(revealId)
        .catch((e: unknown) => set({ passing: false, message: `The reveal could not be opened again: ${words(e)}` }))
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
      if (get().unsent() === 0) set({ saving: 'saved' })
    }
  }

  return {
    core: null,
    project: null,
    product: null,
    assembly: null,
    variant: '',
    absent: new Set(),
    report: null,
    fileName: '',
    revisionId: '',
    importId: null,
    geometry: '',
    arrangement: null,
    survey: null,
    reveals: [],

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
        product: assembly,
        ...whole(assembly),
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

    async addReveal(title) {
      const project = get().project!
      const r = await answer(
        api.POST('/api/projects/{id}/reveals', { params: { path: { id: project.id } }, body: { title } }),
      )
      set({ reveals: [...get().reveals, r] })
      return r.id
    },

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
      get().leaveReveal()
      get().core?.close()
      set({ project: null, product: null, assembly: null, report: null, reveals: [] })
    },

    async refreshReveals() {
      const project = get().project
      if (!project) return
      const reveals = await answer(api.GET('/api/projects/{id}/reveals', { params: { path: { id: project.id } } }))
      if (get().project?.id === project.id) set({ reveals })
    },

    showVariant(id) {
      const { core, product } = get()
      if (!core || !product) return
      const state = core.variant(id)
      set({ ...merged(get(), state), ...dressed(product, state) })
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
      const revised = page.revision.id !== get().revisionId
      set({
        report: page.revision.report as Report,
        fileName: page.revision.fileName,
        revisionId: page.revision.id,
        importId: page.revision.importId,
      })
      takeArranged(page.arranged, revised)
      const { revealId } = get()
      if (!revised || !revealId) return
      await get()
        .openReveal(revealId)
        .catch((e: unknown) => set({ passing: false, message: `The reveal could not be opened again: ${words(e)}` }))
    },
  }
}
