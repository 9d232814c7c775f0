import { onStage } from '../session/eye'
import { ChevronDown, ChevronUp } from 'lucide-react'
import { useDeferredValue, useEffect, useMemo, useState } from 'react'
import type { Assembly } from '../api/client'
import type { Offered, Ways, Quantity } from '../core/core'
import { addMove, drive, spread, useHabits, type Aim } from '../session/actions'
import { useAim } from '../session/aim'
import { moves } from '../session/moves'
import { labelOf, namesOf, useSession } from '../session/session'
import { Arrow } from './Arrow'
import { useClearance, type Clearance } from './clearance'
import { useView } from '../stage/view'
import { Button, Choice, IconButton, Tick, Tip } from '../ui/controls'
import { Glyph } from '../ui/glyphs'
import { NumberField } from '../ui/NumberField'
import { written } from '../core/written'

const many = 200 // parts

const setAt = (at: string | null) => useAim.setState({ at })
const setChosen = (chosen: boolean) => useAim.setState({ chosen })

type Axes = 'own' | 'parent' | 'assembly' | 'picked'

// Far away a millimetre is enough.
const short = (mm: number, as: Quantity = 'length') => written(mm, as, mm >= 100 ? 0 : 1)

// room says in words what lies that way.
function room(c: Clearance, assembly: Assembly | null): string {
  if (c.free) return 'Free: nothing is touched'
  const what = c.touches ? labelOf(assembly, c.touches) : 'another part'
  return c.distance < 0.05 ? `Stands against ${what}` : `${short(c.distance)}, then ${what}`
}

// bestOf is the first way that is free, or, when all are known and the usual one leads nowhere, the longest; −1 for none.
function bestOf(ways: readonly (Clearance | undefined)[] | null, usual: Clearance | undefined): number {
  const free = ways?.findIndex((c) => c?.free) ?? -1
  if (free >= 0 || !ways || !usual || usual.distance >= 0.5 || ways.some((c) => !c)) return free
  return ways.reduce((best, c, i) => (c!.distance > (ways[best]?.distance ?? 0) + 0.05 ? i : best), -1)
}

// MoveCard offers, for the picked parts, where they can go. It stands on the
// stage; what it makes starts at the playhead.
export function MoveCard() {
  // Of very many parts the pick is shown first, and where they can go in a task of its own.
  const picked = useSession((s) => s.selection.nodes)
  const later = useDeferredValue(picked)
  const nodes = picked.length > many ? later : picked
  const assembly = useSession((s) => s.assembly)
  const core = useSession((s) => s.core)
  const doc = useSession((s) => s.doc)
  const [axes, setAxes] = useState<Axes>('own')
  const shot = useHabits((h) => h.shot)
  const onward = useHabits((h) => h.onward)
  const reference = useView((s) => s.reference)
  useEffect(() => {
    setAxes(reference ? 'picked' : 'own')
    setAt(null)
  }, [reference])
  const at = useAim((s) => s.at)
  const [folded, setFolded] = useState(false)
  const [moved, setMoved] = useState({ x: 0, y: 0 })
  // A second direction, at the same time.
  const [also, setAlso] = useState<string | null>(null)
  const [beside, setBeside] = useState(20)
  const ways = useMemo<Ways | null>(
    () => (core && doc && nodes.length > 0 ? core.ask('ways', { nodes }) : null),
    [core, doc, nodes],
  )
  const [distance, setDistance] = useState<number | null>(null)
  const chosen = useAim((s) => s.chosen)
  useEffect(() => {
    setDistance(null)
    setAlso(null)
    setChosen(false)
  }, [nodes, axes])
  const offered = useMemo(
    () =>
      axes === 'picked'
        ? core && doc && reference
          ? core.ask('reference', { by: reference, nodes })
          : []
        : (ways?.ways.filter((w) => w.axes === axes) ?? []),
    [core, doc, ways, axes, reference, nodes],
  )
  const clearance = useClearance(nodes, offered)
  // It begins with a way that is free where the usual one is not, or else, where that leads nowhere at all, with the
  // longest; what a hand has chosen stays.
  const way: Offered | undefined = offered.find((w) => w.id === at) ?? offered.find((w) => w.usual)
  const usual = clearance?.[way ? offered.indexOf(way) : -1]
  const best = bestOf(clearance, usual)
  useEffect(() => {
    if (!chosen && usual && !usual.free && best >= 0) setAt(offered[best]!.id)
  }, [chosen, usual, best, offered])
  const second = offered.find((w) => w.id === also)
  const kept = usual
  const far = distance ?? ways?.distance ?? 40
  const aim = useMemo<Aim | null>(
    () => (way ? { way, distance: far, second: second && { way: second, distance: beside } } : null),
    [way, far, second, beside],
  )

  useEffect(() => {
    useAim.setState({ aim: ways ? aim : null, nodes })
    return () => useAim.setState({ aim: null })
  }, [ways, nodes, aim])

  // The card stands on the side where the picked parts are not.
  const aside = useMemo(() => {
    const at = ways && onStage()?.place(ways.centre)
    return at ? at[0] < onStage()!.width() / 2 : false
  }, [nodes]) // eslint-disable-line react-hooks/exhaustive-deps

  if (!ways || !assembly || nodes.length === 0 || !doc) return null
  return (
    <>
      {way && (
        <Arrow
          label="move"
          from={ways.centre}
          along={way.world}
          distance={far}
          touches={kept && !kept.free ? kept.distance : undefined}
          what={kept?.touches}
          onDrag={setDistance}
          onDrop={setDistance}
        />
      )}
      <div
        role="group"
        aria-label="Move the pick"
        className={`absolute top-3 ${aside ? 'right-3 max-h-[calc(100%-1.5rem)]' : 'left-3 max-h-[calc(100%-64px)]'} scroll w-[268px] border border-ink bg-sheet/95 shadow-[0_6px_18px_rgb(27_35_38/0.12)]`}
        style={{ transform: `translate(${moved.x}px, ${moved.y}px)` }}
        onClickCapture={(e) => {
          // A click that adds to the pick is meant for the part behind the card.
          if (!(e.ctrlKey || e.shiftKey || e.metaKey) || (e.target as HTMLElement).closest('[role=radiogroup]')) return
          e.preventDefault()
          e.stopPropagation()
          onStage()?.pickAt(e, true)
        }}
      >
        <div
          className="flex cursor-move touch-none items-center gap-1 pt-1 pr-1 pb-0.5 pl-3 select-none"
          title="Drag the card aside"
          onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
          onPointerMove={(e) => e.buttons === 1 && setMoved((m) => ({ x: m.x + e.movementX, y: m.y + e.movementY }))}
        >
          <b className="grow truncate font-semibold" title={namesOf(assembly, nodes)}>
            {namesOf(assembly, nodes)}
          </b>
          <IconButton
            label={folded ? 'Unfold the card' : 'Fold the card'}
            onPointerDown={(e) => e.stopPropagation()}
            onClick={() => setFolded(!folded)}
          >
            {folded ? <ChevronDown size={14} /> : <ChevronUp size={14} />}
          </IconButton>
        </div>
        {!folded && (
          <>
            <div className="px-3 pb-2">
              <Choice<Axes>
                label="Axes"
                value={axes}
                onChange={(a) => {
                  setAxes(a)
                  setAt(null)
                }}
                className="w-full"
                options={[
                  { value: 'own', text: 'Own', tip: 'Its own axes: they travel and turn with it' },
                  { value: 'parent', text: 'Group', tip: 'The axes of the subassembly that holds it' },
                  { value: 'assembly', text: 'Whole', tip: 'The axes of the whole assembly' },
                  ...(reference
                    ? [
                        {
                          value: 'picked' as const,
                          text: 'Picked',
                          tip: 'The face, axis or edge that was picked with Alt',
                        },
                      ]
                    : []),
                ]}
              />
            </div>
            <div
              role="radiogroup"
              aria-label="Direction"
              className="grid auto-cols-fr grid-flow-col border-y border-hair"
            >
              {offered.map((w, i) => (
                <button
                  key={w.id}
                  type="button"
                  role="radio"
                  aria-checked={w === way}
                  onClick={(e) => {
                    setChosen(true)
                    if (!e.shiftKey && !e.ctrlKey) {
                      setAt(w.id)
                      if (also === w.id) setAlso(null)
                    } else setAlso(also === w.id || w === way ? null : w.id)
                  }}
                  data-also={w.id === also}
                  onDoubleClick={() => aim && addMove('pull', nodes, aim)}
                  aria-label={`${w.label}${clearance?.[i] ? `, ${room(clearance[i], assembly)}` : ''}`}
                  className="mono h-[38px] border-l border-hair text-[12px] leading-[1.25] first:border-l-0 hover:bg-white focus-visible:-outline-offset-2 data-[also=true]:bg-sheet-2 data-[also=true]:font-medium aria-checked:bg-advice-soft aria-checked:font-medium aria-checked:text-advice"
                >
                  {w.label}
                  <span className="block text-[10px] font-normal text-advice">
                    {clearance?.[i] ? (clearance[i].free ? 'free' : short(clearance[i].distance, 'plain')) : '·'}
                  </span>
                </button>
              ))}
            </div>
            <p className="border-b border-hair px-3 py-1 text-[11px] text-ink-3">
              Shift: a second one. Alt: a face or an edge.
            </p>
            <div className="flex items-center justify-between gap-2 px-3 py-2">
              {kept ? (
                <span
                  className="truncate text-[12px] text-advice"
                  role="status"
                  title={room(kept, assembly)}
                  onPointerEnter={() => useSession.getState().setHover(kept.touches ?? null)}
                  onPointerLeave={() => useSession.getState().setHover(null)}
                >
                  {room(kept, assembly)}
                </span>
              ) : (
                <span className="text-ink-2">Distance</span>
              )}
              <NumberField
                label="Distance of the move"
                quantity="length"
                value={far}
                onChange={setDistance}
                className="!w-24 shrink-0"
              />
            </div>
            {second && (
              <div className="flex items-center justify-between px-3 pb-2">
                <span className="text-ink-2">and along {second.label}</span>
                <NumberField
                  label="Distance along the second direction"
                  quantity="length"
                  value={beside}
                  onChange={setBeside}
                  className="!w-24"
                />
              </div>
            )}
            {nodes.length > 1 && way && aim && (
              <div className="flex items-center gap-1.5 px-3 pb-2">
                <Tip text={`Even gaps along ${way.label}; the outermost goes ${far} mm`}>
                  <Button className="grow" onClick={() => spread(nodes, aim, 'outermost')}>
                    Spread
                  </Button>
                </Tip>
                <Tip text={`Even gaps of ${far} mm along ${way.label}`}>
                  <Button className="grow" onClick={() => spread(nodes, aim, 'gaps')}>
                    Gaps
                  </Button>
                </Tip>
                <Tip text={`In the order picked, outermost first; ${far} mm from layer to layer`}>
                  <Button className="grow" onClick={() => spread(nodes, aim, 'peel')}>
                    Peel
                  </Button>
                </Tip>
              </div>
            )}
            {ways.thread && ways.thread.confidence < 1 && (
              <p
                className="truncate border-t border-hair px-3 py-1 text-[12px] text-advice"
                title="The thread is guessed from the shape"
              >
                Unscrew takes {ways.thread.size || 'its thread'}: a guess, {Math.round(100 * ways.thread.confidence)} %
                sure
              </p>
            )}
            <div className="flex items-center justify-between border-t border-hair px-3 py-1 text-[12px]">
              <Tip text="A shot that comes close and follows what moves, from where you look">
                <div>
                  <Tick on={shot} onChange={(shot) => useHabits.setState({ shot })}>
                    With a shot
                  </Tick>
                </div>
              </Tip>
              <Tip text="The playhead goes on to the end of the move: the next one begins there">
                <div>
                  <Tick on={onward} onChange={(onward) => useHabits.setState({ onward })}>
                    Then on to its end
                  </Tick>
                </div>
              </Tip>
            </div>
            <div className="grid grid-cols-5 border-t border-ink">
              {moves.map((m) => (
                <Tip key={m.kind} text={m.tip} keys={m.keys}>
                  <button
                    type="button"
                    onClick={() => aim && addMove(m.kind, nodes, aim)}
                    className="flex flex-col items-center gap-0.5 border-t border-l border-hair py-1.5 text-[10.5px] whitespace-nowrap nth-[5n+1]:border-l-0 nth-[-n+5]:border-t-0 hover:bg-ink hover:text-sheet focus-visible:-outline-offset-2"
                  >
                    <Glyph kind={m.kind} size={15} />
                    {m.text}
                  </button>
                </Tip>
              ))}
            </div>
            {ways.joint && <Running joint={ways.joint} nodes={nodes} />}
          </>
        )}
      </div>
    </>
  )
}

const runs = [
  { how: 'drive', text: 'Drive', tip: 'On by a turn, or so far', keys: 'Shift D' },
  { how: 'run', text: 'Run', tip: 'On and on, until it is driven otherwise', keys: 'Shift R' },
  { how: 'halt', text: 'Stop', tip: 'What runs comes to a stop', keys: 'Alt R' },
] as const

// Running drives the joint that the picked part is on, and so all that is tied to it.
function Running({ joint, nodes }: { joint: string; nodes: readonly string[] }) {
  return (
    <div className="flex items-center gap-1.5 border-t border-ink px-3 py-1.5">
      <Glyph kind="drive" size={15} />
      <span className="min-w-0 grow truncate text-[12px]" title={joint}>
        {joint}
      </span>
      {runs.map((r) => (
        <Tip key={r.how} text={r.tip} keys={r.keys}>
          <Button onClick={() => drive(r.how, nodes)}>{r.text}</Button>
        </Tip>
      ))}
    </div>
  )
}
