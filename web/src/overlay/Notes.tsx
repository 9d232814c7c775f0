import { onStage } from '../session/eye'
import clsx from 'clsx'
import type { Core } from '../core/core'
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { paper, unit, useLettering } from './Words'
import { useView } from '../stage/view'

// Notes shows the notes of the film where the film will have them, or where the
// author's own eye sees what they point at.
export function Notes({ own }: { own: boolean }) {
  const core = useSession((s) => s.core)
  const schedule = useSession((s) => s.schedule)
  const any = schedule?.bars.some((b) => b.kind === 'note') ?? false
  const time = useTransport((s) => (any ? s.time : 0))
  if (!core || !any) return null
  return <Placed core={core} time={time} own={own} />
}

function Placed({ core, time, own }: { core: Core; time: number; own: boolean }) {
  useView((s) => (own ? s.looked : 0))
  useView((s) => s.moved) // what hides them moves with the parts
  const l = useLettering()!
  const known = core.ask('notes', { time, camera: own ? onStage()?.eyes.present() : undefined }) ?? []
  const notes = known.map((n) => ({
    ...n,
    hidden: onStage()?.finder.hides(n.node, n.at, l.noteSlack, l.noteSlackOf) ?? false,
  }))
  return (
    <div
      role="group"
      aria-label="Notes"
      className="pointer-events-none absolute inset-0"
      style={{ containerType: 'size' }}
    >
      <svg className="absolute inset-0 h-full w-full" viewBox="0 0 1 1" preserveAspectRatio="none" aria-hidden>
        {notes.map((n, i) => (
          <line
            key={i}
            x1={n.anchorX}
            y1={n.anchorY}
            x2={Math.max(n.x, Math.min(n.anchorX, n.x + n.width))}
            y2={Math.max(n.y, Math.min(n.anchorY, n.y + n.height))}
            stroke="var(--ink)"
            strokeWidth={1}
            strokeDasharray={n.hidden ? '6 4' : undefined}
            vectorEffect="non-scaling-stroke"
            opacity={n.opacity}
          />
        ))}
      </svg>
      {notes.map((n, i) => (
        <div key={i} style={{ opacity: n.opacity }}>
          <span
            className={clsx(
              'absolute -translate-x-1/2 -translate-y-1/2 rounded-full',
              n.hidden ? 'border border-ink' : 'bg-ink',
            )}
            title={n.hidden ? 'What this note points at is hidden' : undefined}
            style={{
              width: unit(l.noteDot),
              height: unit(l.noteDot),
              left: `${100 * n.anchorX}%`,
              top: `${100 * n.anchorY}%`,
            }}
          />
          <p
            className="absolute border border-ink font-semibold whitespace-nowrap"
            style={{
              background: paper(l.noteAlpha),
              left: `calc(${100 * n.x}% - ${unit(l.noteAside)})`,
              top: `calc(${100 * n.y}% - ${unit(l.noteAbove)})`,
              width: `calc(${100 * n.width}% + ${unit(2 * l.noteAside)})`,
              height: `calc(${100 * n.height}% + ${unit(2 * l.noteAbove)})`,
              padding: `${unit(l.noteAbove)} ${unit(l.noteAside)}`,
              fontSize: unit(l.note),
              lineHeight: unit(l.noteLead),
            }}
          >
            {n.lines.map((l, k) => (
              <span key={k} className="block">
                {l}
              </span>
            ))}
          </p>
        </div>
      ))}
    </div>
  )
}
