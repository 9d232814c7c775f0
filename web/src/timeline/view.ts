// How the author looks at the timeline: its zoom, the order of its lanes, what is
// folded. Nothing of it is recorded.
import { create } from 'zustand'
import type { Bar } from '../api/client'
import { findCue } from '../session/cues'
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import type { Lane } from './lanes'

interface TimelineView {
  /** How many times wider than the window all of it is. */
  zoom: number
  /** What is to be seen next, µs; the timeline scrolls there and forgets it. */
  wanted: { from: number; to: number } | null
  order: 'time' | 'tree'
  folded: ReadonlySet<string>
  /** The cue whose bar has the focus, or had it last. */
  at: string | null
  /** The lanes as they are laid out, for the arrow keys. */
  lanes: readonly Lane[]
}

export const useTimelineView = create<TimelineView>(() => ({
  zoom: 1,
  wanted: null,
  order: 'time',
  folded: new Set<string>(),
  at: null,
  lanes: [],
}))

export function fold(key: string) {
  const folded = new Set(useTimelineView.getState().folded)
  if (!folded.delete(key)) folded.add(key)
  useTimelineView.setState({ folded })
}

// selectedSpan is from the first start to the last end of what is selected: cues, or
// a step.
export function selectedSpan(): { from: number; to: number } | null {
  const { selection, schedule } = useSession.getState()
  const bars = schedule?.bars.filter((b) => !b.retraced && selection.cues.includes(b.cue)) ?? []
  if (bars.length > 0)
    return { from: Math.min(...bars.map((b) => b.start)), to: Math.max(...bars.map((b) => b.start + b.duration)) }
  const step = schedule?.steps.find((s) => s.step === selection.step)
  return step && step.duration > 0 ? { from: step.start, to: step.start + step.duration } : null
}

export const zoomToAll = () => useTimelineView.setState({ zoom: 1, wanted: null })

export function zoomToSelection() {
  const span = selectedSpan()
  if (span) useTimelineView.setState({ wanted: span })
}

export function loopSelection() {
  const span = selectedSpan()
  const now = useTransport.getState().span
  useTransport.getState().setSpan(span && now?.from === span.from && now.to === span.to ? null : span)
}

// snapTo moves a time to what lies within a tolerance of it, if anything does.
export function snapTo(time: number, edges: readonly number[], within: number): number | null {
  let best: number | null = null
  for (const e of edges)
    if (Math.abs(e - time) <= within && (best === null || Math.abs(e - time) < Math.abs(best - time))) best = e
  return best
}

// snapEdges are the times that dragged bars snap to: where other bars begin and end,
// steps, markers and the playhead.
export function snapEdges(dragged: ReadonlySet<string>): number[] {
  const { schedule, doc } = useSession.getState()
  if (!schedule || !doc) return []
  const edges = [useTransport.getState().time]
  for (const b of schedule.bars) if (!dragged.has(b.cue)) edges.push(b.start, b.start + b.duration)
  schedule.steps.forEach((s, i) => {
    edges.push(s.start, s.start + s.duration)
    for (const m of doc.steps[i]?.markers ?? []) edges.push(s.start + m.offset)
  })
  return edges
}

export const barOf = (cue: string) =>
  findCue(cue) ? useSession.getState().schedule?.bars.find((b) => b.cue === cue && !b.retraced) : undefined

// walk takes the focus from a bar to another one: along its lane, or to the nearest in the next; false for other keys.
export function walk(cue: string, key: string): boolean {
  const lanes = useTimelineView
    .getState()
    .lanes.map((l) => l.bars.filter((b) => !b.retraced))
    .filter((bars) => bars.length > 0)
  const i = lanes.findIndex((bars) => bars.some((b) => b.cue === cue))
  if (i < 0) return false
  const bars = [...lanes[i]!].sort((a, b) => a.start - b.start)
  const k = bars.findIndex((b) => b.cue === cue)
  const nearest = (to: readonly Bar[] | undefined) =>
    to && [...to].sort((a, b) => Math.abs(a.start - bars[k]!.start) - Math.abs(b.start - bars[k]!.start))[0]
  const to: Record<string, Bar | undefined> = {
    ArrowLeft: bars[k - 1],
    ArrowRight: bars[k + 1],
    Home: bars[0],
    End: bars[bars.length - 1],
    ArrowUp: nearest(lanes[i - 1]),
    ArrowDown: nearest(lanes[i + 1]),
  }
  if (!(key in to)) return false
  const next = to[key]
  if (next) focusBar(next.cue)
  return true
}

// focusBar gives the focus to a bar, once it is in sight.
export function focusBar(cue: string) {
  useTimelineView.setState({ at: cue })
  requestAnimationFrame(() =>
    requestAnimationFrame(() => document.querySelector<HTMLElement>(`[data-cue="${CSS.escape(cue)}"]`)?.focus()),
  )
}
