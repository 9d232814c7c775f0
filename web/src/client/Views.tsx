import { useEffect, useMemo, useState } from 'react'
import type { Player, Playing } from './player'
import { written } from '../core/written'

const shown = ['front', 'left', 'right', 'top', 'isometric']
const axes = ['X', 'Y', 'Z'] as const

// Views are where the product is looked at from, how far it is apart, and the section through it.
export function Views({ player, now }: { player: Player; now: Playing }) {
  const { eye, time } = now
  const views = player.core.ask('views').filter((v) => shown.includes(v.name))
  const [axis, setAxis] = useState<0 | 1 | 2 | null>(null)
  const [share, setShare] = useState(0.5)
  const [flip, setFlip] = useState(false)
  const apart = player.apart()

  useEffect(() => {
    if (axis === null) return player.setSection(null)
    const [low, high] = player.core.ask('bounds')
    player.setSection({ axis, at: low[axis]! + share * (high[axis]! - low[axis]!), flip })
  }, [player, axis, share, flip])

  return (
    <div className="views">
      <div className="choice" role="group" aria-label="Look from">
        <button type="button" aria-pressed={eye === 'shot'} onClick={() => player.film()}>
          Film
        </button>
        {views.map((v) => (
          <button key={v.name} type="button" onClick={() => player.look(v.name)}>
            {v.label}
          </button>
        ))}
      </div>
      {apart > 0 && (
        <label>
          Apart
          <input
            type="range"
            min={0}
            max={apart}
            step={1000}
            value={Math.min(time, apart)}
            aria-valuetext={`${Math.round((100 * Math.min(time, apart)) / apart)} %`}
            onChange={(e) => {
              player.stop()
              player.go(Number(e.target.value))
            }}
          />
        </label>
      )}
      <ByHand player={player} hand={now.hand} />
      <label>
        Section
        <select
          value={axis ?? ''}
          onChange={(e) => setAxis(e.target.value === '' ? null : (Number(e.target.value) as 0 | 1 | 2))}
        >
          <option value="">none</option>
          {axes.map((name, i) => (
            <option key={name} value={i}>
              across {name}
            </option>
          ))}
        </select>
      </label>
      {axis !== null && (
        <>
          <input
            type="range"
            aria-label="Where it cuts"
            min={0}
            max={1}
            step={0.005}
            value={share}
            onChange={(e) => setShare(Number(e.target.value))}
          />
          <button type="button" aria-pressed={flip} onClick={() => setFlip(!flip)}>
            Other side
          </button>
        </>
      )}
    </div>
  )
}

// ByHand moves what a mechanism can: the product stands together for that, and the film goes on where it was.
function ByHand({ player, hand }: { player: Player; hand: Playing['hand'] }) {
  const handles = useMemo(() => player.handles(), [player])
  const handle = handles.find((h) => h.joint === hand?.joint)
  const value = hand && handle ? written(hand.value, handle.slides ? 'length' : 'angle', handle.slides ? 1 : 0) : ''
  if (handles.length === 0) return null
  return (
    <>
      <label>
        By hand
        <select
          value={hand?.joint ?? ''}
          onChange={(e) => {
            const chosen = handles.find((h) => h.joint === e.target.value)
            player.turn(chosen?.joint ?? null, chosen?.rest)
          }}
        >
          <option value="">nothing</option>
          {handles.map((h) => (
            <option key={h.joint} value={h.joint}>
              {h.name}
            </option>
          ))}
        </select>
      </label>
      {hand && handle && (
        <>
          <input
            type="range"
            aria-label={`${handle.slides ? 'Slide' : 'Turn'} ${handle.name}`}
            aria-valuetext={value}
            min={handle.low}
            max={handle.high}
            step={(handle.high - handle.low) / 720}
            value={hand.value}
            onChange={(e) => player.turn(handle.joint, Number(e.target.value))}
          />
          <span className="value" aria-hidden>
            {value}
          </span>
        </>
      )}
    </>
  )
}
