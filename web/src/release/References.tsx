// The item references of a drawing sheet, moved by hand on a picture of it.
import { useQuery } from '@tanstack/react-query'
import clsx from 'clsx'
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import { answer, api, words, type Schemas } from '../api/client'
import { useSession } from '../session/session'
import { Button, Dialog } from '../ui/controls'
import { useSettled } from '../ui/settled'
import { Row, type Part } from './fields'
import { sheetOf, useOrder, type Settings } from './settings'
import { written } from '../core/written'

type Laid = Schemas['Laid']
type Reference = Schemas['LaidReference']
type Places = Record<string, [number, number]>

/** References says how many item references were placed by hand, and lets them be moved. */
export function References({ s, change }: Part) {
  const [open, setOpen] = useState(false)
  const places = (s.sheet?.places ?? {}) as Places
  const count = Object.keys(places).length
  const keep = (next: Places) => {
    change({ sheet: { ...sheetOf(s), places: Object.keys(next).length > 0 ? next : undefined } })
    setOpen(false)
  }
  return (
    <Row label="Places of item references" hint={count > 0 ? `${count} by hand` : 'found by themselves'}>
      <Button className="w-full justify-center" disabled={s.sheet?.noReferences} onClick={() => setOpen(true)}>
        Place by hand…
      </Button>
      <Dialog open={open} onClose={() => setOpen(false)} title="Item references" size="window">
        <Placing s={s} places={places} onDone={keep} onLeave={() => setOpen(false)} />
      </Dialog>
    </Row>
  )
}

function useLaid(s: Settings, places: Places) {
  const revealId = useSession((x) => x.revealId)
  const pictured = useSession((x) => x.pictured) // counts with the reveal's versions
  const variant = useOrder((x) => x.variants[0])
  const sheet = { ...sheetOf(s), places }
  return useQuery<Laid>({
    queryKey: ['laid', revealId, pictured, { ...s, sheet }, variant],
    retry: false,
    placeholderData: (old) => old,
    queryFn: ({ signal }) =>
      answer(
        api.POST('/api/reveals/{id}/outputs/layout', {
          params: { path: { id: revealId! } },
          body: { ...s, sheet, variant: variant ?? s.variant },
          signal,
        }),
      ),
  })
}

function Placing({
  s,
  places: given,
  onDone,
  onLeave,
}: {
  s: Settings
  places: Places
  onDone(p: Places): void
  onLeave(): void
}) {
  const [places, setPlaces] = useState(given)
  const [said, setSaid] = useState('')
  const laid = useLaid(s, useSettled(places, 400))
  const move = (r: Reference, at: [number, number] | null) => {
    const others = Object.fromEntries(Object.entries(places).filter(([key]) => key !== r.key)) as Places
    setPlaces(at ? { ...others, [r.key]: at } : others)
    setSaid(
      at
        ? `Item ${r.number} at ${written(at[0], 'plain', 0)}, ${written(at[1], 'length', 0)}`
        : `Item ${r.number} places itself`,
    )
  }
  return (
    <div className="flex min-h-0 flex-col gap-3">
      <div className="relative grid min-h-[300px] place-items-center rounded-md bg-stage p-3">
        {laid.data && <Drawing laid={laid.data} places={places} onMove={move} />}
        {!laid.data && !laid.isError && (
          <p role="status" className="text-ink-2">
            Drawing the sheet…
          </p>
        )}
        {laid.data && laid.isFetching && (
          <span className="absolute top-4 right-4 rounded-full bg-sheet px-2.5 py-0.5 text-[12px] text-ink-2 shadow-sm">
            Laying out…
          </span>
        )}
      </div>
      {laid.isError && (
        <p role="alert" className="text-signal-ink">
          {words(laid.error)}
        </p>
      )}
      <p role="status" className="sr-only">
        {said}
      </p>
      <div className="flex flex-wrap items-center gap-2">
        <p className="mr-auto max-w-[64ch] text-[12.5px] text-ink-2">
          Drag a number to where it is to stand, or move it with the arrow keys (with Shift by 5 mm). The others keep
          out of its way. Delete lets it find its place by itself again.
        </p>
        <Button disabled={Object.keys(places).length === 0} onClick={() => setPlaces({})}>
          All by themselves
        </Button>
        <Button onClick={onLeave}>Leave as it was</Button>
        <Button kind="strong" onClick={() => onDone(places)}>
          Keep these places
        </Button>
      </div>
    </div>
  )
}

const tenth = (mm: number) => Math.round(mm * 10) / 10

function Drawing({
  laid,
  places,
  onMove,
}: {
  laid: Laid
  places: Places
  onMove(r: Reference, at: [number, number] | null): void
}) {
  const picture = useMemo(() => URL.createObjectURL(new Blob([laid.svg], { type: 'image/svg+xml' })), [laid.svg])
  useEffect(() => () => URL.revokeObjectURL(picture), [picture])
  const plane = useRef<SVGSVGElement>(null)
  const [dragged, setDragged] = useState<{ key: string; at: [number, number] } | null>(null)
  const { width, height } = laid
  const inside = (r: Reference, x: number, y: number): [number, number] => [
    tenth(Math.min(Math.max(x, r.radius), width - r.radius)),
    tenth(Math.min(Math.max(y, r.radius), height - r.radius)),
  ]
  const placeOf = (r: Reference) =>
    dragged?.key === r.key ? dragged.at : (places[r.key] ?? (r.centre as [number, number]))
  const under = (r: Reference, e: PointerEvent): [number, number] => {
    const box = plane.current!.getBoundingClientRect()
    return inside(r, ((e.clientX - box.left) / box.width) * width, ((e.clientY - box.top) / box.height) * height)
  }
  return (
    <div
      className="relative max-w-full"
      style={{
        aspectRatio: `${width} / ${height}`,
        height: `min(94vh - 190px, calc((94vw - 90px) * ${height / width}))`,
      }}
    >
      <img src={picture} alt="The sheet without its item references" className="absolute inset-0 size-full bg-white" />
      <svg ref={plane} viewBox={`0 0 ${width} ${height}`} className="absolute inset-0 size-full" data-references>
        {laid.references.map((r) => (
          <Leader key={r.key} r={r} at={placeOf(r)} byHand={r.key in places} />
        ))}
        {laid.references.map((r) => (
          <Balloon
            key={r.key}
            r={r}
            at={placeOf(r)}
            byHand={r.key in places}
            onDrag={(e) => setDragged({ key: r.key, at: under(r, e) })}
            onDrop={(e) => {
              if (dragged?.key === r.key) onMove(r, under(r, e))
              setDragged(null)
            }}
            onNudge={(x, y) => {
              const [px, py] = placeOf(r)
              onMove(r, inside(r, px + x, py + y))
            }}
            onFree={() => onMove(r, null)}
          />
        ))}
      </svg>
    </div>
  )
}

function Leader({ r, at, byHand }: { r: Reference; at: [number, number]; byHand: boolean }) {
  const [x1, y1] = r.from as [number, number]
  const rim = Math.max(0, 1 - r.radius / Math.max(Math.hypot(at[0] - x1, at[1] - y1), 1e-9))
  const ends = { x1, y1, x2: x1 + (at[0] - x1) * rim, y2: y1 + (at[1] - y1) * rim }
  return (
    <g className={clsx('pointer-events-none', byHand && 'text-advice')}>
      <line {...ends} stroke="white" strokeWidth={0.9} />
      <line {...ends} stroke="currentColor" strokeWidth={0.25} />
      <circle cx={x1} cy={y1} r={0.6} fill="currentColor" stroke="white" strokeWidth={0.25} />
    </g>
  )
}

const steps: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}

function Balloon({
  r,
  at,
  byHand,
  onDrag,
  onDrop,
  onNudge,
  onFree,
}: {
  r: Reference
  at: [number, number]
  byHand: boolean
  onDrag(e: PointerEvent): void
  onDrop(e: PointerEvent): void
  onNudge(x: number, y: number): void
  onFree(): void
}) {
  const key = (e: KeyboardEvent) => {
    const step = steps[e.key]
    if (step) onNudge(step[0] * (e.shiftKey ? 5 : 1), step[1] * (e.shiftKey ? 5 : 1))
    else if (e.key === 'Delete' || e.key === 'Backspace') onFree()
    else return
    e.preventDefault()
    e.stopPropagation()
  }
  return (
    <g
      role="button"
      tabIndex={0}
      data-item={r.number}
      aria-label={`Item ${r.number}, ${r.name}${byHand ? ', placed by hand' : ''}`}
      className={clsx('group cursor-grab touch-none outline-none active:cursor-grabbing', byHand && 'text-advice')}
      onKeyDown={key}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId)
        e.currentTarget.focus()
      }}
      onPointerMove={(e) => e.currentTarget.hasPointerCapture(e.pointerId) && onDrag(e)}
      onPointerUp={onDrop}
      onPointerCancel={onDrop}
    >
      <title>{r.name}</title>
      <circle
        cx={at[0]}
        cy={at[1]}
        r={r.radius}
        strokeWidth={0.36}
        className={clsx(
          'stroke-current group-hover:fill-advice-soft group-focus-visible:fill-advice-soft group-focus-visible:[stroke-width:1]',
          byHand ? 'fill-advice-soft' : 'fill-white',
        )}
      />
      <text
        x={at[0]}
        y={at[1] + 0.36 * r.radius}
        textAnchor="middle"
        fontSize={r.radius}
        fontWeight={600}
        className="fill-current select-none"
      >
        {r.number}
      </text>
    </g>
  )
}
