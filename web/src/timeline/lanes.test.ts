import { expect, test } from 'vitest'
import type { Assembly, Bar } from '../api/client'
import { lanesOf } from './lanes'
import { snapTo } from './view'

const assembly = {
  nodes: [
    { id: '/', name: 'Pump' },
    { id: 'a', name: 'Screw' },
    { id: 'b', name: 'Screw' },
    { id: 'c', name: 'Cover' },
  ],
} as unknown as Assembly

function bar(cue: string, kind: Bar['kind'], targets: string[], start: number, length: number): Bar {
  return { cue, kind, targets, start, duration: length, step: 's', label: '' }
}

test('the camera has the first lane, and each set of targets its own, in the order of time', () => {
  const lanes = lanesOf(
    [bar('1', 'pull', ['c'], 0, 5), bar('2', 'fade', ['a', 'b'], 5, 5), bar('3', 'shot', [], 7, 1)],
    assembly,
  )
  expect(lanes.map((l) => [l.name, l.count])).toEqual([
    ['Camera', 0],
    ['Cover', 1],
    ['Screw', 2],
  ])
})

test('the same targets in another order share a lane', () => {
  const lanes = lanesOf([bar('1', 'pull', ['a', 'b'], 0, 5), bar('2', 'turn', ['b', 'a'], 5, 5)], assembly)
  expect(lanes).toHaveLength(1)
  expect(lanes[0]!.bars.map((b) => b.cue)).toEqual(['1', '2'])
})

test('bars that run at the same time lie below each other, and a free row is used again', () => {
  const [lane] = lanesOf(
    [bar('1', 'pull', ['a'], 0, 10), bar('2', 'turn', ['a'], 5, 10), bar('3', 'fade', ['a'], 10, 2)],
    assembly,
  )
  expect(lane!.rows).toEqual([0, 1, 0])
  expect(lane!.height).toBe(2)
})

test('a bar given out of order finds its row by its time', () => {
  const [lane] = lanesOf([bar('late', 'pull', ['a'], 10, 5), bar('early', 'pull', ['a'], 0, 10)], assembly)
  expect(lane!.rows).toEqual([0, 0])
})

test('without cues there is no lane', () => {
  expect(lanesOf([], assembly)).toEqual([])
})

const tree = {
  nodes: [
    { id: '/', name: 'Pump', parent: -1 },
    { id: 'head', name: 'Head', parent: 0 },
    { id: 'a', name: 'Screw', parent: 1 },
    { id: 'drive', name: 'Drive', parent: 0 },
    { id: 'b', name: 'Motor', parent: 3 },
  ],
} as unknown as Assembly
const some = [bar('1', 'pull', ['b'], 0, 5), bar('2', 'fade', ['a'], 5, 5), bar('3', 'card', [], 7, 1)]

test('lanes in the order of the tree stand under their groups, and a folded group is one lane', () => {
  const open = lanesOf(some, tree, { order: 'tree', folded: new Set() })
  expect(open.map((l) => l.name)).toEqual(['Cards', 'Head', 'Screw', 'Drive', 'Motor'])
  const folded = lanesOf(some, tree, { order: 'tree', folded: new Set(['group:head']) })
  expect(folded.map((l) => [l.name, l.bars.length])).toEqual([
    ['Cards', 1],
    ['Head', 1],
    ['Drive', 0],
    ['Motor', 1],
  ])
})

test('a folded lane takes one row', () => {
  const [lane] = lanesOf([bar('1', 'pull', ['a'], 0, 10), bar('2', 'turn', ['a'], 5, 10)], tree, {
    order: 'time',
    folded: new Set(['a']),
  })
  expect([lane!.height, lane!.full]).toEqual([1, 2])
})

test('a bar snaps to what is nearest within reach, to nothing beyond it', () => {
  expect(snapTo(100, [90, 108, 200], 10)).toBe(108)
  expect(snapTo(100, [80, 120], 10)).toBeNull()
})
