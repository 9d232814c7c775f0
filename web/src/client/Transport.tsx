import { Pause, Play, SkipBack, SkipForward } from 'lucide-react'
import type { Player, Playing } from './player'

// Transport is the clock of the film: play, its moments, the steps before and behind.
export function Transport({ player, now }: { player: Player; now: Playing }) {
  const jump = (way: 1 | -1) => {
    const slack = 5e5 // µs: who has just begun a step goes to the one before
    const starts = now.steps.map((s) => s.start)
    const to = way > 0 ? starts.find((s) => s > now.time + 1) : starts.findLast((s) => s < now.time - slack)
    player.stop()
    player.film()
    player.go(to ?? (way > 0 ? now.length : 0))
  }
  const step = player.reveal().steps[player.step()]
  return (
    <div className="transport" role="group" aria-label="Film">
      <button type="button" aria-label="Step before" title="Step before" onClick={() => jump(-1)}>
        <SkipBack size={16} />
      </button>
      <button
        type="button"
        className="play"
        aria-label={now.playing ? 'Pause' : 'Play'}
        title="Space"
        onClick={() => {
          if (now.playing) return player.stop()
          player.film()
          player.play()
        }}
      >
        {now.playing ? <Pause size={18} /> : <Play size={18} />}
      </button>
      <button type="button" aria-label="Next step" title="Next step" onClick={() => jump(1)}>
        <SkipForward size={16} />
      </button>
      <span className="track">
        <input
          type="range"
          aria-label="Moment"
          aria-valuetext={`${player.clock()}${step ? `, ${step.title}` : ''}`}
          min={0}
          max={now.length}
          step={1000}
          value={now.time}
          onChange={(e) => {
            player.stop()
            player.go(Number(e.target.value))
          }}
        />
        <span className="ticks" aria-hidden>
          {now.steps.slice(1).map((s) => (
            <i key={s.index} style={{ left: `${(100 * s.start) / now.length}%` }} />
          ))}
        </span>
      </span>
      <output className="clock">{player.clock()}</output>
    </div>
  )
}
