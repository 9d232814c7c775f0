import { useEffect, useRef, useState } from 'react'
import { bare } from '../session/actions'
import { useSession } from '../session/session'
import { renameMarker } from '../session/steps'
import { useTransport } from '../session/transport'
import { tint } from '../ui/glyphs'
import { openMarkerMenu, openRulerMenu, openStepMenu } from './menus'
import { seconds } from '../core/written'

const seekAt = (e: React.PointerEvent<HTMLElement>, px: number) => {
  const core = useSession.getState().core!
  const x = e.clientX - e.currentTarget.getBoundingClientRect().left
  return core.ask('snap', { time: Math.round(Math.max(0, x / px)) })
}

// Ruler shows the time, the steps as bands, markers, and the span that is looped.
// Dragging on it moves the playhead; with Shift it marks a span to loop.
export function Ruler({
  px,
  duration,
  width,
  from,
  to,
}: {
  px: number
  duration: number
  width: number
  from: number
  to: number
}) {
  const schedule = useSession((s) => s.schedule)!
  const doc = useSession((s) => s.doc)!
  const span = useTransport((s) => s.span)
  const began = useRef<number | null>(null)
  const ruler = useRef<HTMLDivElement>(null)
  useEffect(() => {
    const say = () => {
      const t = useTransport.getState().time
      const i = schedule.steps.findIndex((s) => s.start <= t && t < s.start + s.duration)
      ruler.current?.setAttribute('aria-valuenow', String(t / 1e6))
      ruler.current?.setAttribute(
        'aria-valuetext',
        `${seconds(t)}${i >= 0 ? `, step ${i + 1}, ${doc.steps[i]?.title ?? ''}` : ''}`,
      )
    }
    say()
    return useTransport.subscribe((now, before) => now.time !== before.time && !now.playing && say())
  }, [schedule, doc])
  const step = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300, 600].find((s) => s * 1e6 * px >= 46) ?? 1200
  const first = Math.max(0, Math.floor(from / 1e6 / step))
  const ticks = Array.from(
    { length: Math.max(0, Math.min(Math.floor(duration / 1e6 / step), Math.ceil(to / 1e6 / step)) - first + 1) },
    (_, i) => (first + i) * step,
  )
  return (
    <div
      data-ruler
      className="relative touch-none cursor-ew-resize"
      style={{ width }}
      onContextMenu={(e) => {
        e.preventDefault()
        openRulerMenu({ x: e.clientX, y: e.clientY })
      }}
      onPointerDown={(e) => {
        if (e.button !== 0) return
        e.currentTarget.setPointerCapture(e.pointerId)
        const t = seekAt(e, px)
        began.current = e.shiftKey ? t : null
        if (!e.shiftKey) useTransport.getState().seek(t)
      }}
      onPointerMove={(e) => {
        if (e.buttons !== 1) return
        const t = seekAt(e, px)
        const b = began.current
        if (b === null) useTransport.getState().seek(t)
        else if (Math.abs(t - b) > 50_000)
          useTransport.getState().setSpan({ from: Math.min(b, t), to: Math.min(Math.max(b, t), duration) })
      }}
    >
      {schedule.steps.map(
        (s, i) =>
          s.duration > 0 &&
          s.start <= to &&
          s.start + s.duration >= from && (
            <div
              key={s.step}
              className="absolute top-0 flex h-5 items-center overflow-hidden border-r border-ink px-2 text-[11.5px] whitespace-nowrap"
              style={{ left: s.start * px, width: s.duration * px, background: tint(i) }}
              onContextMenu={(e) => {
                e.preventDefault()
                e.stopPropagation()
                openStepMenu({ x: e.clientX, y: e.clientY }, s.step)
              }}
            >
              <span className="truncate" title={`${i + 1} ${doc.steps[i]?.title ?? ''}`}>
                {i + 1} {doc.steps[i]?.title}
              </span>
              {(s.late ?? 0) > 0 && (
                <span
                  aria-hidden
                  title="Its cues end later than it does"
                  className="absolute inset-y-0 right-0 w-[3px] bg-signal"
                />
              )}
              {!doc.steps[i]?.retrace?.speed && <StepGrip index={i} px={px} />}
            </div>
          ),
      )}
      {/* Beside the steps and markers: a slider holds nothing that can be pressed. */}
      <div
        ref={ruler}
        role="slider"
        aria-label="Playhead"
        aria-valuemin={0}
        aria-valuemax={duration / 1e6}
        aria-valuenow={useTransport.getState().time / 1e6}
        tabIndex={0}
        className="pointer-events-none absolute inset-0 focus-visible:-outline-offset-2"
      />
      {span && (
        <div
          aria-hidden
          className="absolute top-5 h-[5px] bg-signal/70"
          style={{ left: span.from * px, width: (span.to - span.from) * px }}
        />
      )}
      {ticks.map((t) => (
        <span
          key={t}
          className="mono pointer-events-none absolute top-[26px] text-[10.5px] text-ink-2"
          style={{ left: t * 1e6 * px + 3 }}
        >
          <span aria-hidden className="absolute -left-[3px] h-[20px] border-l border-line" />
          {Number(t.toFixed(1))}s
        </span>
      ))}
      {schedule.steps.flatMap((s, i) =>
        (doc.steps[i]?.markers ?? []).map((m, k) => (
          <Flag key={`${s.step}-${k}`} step={s.step} index={k} text={m.text} at={s.start + m.offset} px={px} />
        )),
      )}
    </div>
  )
}

// StepGrip is the end of a step's band: dragging it makes the step longer or
// shorter, and everything later moves along.
function StepGrip({ index, px }: { index: number; px: number }) {
  const [from, setFrom] = useState<{ x: number; length: number } | null>(null)
  const length = (e: React.PointerEvent) => {
    const s = useSession.getState()
    return Math.max(100_000, s.core!.ask('snap', { time: Math.round(from!.length + (e.clientX - from!.x) / px) }))
  }
  const command = (e: React.PointerEvent) => ({
    op: 'setStep' as const,
    step: bare(useSession.getState().doc!.steps[index]!, { duration: length(e) }),
  })
  return (
    <span
      aria-hidden
      className="absolute inset-y-0 right-0 w-[7px] cursor-col-resize hover:bg-ink/20"
      onPointerDown={(e) => {
        e.stopPropagation()
        e.currentTarget.setPointerCapture(e.pointerId)
        setFrom({ x: e.clientX, length: useSession.getState().doc!.steps[index]!.duration })
      }}
      onPointerMove={(e) => {
        e.stopPropagation()
        if (from && Math.abs(e.clientX - from.x) > 2) useSession.getState().preview(command(e))
      }}
      onPointerUp={(e) => {
        if (!from) return
        const c = command(e)
        setFrom(null)
        const s = useSession.getState()
        s.settle()
        if (Math.abs(e.clientX - from.x) > 2) s.run(c)
      }}
    />
  )
}

function Flag({ step, index, text, at, px }: { step: string; index: number; text: string; at: number; px: number }) {
  const renaming = useSession((s) => s.renaming?.step === step && s.renaming.index === index)
  if (renaming) {
    return (
      <input
        autoFocus
        onFocus={(e) => e.target.select()}
        defaultValue={text}
        aria-label="Name of the marker"
        maxLength={200}
        className="absolute top-[20px] z-30 h-[24px] w-36 rounded-[2px] border border-ink bg-white px-1 text-[11.5px]"
        style={{ left: at * px }}
        onPointerDown={(e) => e.stopPropagation()}
        onBlur={(e) => renameMarker(step, index, e.target.value)}
        onKeyDown={(e) => {
          e.stopPropagation()
          if (e.key === 'Enter' || e.key === 'Escape') e.currentTarget.blur()
        }}
      />
    )
  }
  return (
    <button
      type="button"
      tabIndex={-1}
      title={text}
      aria-label={`Marker: ${text}`}
      className="absolute top-[20px] z-10 flex h-[24px] max-w-28 items-start border-l-2 border-advice pt-[2px] hover:z-20 hover:max-w-none"
      style={{ left: at * px }}
      onPointerDown={(e) => e.stopPropagation()}
      onClick={() => useTransport.getState().seek(at)}
      onDoubleClick={() => useSession.setState({ renaming: { step, index } })}
      onContextMenu={(e) => {
        e.preventDefault()
        e.stopPropagation()
        openMarkerMenu({ x: e.clientX, y: e.clientY }, step, index, text)
      }}
    >
      <span className="truncate bg-advice-soft/90 px-1 text-[10.5px] leading-[14px] text-advice">{text}</span>
    </button>
  )
}
