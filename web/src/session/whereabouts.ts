// Where the author was: playhead, eye and selection outlive a reload of the page. Nothing of it is recorded.
import { useEye } from './eye'
import type { Camera } from '../api/client'
import { kept, useSession } from './session'
import { useTransport } from './transport'
import type { Selection } from './state'

interface Whereabouts {
  time: number
  selection: Selection
  /** Where the author's own eye is, and whether it or the shot's is looked through. */
  camera?: Camera
  eye: 'mine' | 'shot'
}

const key = (revealId: string) => `whereabouts-${revealId}`

// keepWhereabouts writes down where the author is when the page goes.
export function keepWhereabouts(camera: () => Camera | undefined): () => void {
  const keep = () => {
    const { revealId, selection } = useSession.getState()
    if (!revealId) return
    const now: Whereabouts = {
      time: useTransport.getState().time,
      selection,
      camera: camera(),
      eye: useEye.getState().eye,
    }
    sessionStorage.setItem(key(revealId), JSON.stringify(now))
  }
  window.addEventListener('pagehide', keep)
  return () => window.removeEventListener('pagehide', keep)
}

const reloaded = () =>
  (performance.getEntriesByType('navigation')[0] as PerformanceNavigationTiming | undefined)?.type === 'reload'

// whereaboutsIn gives, after a reload and once, where the author was in a reveal.
export function whereaboutsIn(revealId: string): Whereabouts | null {
  const text = sessionStorage.getItem(key(revealId))
  sessionStorage.removeItem(key(revealId))
  return text && reloaded() ? (JSON.parse(text) as Whereabouts) : null
}

// resume puts playhead and selection where they were; what is gone meanwhile is left out.
export function resume(w: Whereabouts) {
  const { doc, assembly, schedule, select } = useSession.getState()
  if (!doc) return
  const there = new Set(assembly?.nodes.map((n) => n.id))
  const was = kept(w.selection, doc)
  select({ ...was, nodes: was.nodes.filter((n) => there.has(n)) })
  useTransport.setState({ time: Math.min(w.time, schedule?.duration ?? 0), playing: false })
}
