import { expect, test } from 'vitest'
import type { Assembly, Bar } from '../api/client'
import { lanesOf } from './lanes'

const assembly = { nodes: [{ id: '/', name: 'Pump' }, { id: 'a', name: 'Screw' }, { id: 'b', name: 'Screw' }, { id: 'c', name: 'Cover' }] } as unknown as Assembly

function bar(cue: string, kind: Bar['kind'], targets: string[], start: number, length: number): Bar {
  return { cue, kind, targets, start, length, step: 's', label: '' }
}

test('the camera has the first lane, and each set of targets its own, in the order of time', () => {
  const lanes = lanesOf([bar('1', 'pull', ['c'], 0, 5), bar('2', 'fade', ['a', 'b'], 5, 5), bar('3', 'shot', [], 7, 1)], assembly)
  expect(lanes.map((l) => [l.name, l.count])).toEqual([['Camera', 0], ['Cover', 1], ['Screw', 2]])
})

test('the same targets in another order share a lane', () => {
  const lanes = lanesOf([bar('1', 'pull', ['a', 'b'], 0, 5), bar('2', 'turn', ['b', 'a'], 5, 5)], assembly)
  expect(lanes).toHaveLength(1)
  expect(lanes[0]!.bars.map((b) => b.cue)).toEqual(['1', '2'])
})

test('bars that run at the same time lie below each other, and a free row is used again', () => {
  const [lane] = lanesOf([bar('1', 'pull', ['a'], 0, 10), bar('2', 'turn', ['a'], 5, 10), bar('3', 'fade', ['a'], 10, 2)], assembly)
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
