import type { Assembly, Bar } from '../api/client'
import { namesOf } from '../session/session'

export interface Lane {
  key: string
  name: string
  count: number
  bars: Bar[]
  /** The row of each bar: bars that run at the same time lie below each other. */
  rows: number[]
  height: number // in rows
}

// Cues without targets are those of the camera, and cards.
const fixed: Record<string, string> = { shot: 'Camera', orbit: 'Camera', card: 'Cards' }

// lanesOf gives the camera its lane, and each set of targets one, in the order
// in which they first do something.
export function lanesOf(bars: readonly Bar[], assembly: Assembly | null): Lane[] {
  const lanes = new Map<string, Lane>()
  for (const name of ['Cards', 'Camera']) if (bars.some((b) => fixed[b.kind] === name)) lanes.set(name, { key: name, name, count: 0, bars: [], rows: [], height: 1 })
  for (const b of bars) {
    const targets = b.targets ?? []
    const key = fixed[b.kind] ?? [...targets].sort().join('\n')
    let lane = lanes.get(key)
    if (!lane) {
      lane = { key, name: namesOf(assembly, targets).replace(/^\d+ × /, ''), count: targets.length, bars: [], rows: [], height: 1 }
      lanes.set(key, lane)
    }
    lane.bars.push(b)
  }
  for (const lane of lanes.values()) stack(lane)
  return [...lanes.values()]
}

function stack(lane: Lane) {
  const ends: number[] = []
  const order = lane.bars.map((_, i) => i).sort((a, b) => lane.bars[a]!.start - lane.bars[b]!.start)
  for (const i of order) {
    const b = lane.bars[i]!
    let row = ends.findIndex((end) => end <= b.start)
    if (row < 0) row = ends.length
    ends[row] = b.start + b.length
    lane.rows[i] = row
  }
  lane.height = Math.max(1, ends.length)
}
