// How far the picked parts go before they touch what stays, asked of the server,
// which has the shapes. The answer belongs to one moment of the saved reveal.
import { useEffect, useState } from 'react'
import { answer, api, type Schemas } from '../api/client'
import type { Way } from '../core/core'
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'

export type Clearance = Schemas['Way']

// useClearance gives the clearance of each way, in order; null while it is not
// known.
export function useClearance(nodes: readonly string[], ways: readonly Way[]): Clearance[] | null {
  const reveal = useSession((s) => s.revealId)
  const doc = useSession((s) => s.doc)
  const saved = useSession((s) => s.saving === 'saved')
  const time = useTransport((s) => (s.playing ? null : s.time))
  const [known, setKnown] = useState<{ for: string; ways: Clearance[] } | null>(null)
  const key = JSON.stringify([nodes, ways.map((w) => w.world), time])
  useEffect(() => {
    if (!reveal || !saved || time === null || nodes.length === 0 || ways.length === 0) return
    const gone = new AbortController()
    const wait = setTimeout(() => {
      answer(api.POST('/api/reveals/{id}/clearance', { params: { path: { id: reveal } }, signal: gone.signal, body: { time, nodes: [...nodes], directions: ways.map((w) => w.world) } })).then(
        (found) => setKnown({ for: key, ways: found }),
        () => undefined, // advice that does not come is not missed
      )
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
