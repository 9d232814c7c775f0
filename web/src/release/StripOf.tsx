// Pictures of moments beside one another in one: over a period of a mechanism they show how it works.
import { useMemo } from 'react'
import type { Schemas } from '../api/client'
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { Button, Tick } from '../ui/controls'
import { NumberField } from '../ui/NumberField'
import { Row, type Part } from './fields'
import { seconds } from '../core/written'

type Strip = Schemas['StillStrip']

interface Round {
  /** How long it takes, µs; 0 where nothing runs. */
  takes: number
  text: string
}

/** useRound is how long the mechanism takes until all stands as before, or, where the film is too short for that, until
 *  what is driven has turned once. */
function useRound(): Round {
  const core = useSession((x) => x.core)
  const schedule = useSession((x) => x.schedule)
  return useMemo(() => {
    const round = schedule && core?.ask('round')
    if (!round) return { takes: 0, text: '' }
    return { takes: round.takes, text: round.whole ? 'one period of the mechanism' : 'one turn of what is driven' }
  }, [core, schedule])
}

/** StripOf asks whether the stills are a strip, and of what. */
export function StripOf({ s, change }: Part) {
  const round = useRound()
  const strip = s.strip
  const put = (by: Partial<Strip>) => change({ strip: { ...strip!, ...by } })
  const begin = () => useSession.getState().core!.ask('strip', { time: Math.round(useTransport.getState().time) })
  return (
    <>
      <Tick
        on={strip !== undefined}
        onChange={(on) =>
          change(
            on
              ? { strip: begin(), at: undefined, ends: undefined, layers: [{ kind: 'shaded' }] }
              : { strip: undefined },
          )
        }
      >
        A strip: pictures beside one another
      </Tick>
      {strip && (
        <>
          <div className="grid grid-cols-3 gap-2">
            <Row label="Pictures">
              <NumberField
                label="Pictures of the strip"
                quantity="plain"
                value={strip.count}
                onChange={(n) => put({ count: Math.round(n) })}
              />
            </Row>
            <Row label="From, s">
              <NumberField
                label="Where the strip begins"
                quantity="time"
                value={(strip.from ?? 0) / 1e6}
                onChange={(v) => put({ from: Math.round(v * 1e6) })}
              />
            </Row>
            <Row label="Over, s">
              <NumberField
                label="How long the strip goes on"
                quantity="time"
                value={strip.over / 1e6}
                onChange={(v) => put({ over: Math.round(v * 1e6) })}
              />
            </Row>
          </div>
          {round.takes > 0 && Math.abs(strip.over - round.takes) > 1000 && (
            <Button onClick={() => put({ over: round.takes })}>
              Over {round.text}, {seconds(round.takes)}
            </Button>
          )}
        </>
      )}
    </>
  )
}
