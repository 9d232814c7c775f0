import { namesOf, nodeById, useSession } from '../session/session'
import { setSuppressed, setOpeningOpacity } from '../session/steps'
import { Button } from '../ui/controls'
import { NumberField } from '../ui/NumberField'
import { Field, Head } from './fields'
import { written } from '../core/written'

// PartFields shows picked parts.
export function PartFields({ ids }: { ids: string[] }) {
  const assembly = useSession((s) => s.assembly)!
  const doc = useSession((s) => s.doc)!
  const node = nodeById(assembly).get(ids[0]!)
  const shape = node && node.shape >= 0 ? assembly.shapes[node.shape] : undefined
  const out = ids.every((id) => doc.opening.suppressed?.includes(id))
  const size = shape && shape.max.map((v, i) => v - shape.min[i]!)
  return (
    <>
      <Head title={<span className="truncate">{namesOf(assembly, ids)}</span>} />
      {ids.length === 1 && shape && size && (
        <>
          <Field label="Size">
            <span className="mono text-right text-[11.5px]">
              {size.map((v) => written(v, 'plain', 1)).join(' × ')} mm
            </span>
          </Field>
          <Field label="Finish">
            <span className="truncate text-right">{assembly.finishes[node!.finishes?.[0] ?? 0]?.name}</span>
          </Field>
        </>
      )}
      {ids.length === 1 && (
        <Field label="Opens with">
          <NumberField
            label="Opacity in the opening"
            quantity="percent"
            value={(doc.opening.opacities?.find((o) => o.node === ids[0])?.opacity ?? 1) * 100}
            onChange={(v) => setOpeningOpacity(ids[0]!, v / 100)}
          />
        </Field>
      )}
      <div className="mt-2">
        <Button className="w-full" onClick={() => setSuppressed(ids, !out)}>
          {out ? 'Bring back' : 'Leave out of this reveal'}
        </Button>
      </div>
    </>
  )
}
