import { expect, it } from 'vitest'
import type { Placed } from '../core/core'
import { useSession } from '../session/session'
import { useView } from './view'

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
