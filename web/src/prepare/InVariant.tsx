import type { Schemas } from '../api/client'
import { labelOf, useSession } from '../session/session'
import { standAsDirected, useShownVariant, useVariants, vary } from '../session/variants'
import { Button, Tip } from '../ui/controls'

// InVariant is what can be said of the picked parts in the variant that is shown.
export function InVariant({ ids, node }: { ids: string[]; node: Schemas['Node'] }) {
  const v = useShownVariant()
  const others = useVariants().length > 1
  const product = useSession((s) => s.product)!
  const absent = useSession((s) => s.absent)
  if (!v || node.parent < 0) return null
  const out = ids.every((id) => absent.has(id))
  const posed = v.poses?.some((p) => ids.includes(p.node))
  const worn = v.finishes?.some((f) => f.nodes.some((id) => ids.includes(id)))
  const called = ids.length === 1 && v.names?.some((n) => n.node === ids[0])
  const by = v.instead?.find((e) => e.of === ids[0])?.by
  return (
    <section aria-label={`In ${v.name}`} className="mt-4 border-t border-line pt-3">
      <h3 className="mb-1.5 font-semibold">In “{v.name}”</h3>
      <p className="mb-1.5 text-[12.5px] text-ink-2">
        {by
          ? `${labelOf(product, by)} is there in its place: what is directed for it is directed for that.`
          : out
            ? 'Not in it.'
            : 'While this variant is shown, name and finish are set in it alone.'}
      </p>
      <div className="grid grid-cols-2 gap-1.5">
        {out ? (
          <Button onClick={() => void vary({ do: 'putBack', nodes: ids })}>Put back</Button>
        ) : (
          <Button onClick={() => void vary({ do: 'leaveOut', nodes: ids })}>Leave out</Button>
        )}
        {others && !out && (
          <Tip text="All other variants are without it">
            <Button onClick={() => void vary({ do: 'onlyIn', nodes: ids })}>Only in this one</Button>
          </Tip>
        )}
        {ids.length === 2 && (
          <Tip text="What was picked second is there in the place of the first, and in this variant alone">
            <Button className="col-span-2" onClick={() => void vary({ do: 'standIn', nodes: ids })}>
              <span className="truncate">The second stands in for the first</span>
            </Button>
          </Tip>
        )}
        {!out && (
          <Tip text="They stand in this variant where the reveal has them at the playhead">
            <Button className="col-span-2" onClick={() => standAsDirected(ids)}>
              Stand as at the playhead
            </Button>
          </Tip>
        )}
        {posed && <Button onClick={() => void vary({ do: 'poseIn', nodes: ids })}>Stand as usual</Button>}
        {worn && <Button onClick={() => void vary({ do: 'wearIn', nodes: ids })}>Look as usual</Button>}
        {called && <Button onClick={() => void vary({ do: 'callIn', node: ids[0]! })}>Name as usual</Button>}
      </div>
    </section>
  )
}
