// markedBelow says for each node whether it or something above it is in a set.
export function markedBelow(nodes: readonly { id: string; parent: number }[], ids: ReadonlySet<string>): boolean[] {
  const out: boolean[] = []
  nodes.forEach((n, i) => (out[i] = ids.has(n.id) || (n.parent >= 0 && out[n.parent]!)))
  return out
}
