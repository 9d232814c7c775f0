// An assembly as the core reads it (core/assembly/packed.go).
import type { Assembly } from '../api/client'

/** packed writes an assembly for the core: reading its JSON would take WebAssembly long. */
export function packed(
  a: Pick<Assembly, 'name' | 'nodes' | 'shapes' | 'finishes'> &
    Partial<Pick<Assembly, 'joints' | 'couplings' | 'variants' | 'hazards'>>,
): Uint8Array {
  const encoder = new TextEncoder()
  const { nodes, shapes } = a
  const head = encoder.encode(JSON.stringify({ ...a, nodes: [], shapes: [] }))
  const texts = encoder.encode(
    [...nodes.map((n) => n.id), ...nodes.map((n) => n.name), ...shapes.map((s) => s.hash)].join('\0'),
  )
  const finishes = nodes.reduce((sum, n) => sum + (n.finishes?.length ?? 0), 0)
  const out = new Uint8Array(20 + 68 * nodes.length + 80 * shapes.length + 4 * finishes + texts.length + head.length)
  const view = new DataView(out.buffer)
  let at = 0
  const whole = (v: number) => {
    view.setInt32(at, v, true)
    at += 4
  }
  const numbers = (list: readonly number[]) =>
    list.forEach((v) => {
      view.setFloat64(at, v, true)
      at += 8
    })
  for (const n of [nodes.length, shapes.length, finishes, texts.length, head.length]) whole(n)
  for (const n of nodes) {
    numbers(n.pose.move)
    numbers(n.pose.turn)
  }
  for (const s of shapes) {
    numbers(s.min)
    numbers(s.max)
    numbers(s.heart ?? [NaN, NaN, NaN])
  }
  for (const n of nodes) [n.parent, n.shape, n.finishes?.length ?? 0].forEach(whole)
  for (const s of shapes) [s.triangles, s.submeshes].forEach(whole)
  for (const n of nodes) n.finishes?.forEach(whole)
  out.set(texts, at)
  out.set(head, at + texts.length)
  return out
}
