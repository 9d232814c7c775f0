// The product as one of its variants has it.
import type { Assembly } from '../api/client'
import type { State } from '../core/core'
import type { ProjectSlice } from './state'

type Worn = Pick<ProjectSlice, 'assembly' | 'variant' | 'absent'>

/** whole is the product with all of its parts. */
export const whole = (product: Assembly): Worn => ({ assembly: product, variant: '', absent: new Set() })

/** dressed is what is otherwise after the core has shown a variant: nothing where it showed it before. */
export function dressed(product: Assembly | null, ...states: (State | null)[]): Worn | undefined {
  const d = states.reduce<State['dressed']>((last, s) => s?.dressed ?? last, undefined)
  if (!d || !product) return undefined
  const changed = new Map(d.nodes.map((n) => [n.id, n]))
  return {
    variant: d.variant,
    absent: new Set(d.absent),
    assembly: d.variant
      ? {
          ...product,
          finishes: d.finishes,
          nodes: product.nodes.map((n) => {
            const now = changed.get(n.id)
            return now ? { ...n, name: now.name, finishes: now.finishes, pose: now.pose } : n
          }),
        }
      : product,
  }
}
