// The variants of the open product, as pages change them; what a change means is decided by the core (core/arrange).
import type { Schemas } from '../api/client'
import { useSession } from './session'
import { useTransport } from './transport'

export type Variant = Schemas['Variant']

/** variants are those of the open product. */
export const useVariants = (): readonly Variant[] => useSession((s) => s.product?.variants) ?? none
const none: readonly Variant[] = []

/** useShownVariant is the variant that is shown, undefined for the whole product. */
export const useShownVariant = (): Variant | undefined =>
  useSession((s) => s.product?.variants?.find((v) => v.id === s.variant))

/** asked is how an address asks for the variant that is shown. */
export const asked = (variant: string) => variant || '-'

/** addVariant makes one, like another where that is given, and shows it. */
export async function addVariant(like?: Variant) {
  const { product, arrange, showVariant } = useSession.getState()
  const names = new Set(product?.variants?.map((v) => v.name))
  const base = like ? `${like.name}, copy` : 'Variant'
  let name = like ? base : `${base} 1`
  for (let n = 2; names.has(name); n++) name = `${base} ${n}`
  const id = crypto.randomUUID().slice(0, 8)
  if (await arrange({ do: 'setVariants', variants: [{ ...like, id, name }] })) showVariant(id)
}

/** vary changes what is otherwise in the variant that is shown. */
export function vary(edit: Schemas['Edit']): Promise<boolean> {
  const { variant, arrange } = useSession.getState()
  return arrange({ ...edit, variantId: variant })
}

/** standAsDirected has parts stand in the variant as the reveal has them at the playhead. */
export function standAsDirected(nodes: string[]) {
  const { core } = useSession.getState()
  if (core) void vary({ do: 'poseIn', nodes, poses: core.ask('posed', { nodes, time: useTransport.getState().time }) })
}
