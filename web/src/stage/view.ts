// What the author looks at and how: a section through the assembly, two features
// to measure between. Nothing of it is ever recorded.
import { create } from 'zustand'
import { answer, api, words, type Schemas } from '../api/client'
import type { AxisOffer, Placed, Relation } from '../core/core'
import { markedBelow } from '../core/tree'
import { useSession } from '../session/session'
import type { Hit } from './finder'
import { exactly } from '../core/written'

export interface Section {
  axis: 0 | 1 | 2
  /** Where it cuts, mm along the axis in the world. */
  at: number
  flip: boolean
}

/** A node that was pointed at, and what of it, where that is a plane, an axis or an
 * edge. */
export interface Referred {
  node: string
  feature?: Schemas['Feature']
}

interface View {
  section: Section | null
  measuring: boolean
  measured: Placed[]
  relation: Relation | null
  /** What was pointed at to give a movement its direction and pivot. */
  reference: Referred | null
  /** Counts how often the eye has moved, for what is drawn over the stage. */
  looked: number
  /** Counts how often the parts have moved on the stage. */
  moved: number
  setReference(f: Referred | null): void
  setSection(s: Section | null): void
  setMeasuring(on: boolean): void
  add(f: Placed): void
}

export const useView = create<View>((set, get) => ({
  section: null,
  measuring: false,
  measured: [],
  relation: null,
  reference: null,
  looked: 0,
  moved: 0,
  setReference: (reference) => set({ reference }),
  setSection: (section) => set({ section }),
  setMeasuring: (measuring) => set({ measuring, measured: [], relation: null }),
  add(f) {
    const now = get().measured
    const measured = now.length === 1 ? [now[0]!, f] : [f]
    const core = useSession.getState().core
    const relation = measured.length === 2 && core ? core.ask('between', { a: measured[0]!, b: measured[1]! }) : null
    set({ measured, relation })
  },
}))

// What was pointed at names nodes: with another assembly, or the same one arranged
// anew, they may be gone.
useSession.subscribe((s, before) => {
  if (s.selection.nodes !== before.selection.nodes && useView.getState().reference)
    useView.setState({ reference: null })
  if (s.assembly !== before.assembly) useView.setState({ measured: [], relation: null, reference: null })
})

const known = new Map<string, Promise<Schemas['ShapeFeatures']>>()

function featuresOf(hash: string) {
  let f = known.get(hash)
  if (!f) {
    f = answer(api.GET('/api/shapes/{hash}/features', { params: { path: { hash } } }))
    f.catch(() => known.delete(hash))
    known.set(hash, f)
  }
  return f
}

// stepFeature points at the next face, axis or edge of the picked part, or the one before, as Alt and a click do.
export function stepFeature(by: number) {
  const s = useSession.getState()
  const node = s.assembly?.nodes.find((n) => n.id === s.selection.nodes[0])
  if (!node || node.shape < 0) return s.tell('Pick a single part first: its faces, axes and edges are stepped through.')
  featuresOf(s.assembly!.shapes[node.shape]!.hash).then(
    ({ features }) => {
      if (features.length === 0) return s.tell('This part has neither a plane, a cylinder nor a straight edge.')
      const { reference, setReference } = useView.getState()
      const before = reference?.node === node.id ? features.findIndex((f) => f === reference.feature) : -1
      const at = before < 0 && by < 0 ? features.length - 1 : (before + by + features.length) % features.length
      const f = features[at]!
      setReference({ node: node.id, feature: f })
      const what =
        f.kind === 'plane'
          ? 'Plane'
          : f.kind === 'line'
            ? `Edge, ${exactly(f.length!, 'length', 1)}`
            : `${f.hole ? 'Hole' : 'Cylinder'}, Ø ${exactly(2 * f.radius!, 'length', 1)}`
      s.inform(`${what}: ${at + 1} of ${features.length}. The next move goes along it.`)
    },
    (e: unknown) => s.tell(words(e)),
  )
}

// picked takes a click on the stage: it picks, measures or, with Alt, refers to a
// face, an axis or an edge.
export function picked(hit: Hit | null, add: boolean, refer: boolean) {
  const s = useSession.getState()
  const take = (f: Placed) => (refer ? useView.getState().setReference(f) : useView.getState().add(f))
  if (!useView.getState().measuring && !refer) {
    if (hit) s.pickNode(hit.node, add)
    else if (!add) s.select({})
    return
  }
  const node = hit && s.assembly?.nodes.find((n) => n.id === hit.node)
  if (!hit || !node || node.shape < 0) return
  featuresOf(s.assembly!.shapes[node.shape]!.hash).then(
    (f) => {
      const lines = f.features.filter((x) => x.kind === 'line')
      // An edge within about four pixels goes before the face beside it.
      const edge =
        s.core && lines.length > 0
          ? s.core.ask('edgeAt', { node: hit.node, lines, point: hit.point, distance: hit.distance * 0.004 })
          : -1
      if (edge >= 0) return take({ node: hit.node, feature: lines[edge]! })
      const at = f.of[hit.triangle] ?? -1
      if (at < 0 && refer) useView.getState().setReference({ node: hit.node })
      else if (at < 0) s.tell('There is neither a plane, a cylinder nor a straight edge here. Point at another place.')
      else take({ node: hit.node, feature: f.features[at]! })
    },
    (e: unknown) => s.tell(words(e)),
  )
}

// How many parts of a group are asked for their round surfaces.
const mostParts = 30

/** axesOf lists axes for a joint of a body: those of the round surfaces of nodes, or of one thing that was pointed at. */
export async function axesOf(body: string, nodes: readonly string[], pointed?: Placed): Promise<AxisOffer[]> {
  const { assembly, core } = useSession.getState()
  if (!assembly || !core) return []
  const features: Placed[] = pointed ? [pointed] : []
  const among = markedBelow(assembly.nodes, new Set(nodes))
  const parts = assembly.nodes.filter((n, i) => among[i] && n.shape >= 0).slice(0, mostParts)
  await Promise.all(
    parts.map(async (part) => {
      const found = await featuresOf(assembly.shapes[part.shape]!.hash).catch(() => null)
      for (const feature of found?.features ?? [])
        if (feature.kind === 'cylinder') features.push({ node: part.id, feature })
    }),
  )
  if (useSession.getState().assembly !== assembly) return []
  return core.ask('axes', { body, features })
}
