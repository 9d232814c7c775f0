import { useCallback } from 'react'
import type { Command } from '../api/client'
import { shiftCues, stretchCues } from '../session/cues'
import { useSession } from '../session/session'
import { barOf, snapEdges, snapTo } from './view'

export type Grip = 'move' | 'start' | 'end'

export type BeginDrag = (e: React.PointerEvent, cue: string, grip: Grip) => void

const near = 6 // px within which a bar snaps

// useDrag shifts and stretches bars. While the pointer moves the core shows the
// outcome as a preview; on release the same command is carried out for good. Bars
// snap to other bars, steps, markers and the playhead, else to frames; with Alt to
// nothing.
export function useDrag(px: number): BeginDrag {
  return useCallback(
    (e, cue, grip) => {
      if (e.button !== 0) return
      e.stopPropagation()
      const s = useSession.getState()
      const add = e.ctrlKey || e.shiftKey || e.metaKey
      const now = s.selection.cues
      if (add) s.select({ cues: now.includes(cue) ? now.filter((c) => c !== cue) : [...now, cue] })
      else if (!now.includes(cue)) s.select({ cues: [cue] })
      const cueIds = useSession.getState().selection.cues
      const bar = barOf(cue)
      if (!cueIds.includes(cue) || !bar) return
      const from = e.clientX
      const edges = snapEdges(new Set(cueIds))
      const ends =
        grip === 'move'
          ? [bar.start, bar.start + bar.duration]
          : grip === 'start'
            ? [bar.start]
            : [bar.start + bar.duration]
      let command: Command | null = null
      let began = false
      const snapped = (raw: number) => {
        for (const end of ends) {
          const to = snapTo(end + raw, edges, near / px)
          if (to !== null) return Math.round(to - end)
        }
        return s.core!.ask('snap', { time: raw })
      }
      const move = (m: PointerEvent) => {
        if (!began && Math.abs(m.clientX - from) < 3) return
        began = true
        const raw = Math.round((m.clientX - from) / px)
        const by = m.altKey ? raw : snapped(raw)
        if (command?.by === by) return
        command = grip === 'move' ? { op: 'shiftCues', cueIds, by } : { op: 'stretchCue', cueIds, by, edge: grip }
        const begun = performance.now()
        s.preview(command)
        performance.mark('drag', { detail: performance.now() - begun })
      }
      const stop = (take: boolean) => {
        window.removeEventListener('pointermove', move)
        window.removeEventListener('pointerup', up)
        window.removeEventListener('keydown', key, true)
        if (!began) {
          // a click: of several that are selected it means this one
          if (take && !add) s.select({ cues: [cue] })
          return
        }
        s.settle()
        if (!take || !command?.by) return
        if (grip === 'move') shiftCues(cueIds, command.by)
        else stretchCues(cueIds, command.by, grip)
      }
      const up = () => stop(true)
      const key = (k: KeyboardEvent) => {
        if (k.key !== 'Escape') return
        k.stopPropagation()
        stop(false)
      }
      window.addEventListener('pointermove', move)
      window.addEventListener('pointerup', up)
      window.addEventListener('keydown', key, true)
    },
    [px],
  )
}
