import { onStage } from '../session/eye'
import { useState } from 'react'
import { useSession } from '../session/session'

interface Box {
  x: number
  y: number
  toX: number
  toY: number
}

// BoxPick picks what lies in a box drawn over the stage with Shift held down.
export function BoxPick() {
  const [box, setBox] = useState<Box | null>(null)
  const [armed, setArmed] = useState(false)
  const place = (e: React.PointerEvent) => {
    const r = e.currentTarget.getBoundingClientRect()
    return { x: e.clientX - r.left, y: e.clientY - r.top }
  }
  return (
    <div
      className={`absolute inset-0 ${armed || box ? '' : 'pointer-events-none'}`}
      data-armed={armed}
      ref={(el) => {
        if (!el) return
        const key = (e: KeyboardEvent) => setArmed(e.shiftKey)
        window.addEventListener('keydown', key)
        window.addEventListener('keyup', key)
        return () => {
          window.removeEventListener('keydown', key)
          window.removeEventListener('keyup', key)
        }
      }}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId)
        const p = place(e)
        setBox({ ...p, toX: p.x, toY: p.y })
      }}
      onPointerMove={(e) => {
        if (!box) return
        const p = place(e)
        setBox({ ...box, toX: p.x, toY: p.y })
      }}
      onPointerUp={(e) => {
        if (!box) return
        setBox(null)
        const [left, right] = [Math.min(box.x, box.toX), Math.max(box.x, box.toX)]
        const [top, bottom] = [Math.min(box.y, box.toY), Math.max(box.y, box.toY)]
        if (right - left < 4 && bottom - top < 4) return onStage()?.pickAt(e, true)
        const found = onStage()?.finder.inBox(left, top, right, bottom) ?? []
        const { selection, select } = useSession.getState()
        select({ nodes: [...new Set([...selection.nodes, ...found])] })
      }}
    >
      {box && (
        <div
          className="absolute border border-dashed border-signal bg-signal/10"
          style={{
            left: Math.min(box.x, box.toX),
            top: Math.min(box.y, box.toY),
            width: Math.abs(box.toX - box.x),
            height: Math.abs(box.toY - box.y),
          }}
        />
      )}
    </div>
  )
}
