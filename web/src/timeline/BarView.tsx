import clsx from 'clsx'
import { Link2 } from 'lucide-react'
import { memo } from 'react'
import type { Bar } from '../api/client'
import { shiftCues, stretchCues } from '../session/cues'
import type { Finding } from '../proof/proof'
import { namesOf, useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { Glyph, kindNames } from '../ui/glyphs'
import type { BeginDrag } from './drag'
import { openBarMenu } from './menus'
import { useTimelineView, walk } from './view'
import { seconds } from '../core/written'

const least = 12 // px: no bar is too thin to grab

// BarView is one cue. A thin bar has its grips outside.
export const BarView = memo(function BarView({
  bar: laid,
  px,
  top,
  color,
  picked,
  stop,
  step,
  wrong,
  drag,
}: {
  bar: Bar
  px: number
  top: number
  color: string
  picked: boolean
  stop: boolean
  step: number
  wrong?: readonly Finding[]
  drag: BeginDrag
}) {
  // As a hand holds it just now, or as it lies.
  const held = useSession((s) => (laid.retraced ? undefined : s.held.get(laid.cue)))
  const bar = held ?? laid
  const width = Math.max(bar.duration * px, least)
  const left = bar.start * px
  const thin = width < 40
  // A number cut off says something else; a name or a sentence may end in dots.
  const said = ['note', 'shot', 'card', 'surface'].includes(bar.kind)
  const words = bar.label && width >= (said ? 60 : (bar.twin ? 42 : 28) + bar.label.length * 6.4) ? bar.label : ''
  const name = `${kindNames[bar.kind]} ${bar.label}${bar.twin ? ', twin' : ''}`.trim()
  if (bar.retraced) {
    return (
      <div
        title={`${name}, retraced`}
        className="pointer-events-none absolute z-[1] flex h-6 items-center gap-1 overflow-hidden rounded-[3px] border border-dashed border-ink bg-white/70 px-1 text-[11px] whitespace-nowrap"
        style={{ left, top, width }}
      >
        <Glyph kind={bar.kind} size={12} />
        {words}
      </div>
    )
  }
  const onKey = (e: React.KeyboardEvent) => {
    const by = (e.ctrlKey ? 1e6 : (useSession.getState().schedule?.frame ?? 0)) * (e.key === 'ArrowLeft' ? -1 : 1)
    const cueIds = picked ? useSession.getState().selection.cues : [bar.cue]
    const { selection, select } = useSession.getState()
    if (e.key === 'Enter') select({ cues: [bar.cue] })
    else if (e.key === ' ')
      select({ cues: picked ? selection.cues.filter((c) => c !== bar.cue) : [...selection.cues, bar.cue] })
    else if ((e.key === 'ArrowLeft' || e.key === 'ArrowRight') && e.altKey)
      void (e.shiftKey ? stretchCues(cueIds, by, 'end') : shiftCues(cueIds, by))
    else if (e.altKey || e.ctrlKey || e.metaKey || e.shiftKey || !walk(bar.cue, e.key)) return
    e.preventDefault()
    e.stopPropagation()
  }
  const grip = (edge: 'start' | 'end') => (
    <span
      aria-hidden
      onPointerDown={(e) => drag(e, bar.cue, edge)}
      className={clsx(
        'absolute inset-y-0 w-[7px] touch-none cursor-ew-resize pointer-coarse:w-[22px]',
        edge === 'start' ? (thin ? '-left-[7px]' : 'left-0') : thin ? '-right-[7px]' : 'right-0',
        thin && picked && 'border-y border-signal',
        thin && picked && (edge === 'start' ? 'rounded-l-[3px] border-l' : 'rounded-r-[3px] border-r'),
      )}
    />
  )
  return (
    <div
      role="button"
      tabIndex={stop ? 0 : -1}
      aria-pressed={picked}
      onFocus={() => useTimelineView.setState({ at: bar.cue })}
      aria-label={`${[name, bar.targets?.length ? namesOf(useSession.getState().assembly, bar.targets) : ''].filter(Boolean).join(', ')}, ${seconds(bar.start)} to ${seconds(bar.start + bar.duration)}, step ${step}${bar.muted ? ', muted' : ''}${picked ? ', selected' : ''}${wrong ? `. ${wrong[0]!.says}` : ''}`}
      onContextMenu={(e) => {
        e.preventDefault()
        e.stopPropagation()
        openBarMenu({ x: e.clientX, y: e.clientY }, bar.cue, name)
      }}
      title={wrong ? `${name}. ${wrong[0]!.says}` : name}
      data-cue={bar.cue}
      onKeyDown={onKey}
      onPointerDown={(e) => drag(e, bar.cue, 'move')}
      onDoubleClick={() => useTransport.getState().seek(bar.start)}
      className={clsx(
        'pointer-events-auto absolute z-[1] h-6 touch-none cursor-grab rounded-[3px] border text-[11px] whitespace-nowrap select-none',
        picked ? 'border-signal bg-signal text-white' : 'border-ink',
        bar.twin && 'border-l-[5px] border-double',
        bar.muted && !picked && 'border-dashed line-through',
      )}
      style={{ left, top, width, background: picked ? undefined : color }}
    >
      {/* The grips may stand outside, the words may not. */}
      <span className="pointer-events-none flex h-full items-center gap-1 overflow-hidden px-1">
        <Glyph kind={bar.kind} size={12} />
        {bar.twin && <Link2 size={10} className="shrink-0" aria-label="twin" />}
        <span className={said ? 'truncate' : undefined}>{words}</span>
      </span>
      {grip('start')}
      {grip('end')}
    </div>
  )
})
