import { useState } from 'react'
import type { Vec3 } from '../core/core'
import { findCue, sourceOf } from '../session/cues'
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { Arrow } from './Arrow'
import { useClearance } from './clearance'

// CueArrow shows the selected pull on the stage, to be dragged longer or shorter.
export function CueArrow() {
  const core = useSession((s) => s.core)
  const doc = useSession((s) => s.doc)
  const schedule = useSession((s) => s.schedule)
  const id = useSession((s) => (s.selection.cues.length === 1 ? s.selection.cues[0]! : null))
  const time = useTransport((s) => (id && !s.playing ? s.time : 0))
  const playing = useTransport((s) => s.playing)
  const [held, setHeld] = useState<{ from: Vec3; along: Vec3 } | null>(null)
  const found = id && doc ? findCue(id) : null
  const cue = found && sourceOf(found.cue)
  const pulls = core && cue?.pull && !cue.pull.secondary && !playing ? cue.pull : null
  const mm = pulls?.distance ?? 0
  let line = held
  if (!line && pulls) {
    const r = core!.ask('reach', { cue: found!.cue.id, time }) // null where it is switched off
    const way = r?.to.map((v, i) => v - r.from[i]!) as Vec3 | undefined
    const length = way ? Math.hypot(...way) : 0
    if (r && way && length >= 1e-6) line = { from: r.from, along: way.map((v) => (v / length) * Math.sign(mm)) as Vec3 }
  }
  // From where it begins on: what it goes into is shown while it is dragged.
  const begins = id ? schedule?.bars.find((b) => b.cue === id && !b.retraced)?.start : undefined
  const clear = useClearance(line ? (found!.cue.targets ?? []) : [], line ? [{ world: line.along }] : [], begins)?.[0]
  if (!cue || !pulls || !line) return null
  const command = (distance: number) => ({ op: 'setCue' as const, cue: { ...cue, pull: { ...pulls, distance } } })
  return (
    <Arrow
      label="cue"
      from={line.from}
      along={line.along}
      distance={mm}
      touches={clear && !clear.free ? clear.distance : undefined}
      what={clear?.touches}
      onDrag={(d) => {
        setHeld(line)
        useSession.getState().preview(command(d))
      }}
      onDrop={(d) => {
        setHeld(null)
        const s = useSession.getState()
        if (!held) return
        s.settle()
        s.run(command(d))
      }}
    />
  )
}
