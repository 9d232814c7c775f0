import type { Player, Playing } from './player'

// Notes are those of the film, where the eye sees what they point at.
export function Notes({ player, now }: { player: Player; now: Playing }) {
  const notes = player.core.ask('notes', {
    time: now.time,
    camera: now.eye === 'mine' ? player.stage.eyes.present() : undefined,
  })
  const l = player.core.ask('lettering')
  const unit = (share: number) => `${100 * share}cqmin`
  if (!notes || notes.length === 0) return null
  return (
    <div className="notes" role="group" aria-label="Notes">
      <svg viewBox="0 0 1 1" preserveAspectRatio="none" aria-hidden>
        {notes.map((n, i) => (
          <line
            key={i}
            x1={n.anchorX}
            y1={n.anchorY}
            x2={Math.max(n.x, Math.min(n.anchorX, n.x + n.width))}
            y2={Math.max(n.y, Math.min(n.anchorY, n.y + n.height))}
            opacity={n.opacity}
            strokeDasharray={player.stage.finder.hides(n.node, n.at, l.noteSlack, l.noteSlackOf) ? '6 4' : undefined}
          />
        ))}
      </svg>
      {notes.map((n, i) => (
        <p
          key={i}
          style={{
            opacity: n.opacity,
            left: `calc(${100 * n.x}% - ${unit(l.noteAside)})`,
            top: `calc(${100 * n.y}% - ${unit(l.noteAbove)})`,
            padding: `${unit(l.noteAbove)} ${unit(l.noteAside)}`,
            fontSize: unit(l.note),
            lineHeight: unit(l.noteLead),
          }}
        >
          {n.lines.map((line, k) => (
            <span key={k}>{line}</span>
          ))}
        </p>
      ))}
    </div>
  )
}
