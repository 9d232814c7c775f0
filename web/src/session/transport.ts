import { create } from 'zustand'
import { useShallow } from 'zustand/react/shallow'
import { useSession } from './session'

// The playhead and what moves it. It changes with every frame, so the stage and
// the timeline subscribe to it without React.
interface Transport {
  time: number // µs
  playing: boolean
  backwards: boolean
  loop: boolean
  /** The span that is looped; null for all. */
  span: { from: number; to: number } | null
  speed: number
  /** Beyond the end only where a cue is to make it longer. */
  seek(time: number, beyond?: boolean): void
  toggle(backwards?: boolean): void
  setSpeed(speed: number): void
  setLoop(loop: boolean): void
  setSpan(span: { from: number; to: number } | null): void
}

const end = () => useSession.getState().schedule?.duration ?? 0

export const useTransport = create<Transport>((set, get) => ({
  time: 0,
  playing: false,
  backwards: false,
  loop: false,
  span: null,
  speed: 1,
  seek: (time, beyond) => set({ time: Math.max(0, beyond ? Math.round(time) : Math.min(Math.round(time), end())) }),
  toggle(backwards = false) {
    const s = get()
    if (s.playing && s.backwards === backwards) return set({ playing: false })
    if (end() === 0) return
    if (!backwards && s.time >= end()) set({ time: 0 })
    if (backwards && s.time <= 0) set({ time: end() })
    set({ playing: true, backwards })
    requestAnimationFrame((now) => tick(now))
  },
  setSpeed: (speed) => set({ speed }),
  setLoop: (loop) => set({ loop }),
  setSpan: (span) => set({ span, ...(span && { loop: true }) }),
}))

let last = 0

// tick keeps real time: a slow picture drops frames, it does not slow the film.
function tick(now: number) {
  const s = useTransport.getState()
  if (!s.playing) {
    last = 0
    return
  }
  const passed = last === 0 ? 0 : (now - last) * 1000 * s.speed
  last = now
  const to = s.time + (s.backwards ? -passed : passed)
  const span = s.loop && s.span ? s.span : { from: 0, to: end() }
  const over = s.backwards ? to <= span.from : to >= span.to
  if (!over) s.seek(to < span.from || to > span.to ? span.from : to)
  else if (s.loop) s.seek(s.backwards ? span.to : span.from)
  else {
    s.seek(to)
    useTransport.setState({ playing: false })
    last = 0
    return
  }
  requestAnimationFrame(tick)
}

// useRunning gives the index of the step that runs at the playhead, −1 without one.
export function useRunning(): number {
  const { core, schedule } = useSession(useShallow((s) => ({ core: s.core, schedule: s.schedule })))
  return useTransport((s) => (core && schedule ? core.ask('place', { time: s.time }).step : -1))
}
