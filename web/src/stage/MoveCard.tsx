import { useEffect, useMemo, useState } from 'react'
import type { Core, PlacedFeature, Reference, Vec3, Way, Ways } from '../core/core'
import { addMove, spread, type MoveKind } from '../session/actions'
import { namesOf, nodeById, useSession } from '../session/session'
import { useClearance, type Clearance } from './clearance'
import { useView } from './view'
import { Button, Choice, Tip } from '../ui/controls'
import { Glyph, kindNames } from '../ui/glyphs'
import { NumberField } from '../ui/NumberField'

const kinds: readonly MoveKind[] = ['pull', 'turn', 'unscrew', 'fade', 'tint', 'note']

/** What the card is set to, so that keys can do what its buttons do. */
export const card: { make: ((kind: MoveKind) => void) | null } = { make: null }

const short = (mm: number) => (mm >= 100 ? mm.toFixed(0) : String(Number(mm.toFixed(1))))

// referred gives both ways along what was pointed at.
function referred(core: Core, f: PlacedFeature): Way[] {
  const r = core.ask<Reference>({ ask: 'reference', features: [f] })
  const back = (v: Vec3): Vec3 => [-v[0], -v[1], -v[2]]
  return [
    { label: '+', axes: 'assembly', along: r.along, world: r.world, pivot: r.pivot },
    { label: '−', axes: 'assembly', along: back(r.along), world: back(r.world), pivot: r.pivot },
  ]
}

// room says in words what lies that way.
function room(c: Clearance, names: ReturnType<typeof nodeById>): string {
  if (c.free) return 'Free: nothing is touched'
  const what = names.get(c.touches ?? '')?.name ?? 'another part'
  return c.distance < 0.05 ? `Stands against ${what}` : `Touches ${what} after ${short(c.distance)} mm`
}

// MoveCard offers, for the picked parts, where they can go. It stands on the
// stage; what it makes starts at the playhead.
export function MoveCard() {
  const nodes = useSession((s) => s.selection.nodes)
  const assembly = useSession((s) => s.assembly)
  const core = useSession((s) => s.core)
  const doc = useSession((s) => s.doc)
  const [axes, setAxes] = useState<Way['axes'] | 'picked'>('own')
  const reference = useView((s) => s.reference)
  useEffect(() => {
    setAxes(reference ? 'picked' : 'own')
    setAt(reference ? '+' : '+Z')
  }, [reference])
  const [at, setAt] = useState('+Z')
  const ways = useMemo<Ways | null>(() => (core && doc && nodes.length > 0 ? core.ask<Ways>({ ask: 'ways', nodes }) : null), [core, doc, nodes])
  const [distance, setDistance] = useState<number | null>(null)
  useEffect(() => setDistance(null), [nodes])
  const offered = useMemo(() => (axes === 'picked' ? (core && doc && reference ? referred(core, reference) : []) : (ways?.ways?.filter((w) => w.axes === axes) ?? [])), [core, doc, ways, axes, reference])
  const clearance = useClearance(nodes, offered)
  const way = offered.find((w) => w.label === at)
  const kept = clearance?.[offered.findIndex((w) => w.label === at)]
  const names = nodeById(assembly)
  const far = distance ?? ways?.distance ?? 40

  useEffect(() => {
    card.make = ways && way ? (kind) => addMove(kind, nodes, way, ways, far) : null
    return () => void (card.make = null)
  }, [ways, way, nodes, far])

  if (!ways || !assembly || nodes.length === 0 || !doc) return null
  return (
    <div role="group" aria-label="Move the pick" className="absolute top-3 left-3 w-[268px] border border-ink bg-sheet/95 shadow-[0_6px_18px_rgb(27_35_38/0.12)]">
      <div className="truncate px-3 pt-2 pb-1.5 font-semibold">{namesOf(assembly, nodes)}</div>
      <div className="px-3 pb-2">
        <Choice<Way['axes'] | 'picked'> label="Axes" value={axes} onChange={(a) => { setAxes(a); setAt(a === 'picked' ? '+' : '+Z') }} className="w-full"
          options={[{ value: 'own', text: 'Own', tip: 'Its own axes: they travel and turn with it' }, { value: 'parent', text: 'Group', tip: 'The axes of the subassembly that holds it' }, { value: 'assembly', text: 'Whole', tip: 'The axes of the whole assembly' }, ...(reference ? [{ value: 'picked' as const, text: 'Picked', tip: 'The face, axis or edge that was picked with Alt' }] : [])]} />
      </div>
      <div role="radiogroup" aria-label="Direction" className="grid auto-cols-fr grid-flow-col border-y border-hair">
        {offered.map((w, i) => (
          <button key={w.label} type="button" role="radio" aria-checked={w.label === at} onClick={() => setAt(w.label)} onDoubleClick={() => card.make?.('pull')}
            aria-label={`${w.label}${clearance ? `, ${room(clearance[i]!, names)}` : ''}`}
            className="mono h-[38px] border-l border-hair text-[12px] leading-[1.25] first:border-l-0 hover:bg-white focus-visible:-outline-offset-2 aria-checked:bg-advice-soft aria-checked:font-medium aria-checked:text-advice">
            {w.label}
            <span className="block text-[10px] font-normal text-advice">{clearance ? (clearance[i]!.free ? 'free' : short(clearance[i]!.distance)) : '·'}</span>
          </button>
        ))}
      </div>
      {kept && <p className="truncate border-b border-hair px-3 py-1 text-[12px] text-advice" role="status" title={room(kept, names)}>{room(kept, names)}</p>}
      <div className="flex items-center justify-between px-3 py-2">
        <span className="text-ink-2">Distance</span>
        <NumberField label="Distance of the move" quantity="length" value={far} onChange={setDistance} className="!w-24" />
      </div>
      {nodes.length > 1 && way && (
        <div className="flex items-center gap-1.5 px-3 pb-2">
          <Tip text={`Even gaps along ${way.label}; the outermost goes ${far} mm`}><Button className="grow" onClick={() => spread(nodes, way, far, false)}>Spread</Button></Tip>
          <Tip text={`In the order picked, outermost first; ${far} mm from layer to layer`}><Button className="grow" onClick={() => spread(nodes, way, far, true)}>Peel</Button></Tip>
        </div>
      )}
      <div className="grid grid-cols-6 border-t border-ink">
        {kinds.map((k) => (
          <button key={k} type="button" onClick={() => card.make?.(k)} className="flex flex-col items-center gap-0.5 border-l border-hair py-1.5 text-[11px] first:border-l-0 hover:bg-ink hover:text-sheet focus-visible:-outline-offset-2">
            <Glyph kind={k} size={15} />{kindNames[k]}
          </button>
        ))}
      </div>
    </div>
  )
}
