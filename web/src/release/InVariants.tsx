import { useSession } from '../session/session'
import { useVariants } from '../session/variants'
import { Tick } from '../ui/controls'
import { Row } from './fields'
import { useOrder } from './settings'

// InVariants says in which of the product's variants an output is made: one in each.
export function InVariants() {
  const list = useVariants()
  const own = useSession((s) => list.find((v) => v.id === s.doc?.variants?.for)?.name)
  const variants = useOrder((o) => o.variants)
  if (list.length === 0) return null
  const toggle = (id: string, on: boolean) =>
    useOrder.setState({ variants: on ? [...variants, id] : variants.filter((v) => v !== id) })
  return (
    <Row label="Variants" hint={variants.length > 1 ? `${variants.length} outputs` : 'one output each'}>
      <div className="grid grid-cols-2 gap-x-3">
        {list.map((v) => (
          <Tick key={v.id} on={variants.includes(v.id)} onChange={(on) => toggle(v.id, on)}>
            {v.name}
          </Tick>
        ))}
        <Tick on={variants.includes('-')} onChange={(on) => toggle('-', on)}>
          All parts
        </Tick>
      </div>
      {variants.length === 0 && (
        <p className="mt-0.5 text-[12px] text-ink-2">
          None chosen: it is made {own ? `for “${own}”, as the reveal is` : 'with all parts'}.
        </p>
      )}
    </Row>
  )
}
