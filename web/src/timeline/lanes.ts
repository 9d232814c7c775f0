import type { Assembly, Bar } from '../api/client'
import { namesOf } from '../session/session'

export interface Lane {
  key: string
  name: string
  count: number
  bars: Bar[]
}

// lanesOf gives the camera its lane, and each set of targets one, in the order
// in which they first do something.
export function lanesOf(bars: readonly Bar[], assembly: Assembly | null): Lane[] {
  const lanes = new Map<string, Lane>()
  if (bars.some((b) => b.kind === 'shot')) lanes.set('', { key: '', name: 'Camera', count: 0, bars: [] })
  for (const b of bars) {
    const targets = b.targets ?? []
    const key = b.kind === 'shot' ? '' : [...targets].sort().join('\n')
    let lane = lanes.get(key)
    if (!lane) {
      lane = { key, name: namesOf(assembly, targets).replace(/^\d+ × /, ''), count: targets.length, bars: [] }
      lanes.set(key, lane)
    }
    lane.bars.push(b)
  }
  return [...lanes.values()]
}
