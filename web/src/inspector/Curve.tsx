import { useState } from 'react'

type Points = [number, number, number, number]

const round = (v: number) => Math.round(v * 100) / 100

// Curve is an easing of one's own: two handles of a cubic Bézier from the lower
// left to the upper right, to be dragged or moved by the arrow keys.
export function Curve({ value, onChange }: { value: Points; onChange(p: Points): void }) {
  const [held, setHeld] = useState<{ handle: 0 | 1; points: Points } | null>(null)
  const shown = held?.points ?? value
  const [x1, y1, x2, y2] = shown
  const moved = (handle: 0 | 1, x: number, y: number): Points => {
    const p: Points = [...shown]
    p[2 * handle] = round(Math.max(0, Math.min(1, x)))
    p[2 * handle + 1] = round(Math.max(-0.5, Math.min(1.5, y)))
    return p
  }
  const place = (e: React.PointerEvent<SVGSVGElement>) => {
    const r = e.currentTarget.getBoundingClientRect()
    return { x: ((e.clientX - r.left) / r.width) * 1.2 - 0.1, y: 1.6 - ((e.clientY - r.top) / r.height) * 2.2 }
  }
  const dot = (handle: 0 | 1, x: number, y: number) => (
    <ellipse
      cx={x}
      cy={1 - y}
      rx={0.028}
      ry={0.12}
      tabIndex={0}
      role="slider"
      aria-label={handle === 0 ? 'Way out of rest' : 'Way into rest'}
      aria-valuetext={`${x}, ${y}`}
      aria-valuenow={y}
      aria-valuemin={-0.5}
      aria-valuemax={1.5}
      className="cursor-grab fill-signal focus-visible:outline-2"
      onPointerDown={(e) => {
        ;(e.currentTarget.ownerSVGElement as SVGSVGElement).setPointerCapture(e.pointerId)
        setHeld({ handle, points: value })
      }}
      onKeyDown={(e) => {
        const by = { ArrowLeft: [-0.02, 0], ArrowRight: [0.02, 0], ArrowUp: [0, 0.02], ArrowDown: [0, -0.02] }[e.key]
        if (!by) return
        e.preventDefault()
        e.stopPropagation()
        onChange(moved(handle, x + by[0]!, y + by[1]!))
      }}
    />
  )
  return (
    <svg
      viewBox="-0.1 -0.6 1.2 2.2"
      className="mb-1 h-[104px] w-full border border-line bg-white"
      preserveAspectRatio="none"
      aria-label="Curve of the easing"
      onPointerMove={(e) => {
        if (!held) return
        const p = place(e)
        setHeld({ handle: held.handle, points: moved(held.handle, p.x, p.y) })
      }}
      onPointerUp={() => {
        if (held) onChange(held.points)
        setHeld(null)
      }}
    >
      <path d="M0 0H1V1H0Z" fill="none" stroke="var(--line)" strokeWidth={1} vectorEffect="non-scaling-stroke" />
      <path
        d={`M0 1L${x1} ${1 - y1}M1 0L${x2} ${1 - y2}`}
        stroke="var(--ink)"
        strokeWidth={1}
        strokeDasharray="3 2"
        vectorEffect="non-scaling-stroke"
      />
      <path
        d={`M0 1C${x1} ${1 - y1} ${x2} ${1 - y2} 1 0`}
        fill="none"
        stroke="var(--ink)"
        strokeWidth={2}
        vectorEffect="non-scaling-stroke"
      />
      {dot(0, x1, y1)}
      {dot(1, x2, y2)}
    </svg>
  )
}
