import type { Assembly, Bar } from '../api/client'
import { namesOf, nodeById } from '../session/session'

export interface Lane {
  key: string
  name: string
  count: number
  bars: Bar[]
  /** The row of each bar: bars that run at the same time lie below each other. */
  rows: number[]
  height: number // in rows
  /** How many rows it has when it is not folded. */
  full: number
  /** That it stands for a group of lanes: how many. */
  group?: number
}

export interface Order {
  order: 'time' | 'tree'
  folded: ReadonlySet<string>
}

// Cues without targets are those of the camera, and cards.
const fixed: Record<string, string> = { shot: 'Camera', orbit: 'Camera', card: 'Cards' }

// lanesOf gives cards and camera a lane each, and each set of targets one: in the
// order in which they first do something, or in that of the tree, under the group of
// the assembly that they are in. What is folded takes one row.
export function lanesOf(
  bars: readonly Bar[],
  assembly: Assembly | null,
  { order, folded }: Order = { order: 'time', folded: new Set() },
): Lane[] {
  const lanes = new Map<string, Lane>()
  const make = (key: string, name: string, count: number) => {
    const lane: Lane = { key, name, count, bars: [], rows: [], height: 1, full: 1 }
    lanes.set(key, lane)
    return lane
  }
  for (const name of ['Cards', 'Camera']) if (bars.some((b) => fixed[b.kind] === name)) make(name, name, 0)
  const keys = new Map<readonly string[], string>() // twins of one list need no sorting again
  for (const b of bars) {
    const targets = b.targets ?? []
    let key = fixed[b.kind] ?? keys.get(targets)
    if (key === undefined) {
      key = targets.length === 1 ? targets[0]! : [...targets].sort().join('\n')
      keys.set(targets, key)
    }
    const lane = lanes.get(key) ?? make(key, namesOf(assembly, targets).replace(/^\d+ × /, ''), targets.length)
    lane.bars.push(b)
  }
  for (const lane of lanes.values()) stack(lane, folded.has(lane.key))
  return order === 'time' ? [...lanes.values()] : grouped([...lanes.values()], assembly, folded)
}

// grouped puts lanes below the subassemblies of the first level.
function grouped(lanes: Lane[], assembly: Assembly | null, folded: ReadonlySet<string>): Lane[] {
  const nodes = assembly?.nodes ?? []
  const index = new Map(nodes.map((n, i) => [n.id, i]))
  const names = nodeById(assembly)
  const place = (l: Lane) =>
    fixed[l.bars[0]?.kind ?? ''] ? -1 : (index.get(l.bars[0]?.targets?.[0] ?? '') ?? nodes.length)
  const above = (l: Lane) => {
    let i = place(l)
    while (i > 0 && (nodes[i]?.parent ?? 0) > 0) i = nodes[i]!.parent
    return i > 0 ? (nodes[i]?.id ?? '') : ''
  }
  const groups = new Map<string, Lane[]>()
  for (const l of [...lanes].sort((a, b) => place(a) - place(b)))
    groups.set(above(l), [...(groups.get(above(l)) ?? []), l])
  return [...groups].flatMap(([id, inside]) => {
    if (id === '') return inside
    const key = `group:${id}`
    const head: Lane = {
      key,
      name: names.get(id)?.name ?? id,
      count: 0,
      bars: [],
      rows: [],
      height: 1,
      full: 1,
      group: inside.length,
    }
    if (!folded.has(key)) return [head, ...inside]
    head.bars = inside.flatMap((l) => l.bars)
    head.rows = head.bars.map(() => 0)
    return [head]
  })
}

function stack(lane: Lane, folded: boolean) {
  const ends: number[] = []
  const order = lane.bars.map((_, i) => i).sort((a, b) => lane.bars[a]!.start - lane.bars[b]!.start)
  for (const i of order) {
    const b = lane.bars[i]!
    let row = ends.findIndex((end) => end <= b.start)
    if (row < 0) row = ends.length
    ends[row] = b.start + b.duration
    lane.rows[i] = row
  }
  lane.full = Math.max(1, ends.length)
  if (folded) lane.rows.fill(0)
  lane.height = folded ? 1 : lane.full
}
