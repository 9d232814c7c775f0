import type { RevealDocument, Schedule } from '../api/client'
import type { State } from '../core/core'

export interface Shown {
  doc: RevealDocument | null
  schedule: Schedule | null
}

// merged takes in what the core says has changed: all of it, or some bars and the
// steps that they are in.
export function merged(now: Shown, s: State): Shown {
  if (s.reveal && s.schedule) return { doc: s.reveal, schedule: s.schedule }
  const { doc, schedule } = now
  if (!doc || !schedule || !s.bars) return now
  const bars = [...schedule.bars]
  for (const m of s.bars) bars[m.index] = m.bar
  const steps = [...doc.steps]
  const spans = [...schedule.steps]
  for (const c of s.steps ?? []) {
    steps[c.index] = c.step
    spans[c.index] = c.span
  }
  return { doc: s.steps ? { ...doc, steps } : doc, schedule: { ...schedule, bars, steps: spans } }
}
