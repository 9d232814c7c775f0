import { useState } from 'react'
import type { Vec3 } from '../core/core'
import { findCue, owner } from '../session/cues'
import { useSession } from '../session/session'
import { useTransport } from '../session/transport'
import { Arrow } from './Arrow'

// CueArrow shows the selected pull on the stage, to be dragged longer or shorter.
export function CueArrow() {
  const core = useSession((s) => s.core)
  const doc = useSession((s) => s.doc)
  const id = useSession((s) => (s.selection.cues.length === 1 ? s.selection.cues[0]! : null))
  const time = useTransport((s) => (id && !s.playing ? s.time : 0))
  const playing = useTransport((s) => s.playing)
  const [held, setHeld] = useState<{ from: Vec3; along: Vec3 } | null>(null)
  const found = id && doc ? findCue(id) : null
  const cue = found && owner(found.cue)
  if (!core || !cue?.pull || cue.pull.across || playing) return null
  const mm = cue.pull.distance
  let line = held
  if (!line) {
    const r = core.ask<{ from: Vec3; to: Vec3 } | null>({ ask: 'reach', cue: found!.cue.id, time })
    if (!r) return null // it is switched off
    const way = r.to.map((v, i) => v - r.from[i]!) as Vec3
    const length = Math.hypot(...way)
    if (length < 1e-6) return null
    line = { from: r.from, along: way.map((v) => (v / length) * Math.sign(mm)) as Vec3 }
  }
  const command = (distance: number) => ({ op: 'setCue' as const, cue: { ...cue, pull: { ...cue.pull!, distance } } })
  return (
    <Arrow label="cue" from={line.from} along={line.along} distance={mm}
      onDrag={(d) => { setHeld(line); useSession.getState().preview(command(d)) }}
      onDrop={(d) => {
        setHeld(null)
        const s = useSession.getState()
        if (!held) return
        s.settle()
        s.run(command(d))
      }} />
  )
}
