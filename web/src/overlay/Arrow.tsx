// A way that parts go, drawn over the stage as an arrow whose tip the hand takes.
import { onStage } from '../session/eye'
import { useRef, useState } from 'react'
import type { Vec3 } from '../core/core'
import { useSession } from '../session/session'
import { useView } from '../stage/view'

interface ArrowProps {
  label: string
  from: Vec3
  /** Of unit length, in the world. */
  along: Vec3
  distance: number
  /** Where something is touched, mm along the way, and what: it is tinted while the hand goes beyond. */
  touches?: number
  what?: string
  onDrag(mm: number): void
  onDrop(mm: number): void
}

const point = (from: Vec3, along: Vec3, mm: number): Vec3 => [
  from[0] + along[0] * mm,
  from[1] + along[1] * mm,
  from[2] + along[2] * mm,
]

// Arrow follows the eye. Whole millimetres, with Alt tenths.
export function Arrow({ label, from, along, distance, touches, what, onDrag, onDrop }: ArrowProps) {
  useView((s) => s.looked) // it moves with the eye
  const [held, setHeld] = useState(false)
  const latest = useRef(distance)
  const stage = onStage()
  const a = stage?.place(from)
  const b = stage?.place(point(from, along, distance))
  const t = touches !== undefined && touches > 0.05 ? stage?.place(point(from, along, touches)) : null
  if (!stage || !a || !b) return null
  const long = Math.hypot(b[0] - a[0], b[1] - a[1])
  const [ux, uy] = long > 1e-3 ? [(b[0] - a[0]) / long, (b[1] - a[1]) / long] : [1, 0]
  const move = (e: React.PointerEvent) => {
    try {
      const mm = useSession.getState().core!.ask('drag', { point: from, along, ray: stage.eyes.sightline(e) })
      latest.current = e.altKey ? Math.round(mm * 10) / 10 : Math.round(mm)
      onDrag(latest.current)
      useSession.getState().setHover(touches !== undefined && latest.current > touches ? (what ?? null) : null)
    } catch {
      // Seen end on there is nothing to drag along; the field still takes numbers.
    }
  }
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full overflow-visible" aria-hidden>
      <line x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} stroke="var(--signal)" strokeWidth={2} />
      <circle cx={a[0]} cy={a[1]} r={3} fill="var(--signal)" />
      {t && (
        <line
          x1={t[0] - uy * 8}
          y1={t[1] + ux * 8}
          x2={t[0] + uy * 8}
          y2={t[1] - ux * 8}
          stroke="var(--color-advice)"
          strokeWidth={3}
        />
      )}
      <g transform={`translate(${b[0]} ${b[1]}) rotate(${(Math.atan2(uy, ux) * 180) / Math.PI})`}>
        <path d="M-10 -6 L3 0 L-10 6 Z" fill={held ? 'var(--color-signal-ink)' : 'var(--signal)'} />
        <circle
          data-grip={label}
          r={13}
          fill="transparent"
          className="pointer-events-auto cursor-grab"
          onPointerDown={(e) => {
            e.stopPropagation()
            e.currentTarget.setPointerCapture(e.pointerId)
            latest.current = distance
            setHeld(true)
          }}
          onPointerMove={(e) => held && move(e)}
          onPointerUp={() => {
            setHeld(false)
            useSession.getState().setHover(null)
            onDrop(latest.current)
          }}
        />
      </g>
      {held && (
        <text x={b[0] + 14} y={b[1] - 12} className="mono" fontSize={12} fill="var(--color-signal-ink)">
          {latest.current} mm
        </text>
      )}
    </svg>
  )
}
