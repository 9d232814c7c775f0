import { describe, expect, it } from 'vitest'
import type { Assembly } from '../api/client'
import { labelOf, namesOf, nodeById } from './labels'

const node = (id: string, name: string, parent: number) => ({ id, name, parent, shape: parent < 0 ? -1 : 0 })
const pump = {
  nodes: [
    node('/', 'Pump', -1),
    node('head', 'Head', 0),
    node('housing', 'Housing', 0),
    node('head/screw', 'Screw', 1),
    node('head/screw~2', 'Screw', 1),
    node('housing/screw', 'Screw', 2),
    node('housing/foot', 'Foot', 2),
    node('housing/foot~2', 'Foot', 2),
  ],
} as unknown as Assembly

describe('what nodes are called', () => {
  it('says the group where others of that name are elsewhere, and which of several it is', () => {
    expect(labelOf(pump, 'head')).toBe('Head')
    expect(labelOf(pump, 'head/screw')).toBe('Screw, 1 of 2 · Head')
    expect(labelOf(pump, 'head/screw~2')).toBe('Screw, 2 of 2 · Head')
    expect(labelOf(pump, 'housing/screw')).toBe('Screw · Housing')
    expect(labelOf(pump, 'housing/foot~2')).toBe('Foot, 2 of 2')
  })

  it('of one that is gone is what its id tells', () => {
    expect(labelOf(pump, 'head/door-panel~3')).toBe('Door panel, gone')
    expect(labelOf(null, 'head/door')).toBe('Door, gone')
    expect(labelOf(pump, 'housing/')).toBe('housing/')
    expect(namesOf(pump, ['head/rib', 'head/rib~2'])).toBe('2 × Rib, gone')
    expect(namesOf(pump, ['head/rib', 'head'])).toBe('Rib, gone and 1 more')
  })

  it('of several is their common name with how many, or the first and the rest', () => {
    expect(namesOf(pump, [])).toBe('')
    expect(namesOf(pump, ['head'])).toBe('Head')
    expect(namesOf(pump, ['head/screw', 'housing/screw', 'head/screw~2'])).toBe('3 × Screw')
    expect(namesOf(pump, ['housing', 'head', 'head/screw'])).toBe('Housing and 2 more')
  })

  it('is made once for an assembly', () => {
    expect(nodeById(pump)).toBe(nodeById(pump))
    expect(nodeById(null).size).toBe(0)
  })
})
