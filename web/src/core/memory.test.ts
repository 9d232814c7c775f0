// What the core needs does not grow with how often something is opened.
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { expect, test, vi } from 'vitest'
import type { Core as CoreType } from './core'

async function load(): Promise<CoreType> {
  vi.stubGlobal(
    'fetch',
    async () =>
      new Response(await readFile(join(import.meta.dirname, 'core.wasm')), {
        headers: { 'content-type': 'application/wasm' },
      }),
  )
  const { Core } = await import('./core')
  return Core.load()
}

const pose = { move: [1, 2, 3], turn: [0, 0, 0, 1] }

/** An assembly of many parts, each with a shape of its own. */
function large(parts: number, name: string) {
  const nodes = [{ id: '/', name, parent: -1, shape: -1, pose }]
  for (let i = 0; i < parts; i++)
    nodes.push({ id: `part-${i}`, name: `${name} ${i}`, parent: 0, shape: i, pose, finishes: [0] } as never)
  const shapes = Array.from({ length: parts }, (_, i) => ({
    hash: i.toString(16).padStart(64, '0'),
    triangles: 12,
    submeshes: 1,
    min: [0, 0, 0],
    max: [10, 10, 10],
  }))
  return {
    name,
    nodes,
    shapes,
    finishes: [{ name: 'Steel', colour: [0.5, 0.5, 0.5], opacity: 1, metalness: 1, roughness: 0.4 }],
  }
}

test('memory does not grow with how often 10,000 parts are opened', async () => {
  const core = await load()
  const used: number[] = []
  for (let k = 0; k < 9; k++) {
    core.openAssembly(large(10_000, `assembly ${k}`))
    core.at(0)
    core.ask('fit', {
      nodes: [],
      from: { target: [0, 0, 0], orientation: [0, 0, 0, 1], distance: 1, focalLength: 50 },
      aspect: 1.78,
      margin: 0.2,
    })
    used.push(core.memory())
    if (k % 2 === 1) core.close()
  }
  console.log(`WebAssembly memory by opening, MB: ${used.map((n) => (n / 2 ** 20).toFixed(0)).join(' ')}`)
  // Keeping what an opening holds took it from 22 to 101 MB. WebAssembly's memory never shrinks and grows by
  // steps of 2 to 4 MB when the collector comes late, so that one step is no growth with every opening.
  expect(used[8]! - used[1]!).toBeLessThan(5 * 2 ** 20)
}, 120_000)
