// Ways from one pick to another, and what is in sight. The core finds; this
// hands over.
import { words } from '../api/client'
import type { PickRule } from '../core/core'
import { useSession } from './session'

export function pickBy(rule: PickRule) {
  const { core, selection, select, tell } = useSession.getState()
  if (!core || selection.nodes.length === 0) return
  try {
    const nodes = core.ask<string[]>({ ask: 'pick', rule, nodes: selection.nodes })
    if (nodes.length > 0) select({ nodes })
    else tell('Nothing was found from these parts.')
  } catch (e) {
    tell(words(e))
  }
}

export function growToParent() {
  const { assembly, selection, select } = useSession.getState()
  const nodes = assembly?.nodes ?? []
  const grown = selection.nodes.flatMap((id) => {
    const n = nodes.find((x) => x.id === id)
    return n && n.parent >= 0 ? [nodes[n.parent]!.id] : []
  })
  if (grown.length > 0) select({ nodes: [...new Set(grown)] })
}

export function invertPick() {
  const { assembly, selection, select } = useSession.getState()
  if (!assembly) return
  const inside = markedBelow(assembly.nodes, new Set(selection.nodes))
  select({ nodes: assembly.nodes.filter((n, i) => n.shape >= 0 && !inside[i]).map((n) => n.id) })
}

// markedBelow says for each node whether it or something above it is in a set.
export function markedBelow(nodes: readonly { id: string; parent: number }[], ids: ReadonlySet<string>): boolean[] {
  const out: boolean[] = []
  nodes.forEach((n, i) => (out[i] = ids.has(n.id) || (n.parent >= 0 && out[n.parent]!)))
  return out
}

export function hidePicked() {
  const { selection, hidden, hide, select } = useSession.getState()
  hide([...new Set([...hidden, ...selection.nodes])])
  select({})
}

export function isolatePicked() {
  const { assembly, selection, hide } = useSession.getState()
  if (!assembly || selection.nodes.length === 0) return
  const inside = markedBelow(assembly.nodes, new Set(selection.nodes))
  hide(assembly.nodes.filter((n, i) => n.shape >= 0 && !inside[i]).map((n) => n.id))
}
