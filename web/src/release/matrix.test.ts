import { describe, expect, it } from 'vitest'
import type { Output } from '../api/client'
import { rowsOf } from './Matrix'
import type { Settings } from './settings'

const variants = [
  { id: 'a', name: 'Standard' },
  { id: 'b', name: 'Heated' },
]

const made = (id: string, settings: Settings): Output =>
  ({ id, settings, state: 'done', behind: '', version: 1 }) as unknown as Output

describe('outputs by variant', () => {
  it('are a row where only the variant is another one, the newest of each', () => {
    const rows = rowsOf(
      [
        made('4', { kind: 'film', width: 640, variant: 'a' }),
        made('3', { kind: 'film', width: 640, variant: 'b' }),
        made('2', { kind: 'film', width: 640, variant: 'a' }),
        made('1', { kind: 'glb', variant: '-' }),
      ],
      variants,
    )
    expect(rows.map((r) => [...r.in].map(([v, o]) => v + o.id))).toEqual([['a4', 'b3'], ['-1']])
  })

  it('keep the names that they were given, each with its own variant', () => {
    const [row] = rowsOf(
      [
        made('3', { kind: 'film', variant: '-', name: 'Client film, all parts' }),
        made('2', { kind: 'film', variant: 'b', name: 'Client film, Heated' }),
        made('1', { kind: 'film', variant: 'a', name: 'Client film, Standard' }),
      ],
      variants,
    )
    expect(row!.settings.name).toBe('Client film, {variant}')
    expect(rowsOf([made('1', { kind: 'glb', variant: 'a', name: 'For the shop' })], variants)[0]!.settings.name).toBe(
      'For the shop',
    )
  })
})
