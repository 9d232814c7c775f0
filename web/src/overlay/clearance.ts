// How far the picked parts go before they touch what stays, asked of the server,
// which has the shapes. The answer belongs to one moment of the saved reveal.
import { useEffect, useState } from 'react'
import type { Schemas } from '../api/client'
import type { Offered } from '../core/core'
import { useSession } from '../session/session'
import { asked } from '../session/variants'
import { useTransport } from '../session/transport'

export type Clearance = Schemas['Way']

const lines = 'application/x-ndjson'

// eachLine hands over the lines of an answer as they come.
async function eachLine(reply: Response, take: (line: string) => void) {
  if (!reply.ok || !reply.body) return
  const reader = reply.body.pipeThrough(new TextDecoderStream()).getReader()
  let rest = ''
  for (let part = await reader.read(); !part.done; part = await reader.read()) {
    const whole = (rest + part.value).split('\n')
    rest = whole.pop()!
    whole.filter(Boolean).forEach(take)
  }
}

// useClearance gives the clearance of each way, in order, as it is found; null while none is
// known. It is that at the playhead, or at another moment.
export function useClearance(
  nodes: readonly string[],
  ways: readonly Pick<Offered, 'world'>[],
  moment?: number,
): (Clearance | undefined)[] | null {
  const reveal = useSession((s) => s.revealId)
  const doc = useSession((s) => s.doc)
  const saved = useSession((s) => s.saving === 'saved')
  const time = useTransport((s) => (s.playing ? null : (moment ?? s.time)))
  const [known, setKnown] = useState<{ for: string; ways: (Clearance | undefined)[] } | null>(null)
  const variant = useSession((s) => s.variant)
  const key = JSON.stringify([variant, nodes, ways.map((w) => w.world), time])
  useEffect(() => {
    if (!reveal || !saved || time === null || nodes.length === 0 || ways.length === 0) return
    const gone = new AbortController()
    const wait = setTimeout(() => {
      const found: (Clearance | undefined)[] = ways.map(() => undefined)
      const body = JSON.stringify({ time, nodes, directions: ways.map((w) => w.world) })
      fetch(`/api/reveals/${reveal}/clearance?variant=${encodeURIComponent(asked(variant))}`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', Accept: lines },
        body,
        signal: gone.signal,
      })
        .then((reply) =>
          eachLine(reply, (line) => {
            const f = JSON.parse(line) as { direction: number; way: Clearance }
            found[f.direction] = f.way
            setKnown({ for: key, ways: [...found] })
          }),
        )
        .catch(() => undefined) // advice that does not come is not missed
    }, 120)
    return () => {
      clearTimeout(wait)
      gone.abort()
    }
    // The document counts: what has moved is in another place.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [reveal, doc, saved, key])
  return known?.for === key ? known.ways : null
}
