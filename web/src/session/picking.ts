// Ways from one pick to another, and what is in sight. The core finds; this
// hands over.
import { words } from '../api/client'
import type { PickRule } from '../core/core'
import { markedBelow } from '../core/tree'
import { nodeById, useSession } from './session'

const many = 200 // parts: what has been found is shown and told of in tasks of their own, so that none keeps the page waiting

export function pickBy(rule: PickRule) {
  const { core, selection, select, tell } = useSession.getState()
  if (!core || selection.nodes.length === 0) return
  try {
    const nodes = core.ask('pick', { rule, nodes: selection.nodes })
    const had = new Set(selection.nodes)
    const more = nodes.filter((n) => !had.has(n)).length
    if (more === 0)
      return useSession.getState().inform(
        {
          like: 'No other part is like it.',
          fasteners: 'Nothing seems to hold it: no fastener touches it.',
          neighbours: 'It touches no other part.',
          inside: 'No other part lies inside its box.',
        }[rule],
      )
    const later = nodes.length > many ? (what: () => void) => void setTimeout(what) : (what: () => void) => what()
    later(() => select({ nodes }))
    if (rule === 'like') later(() => tellAlike(selection.nodes, nodes))
  } catch (e) {
    tell(words(e))
  }
}

// tellAlike says over what parts have been found, and offers those of the same group alone.
function tellAlike(from: readonly string[], found: readonly string[]) {
  const { assembly, inform, select } = useSession.getState()
  const by = nodeById(assembly)
  const groups = new Set(from.map((id) => by.get(id)?.parent))
  const near = found.filter((id) => groups.has(by.get(id)?.parent))
  // Groups that are called the same but for a number are groups of one kind.
  const groupName = (id: string) => assembly?.nodes[by.get(id)?.parent ?? -1]?.name.replace(/[\s_.:~-]*\d+$/, '')
  const called = groupName(from[0]!)
  const same = found.filter((id) => groupName(id) === called)
  const fewer =
    near.length > 1
      ? { nodes: near, text: `Only the ${near.length} in this group` }
      : { nodes: same, text: `Only the ${same.length} in groups called “${called}”` }
  const all = `${found.length} parts are alike in the whole assembly.`
  if (fewer.nodes.length === found.length || fewer.nodes.length < 2) inform(all)
  else inform(all, { text: fewer.text, run: () => select({ nodes: fewer.nodes }) })
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
