import { useTransport } from '../session/transport'
import { Button } from '../ui/controls'
import { Row } from './fields'
import type { Settings } from './settings'
import { seconds } from '../core/written'

// Moments are the times of pictures and drawings.
export function Moments({
  s,
  change,
  none = 'the end',
}: {
  s: Settings
  change(by: Partial<Settings>): void
  /** What is taken where there are none. */
  none?: string
}) {
  const at = s.at ?? []
  const here = () =>
    change({ at: [...new Set([...at, Math.round(useTransport.getState().time)])].sort((a, b) => a - b) })
  return (
    <Row
      label="Moments"
      hint={
        s.ends ? (at.length > 0 ? `${at.length} and the ends` : 'the ends') : at.length === 0 ? none : `${at.length}`
      }
    >
      <div className="flex flex-wrap gap-1.5">
        {at.map((t) => (
          <button
            key={t}
            className="mono h-6 rounded-md border border-line bg-white px-1.5 text-[11.5px] hover:border-signal"
            aria-label={`Leave out ${seconds(t)}`}
            onClick={() => change({ at: at.filter((x) => x !== t) })}
          >
            {seconds(t)} ×
          </button>
        ))}
        <Button onClick={here}>At the playhead</Button>
        <Button
          aria-pressed={s.ends ?? false}
          className="aria-pressed:bg-ink aria-pressed:text-sheet"
          onClick={() => change({ ends: !s.ends || undefined })}
        >
          Every step’s end
        </Button>
      </div>
    </Row>
  )
}
