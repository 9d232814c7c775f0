import { useEffect, useMemo, useState } from 'react'
import type { Way, Ways } from '../core/core'
import { addMove, type MoveKind } from '../session/actions'
import { namesOf, useSession } from '../session/session'
import { Choice } from '../ui/controls'
import { Glyph, kindNames } from '../ui/glyphs'
import { NumberField } from '../ui/NumberField'

const kinds: readonly MoveKind[] = ['pull', 'turn', 'unscrew', 'fade']

/** What the card is set to, so that keys can do what its buttons do. */
export const card: { make: ((kind: MoveKind) => void) | null } = { make: null }

// MoveCard offers, for the picked parts, where they can go. It stands on the
// stage; what it makes starts at the playhead.
export function MoveCard() {
  const nodes = useSession((s) => s.selection.nodes)
  const assembly = useSession((s) => s.assembly)
  const core = useSession((s) => s.core)
  const doc = useSession((s) => s.doc)
  const [axes, setAxes] = useState<Way['axes']>('own')
  const [at, setAt] = useState('+Z')
  const ways = useMemo<Ways | null>(() => (core && doc && nodes.length > 0 ? core.ask<Ways>({ ask: 'ways', nodes }) : null), [core, doc, nodes])
  const [distance, setDistance] = useState<number | null>(null)
  useEffect(() => setDistance(null), [nodes])
  const offered = ways?.ways?.filter((w) => w.axes === axes) ?? []
  const way = offered.find((w) => w.label === at)
  const far = distance ?? ways?.distance ?? 40

  useEffect(() => {
    card.make = ways && way ? (kind) => addMove(kind, nodes, way, ways, far) : null
    return () => void (card.make = null)
  }, [ways, way, nodes, far])

  if (!ways || !assembly || nodes.length === 0 || !doc) return null
  return (
    <div role="group" aria-label="Move the pick" className="absolute top-3 left-3 w-[236px] border border-ink bg-sheet/95 shadow-[0_6px_18px_rgb(27_35_38/0.12)]">
      <div className="truncate px-3 pt-2 pb-1.5 font-semibold">{namesOf(assembly, nodes)}</div>
      <div className="px-3 pb-2">
        <Choice<Way['axes']> label="Axes" value={axes} onChange={setAxes} className="w-full"
          options={[{ value: 'own', text: 'Own', tip: 'Its own axes: they travel and turn with it' }, { value: 'parent', text: 'Group', tip: 'The axes of the subassembly that holds it' }, { value: 'assembly', text: 'Whole', tip: 'The axes of the whole assembly' }]} />
      </div>
      <div role="radiogroup" aria-label="Direction" className="grid grid-cols-6 border-y border-hair">
        {offered.map((w) => (
          <button key={w.label} type="button" role="radio" aria-checked={w.label === at} onClick={() => setAt(w.label)} onDoubleClick={() => card.make?.('pull')}
            className="mono h-8 border-l border-hair text-[12px] first:border-l-0 hover:bg-white focus-visible:-outline-offset-2 aria-checked:bg-advice-soft aria-checked:font-medium aria-checked:text-advice">
            {w.label}
          </button>
        ))}
      </div>
      <div className="flex items-center justify-between px-3 py-2">
        <span className="text-ink-2">Distance</span>
        <NumberField label="Distance of the move" quantity="length" value={far} onChange={setDistance} className="!w-24" />
      </div>
      <div className="grid grid-cols-4 border-t border-ink">
        {kinds.map((k) => (
          <button key={k} type="button" onClick={() => card.make?.(k)} className="flex flex-col items-center gap-0.5 border-l border-hair py-1.5 text-[11.5px] first:border-l-0 hover:bg-ink hover:text-sheet focus-visible:-outline-offset-2">
            <Glyph kind={k} size={15} />{kindNames[k]}
          </button>
        ))}
      </div>
    </div>
  )
}
