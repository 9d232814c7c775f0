import { useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'
import { useShallow } from 'zustand/react/shallow'
import { usePlan } from '../plan/plan'
import { usePresence } from '../session/presence'
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { useDrag } from './drag'
import { laneHeight, Lanes, type Window } from './Lanes'
import { lanesOf, type Lane } from './lanes'
import { Ruler } from './Ruler'
import { Transport } from './Transport'
import { useTimelineView } from './view'

const labelWidth = 275
const headHeight = 46
const spare = 24 // px behind the end

// Timeline shows the schedule that the core laid out: steps as bands, lanes, cues as
// bars. Only what is in its window is drawn.
export function Timeline() {
  const doc = useSession((s) => s.doc)
  const schedule = useSession((s) => s.schedule)
  const assembly = useSession((s) => s.assembly)
  const cues = useSession((s) => s.selection.cues)
  const { zoom, wanted, order, folded, at } = useTimelineView(
    useShallow(({ zoom, wanted, order, folded, at }) => ({ zoom, wanted, order, folded, at })),
  )
  const planning = usePlan((p) => p.open) // what a plan shows is not in the reveal yet
  const { select } = useSession.getState()
  const track = useRef<HTMLDivElement>(null)
  const [box, setBox] = useState({ width: 900, height: 200, left: 0, top: 0 })
  const duration = schedule?.duration || 10_000_000
  const px = ((box.width - spare) * zoom) / duration // pixels a µs

  useLayoutEffect(() => {
    const el = track.current
    if (!el) return
    const look = () =>
      setBox({ width: el.clientWidth - labelWidth, height: el.clientHeight, left: el.scrollLeft, top: el.scrollTop })
    const watch = new ResizeObserver(look)
    watch.observe(el)
    el.addEventListener('scroll', look, { passive: true })
    return () => {
      watch.disconnect()
      el.removeEventListener('scroll', look)
    }
  }, [])

  // What is wanted to be seen fills most of the window.
  useEffect(() => {
    const el = track.current
    if (!wanted || !el) return
    const next = Math.max(1, Math.min(60, (0.8 * duration) / Math.max(wanted.to - wanted.from, 100_000)))
    useTimelineView.setState({ zoom: next, wanted: null })
    requestAnimationFrame(
      () => (el.scrollLeft = (((wanted.from + wanted.to) / 2) * (box.width - spare) * next) / duration - box.width / 2),
    )
  }, [wanted, duration, box.width])

  const lanes = useMemo(
    () => lanesOf(schedule?.bars ?? [], assembly, { order, folded }),
    [schedule, assembly, order, folded],
  )
  const tops = useMemo(() => topsOf(lanes), [lanes])
  const stepIndex = useMemo(() => new Map(schedule?.steps.map((s, i) => [s.step, i]) ?? []), [schedule])
  const picked = useMemo(() => new Set(cues), [cues])
  const drag = useDrag(px)
  const high = Math.max(tops[lanes.length] ?? 0, 40)
  const seen = {
    from: (box.left - 300) / px,
    to: (box.left + box.width + 300) / px,
    top: box.top - 200,
    bottom: box.top + box.height + 200,
  }

  const stop = stopOf(lanes, tops, at, seen)
  useEffect(() => useTimelineView.setState({ lanes }), [lanes])

  // What has just been made, or found, is scrolled to, and what has the focus.
  const show = (first: string | undefined) => {
    const el = track.current
    const i = lanes.findIndex((l) => l.bars.some((b) => b.cue === first && !b.retraced))
    const lane = lanes[i]
    if (!el || !lane) return
    const k = lane.bars.findIndex((b) => b.cue === first)
    const top = tops[i]! + lane.rows[k]! * laneHeight
    if (top < el.scrollTop) el.scrollTop = top
    else if (top + laneHeight > el.scrollTop + el.clientHeight - headHeight)
      el.scrollTop = top + laneHeight - el.clientHeight + headHeight
    const left = lane.bars[k]!.start * px
    if (left < el.scrollLeft || left > el.scrollLeft + el.clientWidth - labelWidth - 20)
      el.scrollLeft = Math.max(0, left - 60)
  }
  // Only when something else is selected, not whenever it is moved.
  /* eslint-disable react-hooks/exhaustive-deps */
  useEffect(() => show(cues[0]), [cues[0]])
  useEffect(() => show(at ?? undefined), [at])
  /* eslint-enable react-hooks/exhaustive-deps */

  // The wheel zooms at the pointer; with Shift it scrolls.
  useEffect(() => {
    const el = track.current
    if (!el) return
    const wheel = (e: WheelEvent) => {
      if (
        !(e.ctrlKey || e.metaKey || e.altKey) &&
        Math.abs(e.deltaX) <= Math.abs(e.deltaY) &&
        el.scrollHeight > el.clientHeight &&
        !(e.target as HTMLElement).closest('[data-ruler]')
      )
        return
      if (e.shiftKey || Math.abs(e.deltaX) > Math.abs(e.deltaY)) return
      e.preventDefault()
      const x = e.clientX - el.getBoundingClientRect().left - labelWidth
      const before = (x + el.scrollLeft) / zoom
      const next = Math.max(1, Math.min(60, zoom * Math.exp(-e.deltaY * 0.0015)))
      useTimelineView.setState({ zoom: next })
      requestAnimationFrame(() => (el.scrollLeft = before * next - x))
    }
    el.addEventListener('wheel', wheel, { passive: false })
    return () => el.removeEventListener('wheel', wheel)
  }, [zoom])

  const boxSelect = (from: { x: number; y: number }, to: { x: number; y: number }, add: boolean) => {
    const left = Math.min(from.x, to.x),
      right = Math.max(from.x, to.x)
    const top = Math.min(from.y, to.y),
      bottom = Math.max(from.y, to.y)
    const hit = lanes.flatMap((lane, i) =>
      lane.bars
        .filter((b, k) => {
          const row = tops[i]! + lane.rows[k]! * laneHeight
          return (
            !b.retraced &&
            row + laneHeight >= top &&
            row <= bottom &&
            (b.start + b.duration) * px >= left &&
            b.start * px <= right
          )
        })
        .map((b) => b.cue),
    )
    select({ cues: [...new Set(add ? [...cues, ...hit] : hit)] })
  }

  if (!doc || !schedule) return null
  return (
    <section
      id="timeline"
      tabIndex={-1}
      aria-label="Timeline"
      className="flex h-full min-h-0 flex-col border-t border-ink bg-sheet-2 select-none"
    >
      <div ref={track} className="scroll relative min-h-0 grow overflow-x-auto">
        <div style={{ width: labelWidth + spare + duration * px }} className="relative min-h-full">
          <div className="sticky top-0 z-20 flex bg-sheet-2" style={{ height: headHeight }}>
            <Transport width={labelWidth} />
            <Ruler px={px} duration={duration} width={duration * px + spare} from={seen.from} to={seen.to} />
          </div>
          <div className="relative" style={{ height: high }} inert={planning}>
            <Ground height={high} onBox={boxSelect} />
            <Lanes
              lanes={lanes}
              tops={tops}
              px={px}
              seen={seen}
              labelWidth={labelWidth}
              picked={picked}
              stepIndex={stepIndex}
              stop={stop}
              drag={drag}
            />
          </div>
          {lanes.length === 0 && (
            <p className="px-[18px] py-4 text-ink-2" style={{ marginLeft: labelWidth }}>
              Cues will stand here as bars. Pick a part on the stage to make the first one.
            </p>
          )}
          <Others px={px} />
          <Playhead px={px} />
        </div>
      </div>
    </section>
  )
}

// stopOf chooses the one bar where Tab stops: that which had the focus last, if it is there to be seen, else the first in sight.
function stopOf(lanes: readonly Lane[], tops: readonly number[], at: string | null, seen: Window): string | undefined {
  let first: string | undefined
  for (const [i, lane] of lanes.entries()) {
    if (tops[i + 1]! < seen.top || tops[i]! > seen.bottom) continue
    for (const b of lane.bars) {
      if (b.retraced || b.start + b.duration < seen.from || b.start > seen.to) continue
      if (b.cue === at) return b.cue
      first ??= b.cue
    }
  }
  return first ?? lanes.flatMap((l) => l.bars).find((b) => !b.retraced)?.cue
}

// topsOf gives where each lane begins, and behind them where the last one ends.
function topsOf(lanes: readonly Lane[]): number[] {
  const tops = [0]
  for (const l of lanes) tops.push(tops[tops.length - 1]! + l.height * laneHeight)
  return tops
}

// Playhead follows the transport without React.
function Playhead({ px }: { px: number }) {
  const line = useRef<HTMLDivElement>(null)
  useLayoutEffect(() => {
    const put = () =>
      line.current && (line.current.style.transform = `translateX(${labelWidth + useTransport.getState().time * px}px)`)
    put()
    return useTransport.subscribe(put)
  }, [px])
  return (
    <div ref={line} aria-hidden className="pointer-events-none absolute inset-y-0 left-0 z-20 w-0">
      <div className="absolute inset-y-0 -left-px w-[2px] bg-signal" />
      <div className="absolute top-[20px] -left-[6px] border-x-[6px] border-t-[7px] border-x-transparent border-t-signal" />
    </div>
  )
}

// Others shows where the playheads of other people are.
function Others({ px }: { px: number }) {
  const reveal = useSession((s) => s.revealId)
  const others = usePresence((s) => s.others)
  return others
    .filter((o) => o.reveal === reveal)
    .map((o) => (
      <div
        key={o.page}
        aria-hidden
        className="pointer-events-none absolute inset-y-0 z-10 border-l border-dashed border-advice"
        style={{ left: labelWidth + o.time * px }}
      >
        <span className="sticky top-[30px] ml-0.5 bg-advice-soft px-1 text-[10px] text-advice">{o.name}</span>
      </div>
    ))
}

// Ground is the empty ground of the lanes: dragging on it selects bars.
function Ground({
  height,
  onBox,
}: {
  height: number
  onBox(from: { x: number; y: number }, to: { x: number; y: number }, add: boolean): void
}) {
  const [box, setBox] = useState<{ x: number; y: number; w: number; h: number } | null>(null)
  const from = useRef({ x: 0, y: 0 })
  const point = (e: React.PointerEvent) => {
    const r = e.currentTarget.getBoundingClientRect()
    return { x: e.clientX - r.left, y: e.clientY - r.top }
  }
  return (
    <div
      data-ground
      className="absolute inset-y-0 right-0"
      style={{ left: labelWidth, height, zIndex: 0 }}
      onPointerDown={(e) => {
        if (e.button === 0) {
          e.currentTarget.setPointerCapture(e.pointerId)
          from.current = point(e)
        }
      }}
      onPointerMove={(e) => {
        if (e.buttons !== 1) return
        const p = point(e)
        setBox({
          x: Math.min(p.x, from.current.x),
          y: Math.min(p.y, from.current.y),
          w: Math.abs(p.x - from.current.x),
          h: Math.abs(p.y - from.current.y),
        })
      }}
      onPointerUp={(e) => {
        setBox(null)
        onBox(from.current, point(e), e.ctrlKey || e.shiftKey)
      }}
    >
      {box && (
        <div
          className="pointer-events-none absolute z-10 border border-ink bg-ink/5"
          style={{ left: box.x, top: box.y, width: box.w, height: box.h }}
        />
      )}
    </div>
  )
}
