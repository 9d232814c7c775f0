// What nodes are called.
import type { Assembly, Node } from '../api/client'

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
export const labelOf = (assembly: Assembly | null, id: string): string =>
  (assembly && labelsOf(assembly).get(id)) ?? formerName(id)

// formerName is what a node that is gone was called, as far as its id, which its names have made, still tells.
function formerName(id: string): string {
  const words = id
    .slice(id.lastIndexOf('/') + 1)
    .replace(/~\d+$/, '')
    .replaceAll('-', ' ')
  return words === '' ? id : `${words[0]!.toUpperCase()}${words.slice(1)}, gone`
}

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
  if (ids.length === 0) return ''
  const first = map.get(ids[0]!)?.name ?? formerName(ids[0]!)
  const same = ids.every((id) => (map.get(id)?.name ?? formerName(id)) === first)
  return same ? `${ids.length} × ${first}` : `${first} and ${ids.length - 1} more`
}
