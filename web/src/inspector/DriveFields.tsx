import { useMemo } from 'react'
import type { Cue, Schemas } from '../api/client'
import type { Loop } from '../core/core'
import { perform, performHere } from '../session/actions'
import { mechanismWords } from '../session/mechanism'
import { useSession } from '../session/session'
import { Button, Choice, Select, Tick, Tip } from '../ui/controls'
import { Field, Num, type SettingsProps } from './fields'
import { seconds, written } from '../core/written'

type Drive = Schemas['Drive']
type How = 'by' | 'to' | 'runs' | 'swings'

const hows: readonly { value: How; text: string; tip: string }[] = [
  { value: 'by', text: 'By', tip: 'On by so much; any number of turns' },
  { value: 'to', text: 'To', tip: 'To a value, from wherever it is' },
  { value: 'runs', text: 'Runs', tip: 'At a speed' },
  { value: 'swings', text: 'Swings', tip: 'There and back' },
]

const howOf = (d: Drive): How =>
  d.to !== undefined ? 'to' : d.speed !== undefined ? 'runs' : d.swings ? 'swings' : 'by'

// DriveFields is what a driven joint is set by.
export function DriveFields({ cues, set }: SettingsProps) {
  const joints = useSession((s) => s.assembly?.joints) ?? []
  const cue = cues[0]!
  const drive = cue.drive!
  const how = howOf(drive)
  const quantity = drive.slides ? 'length' : 'angle'
  const change = (d: (own: Drive) => Drive) => set((c) => ({ ...c, drive: d(c.drive!) }))
  const options = joints
    .filter((j) => mechanismWords().joints.some((k) => k.kind === j.kind && k.driven))
    .map((j) => ({ value: j.id, text: j.name }))
  return (
    <>
      {cues.length === 1 && (
        <Field label="Joint">
          <Select
            label="Joint that is driven"
            value={drive.joint}
            options={options}
            onChange={(id) => perform({ do: 'driveJoint', cueIds: [cue.id], joint: id })}
          />
        </Field>
      )}
      <Choice
        label="How it is driven"
        value={how}
        options={hows}
        onChange={(how) => perform({ do: 'driveHow', cueIds: cues.map((c) => c.id), how })}
        className="my-1 w-full"
      />
      {how === 'to' && (
        <Num
          label="To"
          quantity={quantity}
          cues={cues}
          of={(c) => c.drive!.to!}
          put={putting((d, to) => ({ ...d, to }))}
        />
      )}
      {(how === 'by' || how === 'swings') && (
        <Num
          label="By"
          quantity={quantity}
          cues={cues}
          of={(c) => c.drive!.by!}
          put={putting((d, by) => ({ ...d, by }))}
        />
      )}
      {how === 'swings' && (
        <Num
          label="Times"
          quantity="plain"
          cues={cues}
          of={(c) => c.drive!.swings!}
          put={putting((d, n) => ({ ...d, swings: Math.max(1, Math.round(n)) }))}
        />
      )}
      {how === 'runs' && <Running cues={cues} drive={drive} change={change} />}
      {cues.length === 1 && <Course cue={cue} change={change} />}
      {cues.length === 1 && <Explain body={cue.targets![0]!} />}
    </>
  )
}

const putting =
  (put: (d: Drive, v: number) => Drive) =>
  (c: Cue, v: number): Cue => ({ ...c, drive: put(c.drive!, v) })

function Running({ cues, drive, change }: { cues: Cue[]; drive: Drive; change(d: (own: Drive) => Drive): boolean }) {
  return (
    <>
      <Num
        label={drive.slides ? 'mm a second' : 'Turns a min.'}
        quantity="plain"
        cues={cues}
        of={(c) => c.drive!.speed!}
        put={putting((d, speed) => ({ ...d, speed }))}
      />
      <Num
        label="Runs up in"
        quantity="time"
        scale={1e-6}
        cues={cues}
        of={(c) => c.drive!.runUp ?? 0}
        put={putting((d, v) => ({ ...d, runUp: Math.max(0, Math.round(v)) || undefined }))}
      />
      {!drive.ongoing && (
        <Num
          label="Runs down in"
          quantity="time"
          scale={1e-6}
          cues={cues}
          of={(c) => c.drive!.runDown ?? 0}
          put={putting((d, v) => ({ ...d, runDown: Math.max(0, Math.round(v)) || undefined }))}
        />
      )}
      <Tick on={drive.ongoing ?? false} onChange={(on) => change((d) => ({ ...d, ongoing: on || undefined }))}>
        On, until it is driven otherwise or the film ends
      </Tick>
    </>
  )
}

// Course draws how the joint goes while the cue lasts: its value, and how fast.
function Course({ cue, change }: { cue: Cue; change(d: (own: Drive) => Drive): boolean }) {
  const core = useSession((s) => s.core)
  const schedule = useSession((s) => s.schedule)
  const bar = schedule?.bars.find((b) => b.cue === cue.id && !b.retraced)
  const joint = cue.drive!.joint
  const course = useMemo(
    () =>
      core && bar
        ? core.ask('driven', { joint, from: bar.start, to: bar.start + bar.duration, count: 97, cue: cue.id })
        : null,
    [core, bar, joint, cue.id],
  )
  if (!course || course.values.length === 0) return null
  const quantity = cue.drive!.slides ? 'length' : 'angle'
  const fastest = course.speeds.reduce((a, v) => Math.max(a, Math.abs(v)), 0)
  const unit = cue.drive!.slides ? ' mm/s' : ' rev/min'
  const rate = cue.drive!.slides ? fastest : fastest / 6
  const problem = course.problems.find((p) => p.of === joint)
  const end = course.ends.find((e) => e.joint === joint)
  return (
    <figure className="my-1.5 border border-line bg-white px-2 pt-1.5 pb-1">
      <svg
        viewBox="0 0 240 56"
        className="block h-14 w-full"
        role="img"
        aria-label="Value, speed and acceleration of the joint"
      >
        <path
          d={drawn(course.accelerations)}
          fill="none"
          className="stroke-ink-3"
          strokeWidth="1"
          strokeDasharray="1 2"
        />
        <path d={drawn(course.speeds)} fill="none" className="stroke-advice" strokeWidth="1.2" strokeDasharray="3 2" />
        <path d={drawn(course.values)} fill="none" className="stroke-ink" strokeWidth="1.5" />
      </svg>
      <figcaption className="flex justify-between gap-2 text-[11.5px]">
        <span>
          {written(course.values[0]!, quantity, 1)} to {written(course.values.at(-1)!, quantity, 1)}
        </span>
        <span className="text-advice">
          at most {written(rate, 'plain', 1)}
          {unit}
        </span>
      </figcaption>
      <Loops drive={cue.drive!} loop={course.loop} change={change} />
      {problem && <p className="text-[12px] text-signal-ink">{problem.text}</p>}
      {end && (
        <p role="note" className="text-[12px] text-advice">
          It cannot go beyond {written(end.value, quantity, 1)}: its loop does not close there. It stands still.
        </p>
      )}
    </figure>
  )
}

function drawn(values: readonly number[]): string {
  const low = Math.min(...values, 0)
  const high = Math.max(...values, 0)
  const y = (v: number) => 54 - (52 * (v - low)) / Math.max(high - low, 1e-9)
  return values
    .map((v, i) => `${i ? 'L' : 'M'}${((240 * i) / (values.length - 1)).toFixed(1)} ${y(v).toFixed(1)}`)
    .join('')
}

// Explain shows how what is driven works: arrows on what moves, or part after part lit up.
function Explain({ body }: { body: string }) {
  const core = useSession((s) => s.core)!
  return (
    <div className="mt-1.5 grid grid-cols-2 gap-1.5">
      <Tip text="On everything that it moves, from the playhead on">
        <Button onClick={() => void performHere({ do: 'arrow', nodes: core.ask('drivenNodes') })}>Motion arrows</Button>
      </Tip>
      <Tip text="Each part is lit up after the one that moves it, from the playhead on">
        <Button onClick={() => void performHere({ do: 'causes', nodes: [body] })}>Light up the chain</Button>
      </Tip>
    </div>
  )
}

// Loops says after how much of the joint everything stands as before, so that a span of the film can be looped.
function Loops({
  drive,
  loop,
  change,
}: {
  drive: Drive
  loop: Loop | undefined
  change(d: (own: Drive) => Drive): boolean
}) {
  if (!loop) return null
  const { turns, takes, by } = loop
  return (
    <div className="mt-0.5 flex items-center gap-2 text-[11.5px] text-ink-2">
      <p className="grow">
        After {turns === 1 ? 'a turn' : `${turns} turns`} all stands as before.
        {takes ? ` It takes ${seconds(takes)} at full speed.` : ''}
      </p>
      {by !== undefined && by !== drive.by && (
        <Button kind="quiet" onClick={() => change((d) => ({ ...d, by }))}>
          By {by / 360} turns
        </Button>
      )}
    </div>
  )
}
