import { useCallback } from 'react'
import type { Command } from '../api/client'
import { useSession } from '../session/session'

export type Grip = 'move' | 'start' | 'end'

export type BeginDrag = (e: React.PointerEvent, cue: string, grip: Grip) => void

// useDrag shifts and stretches bars. While the pointer moves the core shows the
// outcome as a preview; on release the same command is carried out for good.
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
      if (!cueIds.includes(cue)) return
      const from = e.clientX
      let command: Command | null = null
      let began = false
      const move = (m: PointerEvent) => {
        if (!began && Math.abs(m.clientX - from) < 3) return
        began = true
        const raw = Math.round((m.clientX - from) / px)
        const by = m.altKey ? raw : s.core!.ask<number>({ ask: 'snap', time: raw })
        command = grip === 'move' ? { op: 'shiftCues', cueIds, by } : { op: 'stretchCue', cueIds, by, edge: grip }
        s.preview(command)
      }
      const stop = (take: boolean) => {
        window.removeEventListener('pointermove', move)
        window.removeEventListener('pointerup', up)
        window.removeEventListener('keydown', key, true)
        if (!began) return
        s.settle()
        if (take && command && command.by !== 0) s.run(command)
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
