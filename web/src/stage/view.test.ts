import { afterEach, expect, it, vi } from 'vitest'
import type { Placed } from '../core/core'
import { useSession } from '../session/session'
import { picked, stepFeature, useView } from './view'

const face: Placed = {
  node: 'lid',
  feature: { kind: 'plane', axis: [0, 0, 1], centre: [0, 0, 0] } as Placed['feature'],
}

it('forgets what was pointed at when another assembly comes', () => {
  useView.setState({ reference: face, measured: [face] })
  useSession.setState({ hover: 'lid' })
  expect(useView.getState().reference).toBe(face)
  useSession.setState({ assembly: { nodes: [] } as never })
  expect(useView.getState()).toMatchObject({ reference: null, measured: [], relation: null })
})

afterEach(() => vi.unstubAllGlobals())

it('steps through what a part offers, on from what was pointed at with Alt', async () => {
  const features = [1, 2, 3, 4].map((radius) => ({ kind: 'cylinder', axis: [0, 0, 1], centre: [0, 0, 0], radius }))
  vi.stubGlobal('fetch', async () => {
    const headers = { 'content-type': 'application/json' }
    return new Response(JSON.stringify({ features, of: [0, 1, 2, 3] }), { headers })
  })
  const assembly = { nodes: [{ id: 'lid', shape: 0 }], shapes: [{ hash: 'h' }] }
  useSession.setState({ assembly: assembly as never, selection: { nodes: ['lid'], cues: [], step: null } as never })
  const radius = () => useView.getState().reference?.feature?.radius
  const at = (r: number) => vi.waitFor(() => expect(radius()).toBe(r))
  stepFeature(1)
  await at(1)
  picked({ node: 'lid', triangle: 2, point: [0, 0, 0], distance: 100 } as never, false, true)
  await at(3)
  stepFeature(1)
  await at(4)
  stepFeature(1)
  await at(1)
  stepFeature(-1)
  await at(4)
})
