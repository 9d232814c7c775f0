import { useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'
import { CircleSlash, Pause, Play, Repeat, Rewind } from 'lucide-react'
import clsx from 'clsx'
import { toggle } from '../session/cues'
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { IconButton, Select } from '../ui/controls'
import { tint } from '../ui/glyphs'
import { BarView } from './BarView'
import { lanesOf } from './lanes'
import { useDrag } from './drag'

const labelWidth = 275
const laneHeight = 26

const speeds = [0.25, 0.5, 1, 2, 4].map((v) => ({ value: String(v), text: `${v === 0.25 ? '¼' : v === 0.5 ? '½' : v}×` }))

// Timeline shows the schedule that the core laid out: steps as bands, a lane for
// the camera and for each set of targets, cues as bars.
export function Timeline() {
  const doc = useSession((s) => s.doc)
  const schedule = useSession((s) => s.schedule)
  const assembly = useSession((s) => s.assembly)
  const cues = useSession((s) => s.selection.cues)
  const { select } = useSession.getState()
  const track = useRef<HTMLDivElement>(null)
  const [width, setWidth] = useState(900)
  const [zoom, setZoom] = useState(1)
  const duration = schedule?.duration || 10_000_000
  const px = ((width - 24) * zoom) / duration // pixels a µs

  useLayoutEffect(() => {
    const el = track.current
    if (!el) return
    const watch = new ResizeObserver(() => setWidth(el.clientWidth - labelWidth))
    watch.observe(el)
    return () => watch.disconnect()
  }, [])

  const lanes = useMemo(() => lanesOf(schedule?.bars ?? [], assembly), [schedule, assembly])
  const stepIndex = useMemo(() => new Map(schedule?.steps.map((s, i) => [s.step, i]) ?? []), [schedule])
  const picked = useMemo(() => new Set(cues), [cues])
  const drag = useDrag(px)

  // The wheel zooms at the pointer; with Shift it scrolls.
  useEffect(() => {
    const el = track.current
    if (!el) return
    const wheel = (e: WheelEvent) => {
      if (!(e.ctrlKey || e.metaKey || e.altKey) && Math.abs(e.deltaX) <= Math.abs(e.deltaY) && el.scrollHeight > el.clientHeight && !(e.target as HTMLElement).closest('[data-ruler]')) return
      if (e.shiftKey || Math.abs(e.deltaX) > Math.abs(e.deltaY)) return
      e.preventDefault()
      const x = e.clientX - el.getBoundingClientRect().left - labelWidth
      const before = (x + el.scrollLeft) / zoom
      const next = Math.max(1, Math.min(60, zoom * Math.exp(-e.deltaY * 0.0015)))
      setZoom(next)
      requestAnimationFrame(() => (el.scrollLeft = before * next - x))
    }
    el.addEventListener('wheel', wheel, { passive: false })
    return () => el.removeEventListener('wheel', wheel)
  }, [zoom])

  const boxSelect = (from: { x: number; y: number }, to: { x: number; y: number }, add: boolean) => {
    const left = Math.min(from.x, to.x), right = Math.max(from.x, to.x)
    const top = Math.min(from.y, to.y), bottom = Math.max(from.y, to.y)
    let y = 0
    const hit = lanes.flatMap((lane) => {
      const begin = y
      y += lane.height * laneHeight
      return lane.bars.filter((b, i) => {
        const row = begin + lane.rows[i]! * laneHeight
        return !b.retraced && row + laneHeight >= top && row <= bottom && (b.start + b.length) * px >= left && b.start * px <= right
      }).map((b) => b.cue)
    })
    select({ cues: [...new Set(add ? [...cues, ...hit] : hit)] })
  }

  if (!doc || !schedule) return null
  return (
    <section aria-label="Timeline" className="flex h-full min-h-0 flex-col border-t border-ink bg-sheet-2">
      <div ref={track} className="scroll relative min-h-0 grow overflow-x-auto">
        <div style={{ width: labelWidth + 24 + duration * px }} className="relative min-h-full">
          <div className="sticky top-0 z-20 flex h-[46px] bg-sheet-2">
            <Transport />
            <Ruler px={px} duration={duration} width={duration * px + 24} />
          </div>
          <div className="relative">
            {lanes.map((lane) => (
              <div key={lane.key} className="flex border-b border-hair" style={{ height: laneHeight * lane.height }}>
                <div className="group/lane sticky left-0 z-10 flex h-full shrink-0 items-start justify-between border-r border-line bg-sheet px-[18px] text-[12.5px] leading-[26px]" style={{ width: labelWidth }}>
                  <span className="truncate">{lane.name}</span>
                  <IconButton label={lane.bars.every((b) => b.muted) ? 'Switch this lane on' : 'Switch this lane off'} onClick={() => toggle([...new Set(lane.bars.map((b) => b.cue))])}
                    className={clsx('ml-auto !h-6 !w-6 group-hover/lane:opacity-100 focus-visible:opacity-100', lane.bars.every((b) => b.muted) ? 'text-signal-ink' : 'opacity-0')}><CircleSlash size={13} /></IconButton>
                  {lane.count > 1 && <span className="mono text-[11.5px] text-ink-3">{lane.count}</span>}
                </div>
                <div className="relative grow">
                  {lane.bars.map((b, i) => (
                    <BarView top={lane.rows[i]! * laneHeight + 3} key={(b.retraced ? 'back-' : '') + b.cue} bar={b} px={px} color={tint(stepIndex.get(b.step) ?? 0)} picked={picked.has(b.cue)} drag={drag} />
                  ))}
                </div>
              </div>
            ))}
            <Box height={Math.max(lanes.reduce((n, l) => n + l.height, 0) * laneHeight, 40)} onBox={boxSelect} />
          </div>
          {lanes.length === 0 && <p className="px-[18px] py-4 text-ink-2" style={{ marginLeft: labelWidth }}>Cues will stand here as bars. Pick a part on the stage to make the first one.</p>}
          <Playhead px={px} />
        </div>
      </div>
    </section>
  )
}

function Transport() {
  const { playing, backwards, loop, speed, toggle: play, setLoop, setSpeed } = useTransport()
  return (
    <div className="sticky left-0 z-30 flex shrink-0 items-center gap-1 border-r border-line bg-sheet pr-2 pl-[14px]" style={{ width: labelWidth }}>
      <button type="button" aria-label={playing ? 'Stop' : 'Play'} onClick={() => play(playing ? backwards : false)}
        className="grid size-8 place-items-center rounded-full bg-ink text-sheet hover:bg-ink-2">
        {playing ? <Pause size={15} fill="currentColor" /> : <Play size={15} fill="currentColor" className="ml-0.5" />}
      </button>
      <Timecode />
      <div className="grow" />
      <IconButton label="Play backwards" keys="Shift Space" onClick={() => play(true)}><Rewind size={14} /></IconButton>
      <IconButton label={loop ? 'Stop looping' : 'Loop'} aria-pressed={loop} onClick={() => setLoop(!loop)} className={clsx(loop && 'bg-ink text-sheet hover:bg-ink hover:text-sheet')}><Repeat size={14} /></IconButton>
      <Select label="Speed" value={String(speed)} onChange={(v) => setSpeed(Number(v))} options={speeds} className="mono !h-6 border-transparent bg-transparent !px-1 text-[11.5px]" />
    </div>
  )
}

function Timecode() {
  const core = useSession((s) => s.core)
  const doc = useSession((s) => s.doc)
  const time = useTransport((s) => s.time)
  const [code, frame] = core && doc ? core.ask<string>({ ask: 'timecode', time }).split(' ') : ['', '']
  return (
    <div className="ml-1.5 leading-none" data-time={time}>
      <div className="mono text-[17px] font-medium">{code}</div>
      <div className="mono mt-0.5 text-[10.5px] text-ink-2">frame {frame}</div>
    </div>
  )
}

const seekAt = (e: React.PointerEvent<HTMLElement>, px: number) => {
  const core = useSession.getState().core!
  const x = e.clientX - e.currentTarget.getBoundingClientRect().left
  useTransport.getState().seek(core.ask<number>({ ask: 'snap', time: Math.round(Math.max(0, x / px)) }))
}

function Ruler({ px, duration, width }: { px: number; duration: number; width: number }) {
  const schedule = useSession((s) => s.schedule)!
  const doc = useSession((s) => s.doc)!
  const step = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300, 600].find((s) => s * 1e6 * px >= 46) ?? 1200
  const ticks = Array.from({ length: Math.floor(duration / 1e6 / step) + 1 }, (_, i) => i * step)
  return (
    <div data-ruler role="slider" aria-label="Playhead" aria-valuemin={0} aria-valuemax={duration / 1e6} aria-valuenow={useTransport.getState().time / 1e6} tabIndex={0}
      className="relative cursor-ew-resize focus-visible:-outline-offset-2" style={{ width }}
      onPointerDown={(e) => { e.currentTarget.setPointerCapture(e.pointerId); seekAt(e, px) }}
      onPointerMove={(e) => e.buttons === 1 && seekAt(e, px)}>
      {schedule.steps.map((s, i) => s.length > 0 && (
        <div key={s.step} className="absolute top-0 flex h-5 items-center overflow-hidden border-r border-ink px-2 text-[11.5px] whitespace-nowrap" style={{ left: s.start * px, width: s.length * px, background: tint(i) }}>
          {i + 1} {doc.steps[i]?.title}
        </div>
      ))}
      {ticks.map((t) => (
        <span key={t} className="mono absolute top-[26px] text-[10.5px] text-ink-2" style={{ left: t * 1e6 * px + 3 }}>
          <span aria-hidden className="absolute -left-[3px] h-[20px] border-l border-line" />{Number(t.toFixed(1))}s
        </span>
      ))}
    </div>
  )
}

// Playhead follows the transport without React.
function Playhead({ px }: { px: number }) {
  const line = useRef<HTMLDivElement>(null)
  useLayoutEffect(() => {
    const put = () => line.current && (line.current.style.transform = `translateX(${labelWidth + useTransport.getState().time * px}px)`)
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

// Box is the empty ground of the lanes: dragging on it selects bars.
function Box({ height, onBox }: { height: number; onBox(from: { x: number; y: number }, to: { x: number; y: number }, add: boolean): void }) {
  const [box, setBox] = useState<{ x: number; y: number; w: number; h: number } | null>(null)
  const from = useRef({ x: 0, y: 0 })
  const point = (e: React.PointerEvent) => {
    const r = e.currentTarget.getBoundingClientRect()
    return { x: e.clientX - r.left, y: e.clientY - r.top }
  }
  return (
    <div data-ground className="absolute inset-y-0 right-0" style={{ left: labelWidth, height, zIndex: 0 }}
      onPointerDown={(e) => { if (e.button === 0) { e.currentTarget.setPointerCapture(e.pointerId); from.current = point(e) } }}
      onPointerMove={(e) => {
        if (e.buttons !== 1) return
        const p = point(e)
        setBox({ x: Math.min(p.x, from.current.x), y: Math.min(p.y, from.current.y), w: Math.abs(p.x - from.current.x), h: Math.abs(p.y - from.current.y) })
      }}
      onPointerUp={(e) => { setBox(null); onBox(from.current, point(e), e.ctrlKey || e.shiftKey) }}>
      {box && <div className="pointer-events-none absolute border border-ink bg-ink/5" style={{ left: box.x, top: box.y, width: box.w, height: box.h }} />}
    </div>
  )
}

