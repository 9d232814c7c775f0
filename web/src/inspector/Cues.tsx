import { onStage, setEye } from '../session/eye'
import { FlipHorizontal2, Link2, Trash2, Unlink } from 'lucide-react'
import type { Cue } from '../api/client'
import {
  changeCues,
  findCue,
  sourceOf,
  removeSelected,
  reverseDirection,
  setTargets,
  stretchCues,
  toggleMuted,
} from '../session/cues'
import { perform, type Operation } from '../session/actions'
import { namesOf, useSession } from '../session/session'
import { Button, IconButton, Select, Tip } from '../ui/controls'
import { Glyph, kindNames } from '../ui/glyphs'
import { NumberField, NumbersField } from '../ui/NumberField'
import { Appearance } from './Appearance'
import { CameraFields } from './CameraFields'
import { DriveFields } from './DriveFields'
import { Curve } from './Curve'
import { Field, Head, Num } from './fields'
import { Leaves } from './Leaves'
import { Movement } from './Movement'

const easings = [
  { value: 'smooth', text: 'smooth' },
  { value: 'linear', text: 'linear' },
  { value: 'in', text: 'gathers speed' },
  { value: 'out', text: 'comes to rest' },
  { value: 'own', text: 'a curve of its own' },
] as const

const together: (Operation & { text: string })[] = [
  { do: 'alignStarts', text: 'Align starts' },
  { do: 'alignEnds', text: 'Align ends' },
  { do: 'distribute', text: 'Even starts' },
  { do: 'sameLength', text: 'Same length' },
  { do: 'scaleTime', factor: 0.5, text: 'Twice as fast' },
  { do: 'scaleTime', factor: 2, text: 'Half as fast' },
]

const moving = ['pull', 'turn', 'unscrew', 'route']

// Cues shows the selected cues. Settings of twins are those of the cue that they
// share; targets and start are their own.
export function Cues({ ids }: { ids: string[] }) {
  useSession((s) => s.doc)
  const assembly = useSession((s) => s.assembly)
  const found = ids.flatMap((id) => findCue(id) ?? [])
  const first = found[0]
  if (!first) return null
  const cue = first.cue
  const one = found.length === 1
  const kinds = new Set(found.map((f) => f.cue.kind))
  const owners = [...new Map(found.map((f) => [sourceOf(f.cue).id, sourceOf(f.cue)])).values()]
  const set = (change: (c: Cue) => Cue) => changeCues(ids, change)
  const muted = found.every((f) => f.cue.muted)
  const targets = cue.targets ?? []
  const settings = { cues: owners, set }

  return (
    <>
      <Head
        title={
          kinds.size === 1 ? (
            <>
              <Glyph kind={cue.kind} size={15} />
              {kindNames[cue.kind]}
            </>
          ) : (
            `${found.length} cues`
          )
        }
        note={
          one
            ? targets.length === 0
              ? undefined
              : targets.length > 1
                ? `${targets.length} targets`
                : namesOf(assembly, targets)
            : `${found.length} selected`
        }
      >
        {moving.includes(cue.kind) && (
          <IconButton label="Turn round" keys="R" onClick={reverseDirection}>
            <FlipHorizontal2 size={14} />
          </IconButton>
        )}
        <IconButton label="Delete" keys="Del" onClick={removeSelected}>
          <Trash2 size={14} />
        </IconButton>
      </Head>
      <Twins cues={found.map((f) => f.cue)} />
      {kinds.size === 1 &&
        (moving.includes(cue.kind) ? (
          <>
            <Movement {...settings} />
            {one && <Leaves cue={owners[0]!} set={set} />}
          </>
        ) : cue.kind === 'shot' || cue.kind === 'orbit' ? (
          <CameraFields {...settings} />
        ) : cue.kind === 'drive' ? (
          <DriveFields {...settings} />
        ) : (
          <Appearance {...settings} />
        ))}
      <Times ids={ids} found={found} owners={owners} />
      {found.some((f) => (f.cue.targets?.length ?? 0) > 1) && (
        <Num
          label="Each later by"
          quantity="time"
          scale={1e-6}
          cues={owners}
          of={(c) => c.stagger ?? 0}
          put={(c, v) => ({ ...c, stagger: Math.round(v) || undefined })}
        />
      )}
      {owners.some((c) => !c.drive || c.drive.to !== undefined || (c.drive.by !== undefined && !c.drive.swings)) && (
        <Easing cues={owners} set={set} />
      )}
      {cue.lost && (
        <p role="note" className="my-1 text-[12px] text-signal-ink">
          What it acted on is gone from the product. It is switched off until that comes back
          {retargeted(cue) ? ', or until it is given other parts: pick them and add them below.' : '.'}
        </p>
      )}
      {targets.length > 0 && <Targets ids={ids} cue={cue} one={one} />}
      {found.length > 1 && (
        <div role="group" aria-label="All of them" className="my-1.5 grid grid-cols-2 gap-1.5">
          {together.map(({ text, ...operation }) => (
            <Button key={text} onClick={() => perform({ ...operation, cueIds: ids })}>
              {text}
            </Button>
          ))}
        </div>
      )}
      <div className="mt-2 flex flex-wrap gap-1.5">
        <Button onClick={toggleMuted} aria-pressed={muted} disabled={found.some((f) => f.cue.lost)} className="grow">
          {muted ? 'Unmute' : 'Mute'}
        </Button>
        {one && cue.kind === 'shot' && (
          <>
            <Button
              className="grow"
              onClick={() => {
                onStage()?.eyes.lookFrom(sourceOf(cue).shot!.camera)
                setEye('mine')
              }}
            >
              Look from here
            </Button>
            <Button
              className="grow"
              onClick={() =>
                onStage() && set((c) => ({ ...c, shot: { ...c.shot!, camera: onStage()!.eyes.present() } }))
              }
            >
              Use my eye
            </Button>
          </>
        )}
      </div>
    </>
  )
}

// Times are where cues lie on the timeline.
function Times({
  ids,
  found,
  owners,
}: {
  ids: string[]
  found: NonNullable<ReturnType<typeof findCue>>[]
  owners: Cue[]
}) {
  const schedule = useSession((s) => s.schedule)!
  const starts = found.map((f) => ((schedule.steps.find((s) => s.step === f.step.id)?.start ?? 0) + f.cue.offset) / 1e6)
  const begin = (values: number[]) =>
    values.some((v, i) => v !== starts[i]) &&
    perform({ do: 'begin', cueIds: found.map((f) => f.cue.id), starts: values.map((v) => Math.round(v * 1e6)) })
  // What runs on and on ends where its bar does; an end that is typed or dragged is its own from then on.
  const bar = schedule.bars.find((b) => b.cue === found[0]!.cue.id && !b.retraced)
  const ongoing = owners.some((c) => c.drive?.ongoing)
  const length = (ongoing && bar?.duration) || owners[0]!.duration
  return (
    <>
      <Field label="From – to">
        <div className="grid grid-cols-2 gap-1">
          <NumbersField label="Starts" quantity="time" values={starts} className="!px-1.5" onChange={begin} />
          <NumberField
            label="Ends"
            quantity="time"
            value={starts[0]! + length / 1e6}
            disabled={found.length > 1}
            className="!px-1.5"
            onChange={(v) => stretchCues(ids, Math.round((v - starts[0]!) * 1e6) - length, 'end')}
          />
        </div>
      </Field>
      {!ongoing && (
        <Num
          label="Lasts"
          quantity="time"
          scale={1e-6}
          cues={owners}
          of={(c) => c.duration}
          put={(c, v) => ({ ...c, duration: Math.max(1, Math.round(v)) })}
        />
      )}
    </>
  )
}

function Easing({ cues, set }: { cues: Cue[]; set(change: (c: Cue) => Cue): boolean }) {
  const core = useSession((s) => s.core)!
  const easing = cues[0]!.easing
  return (
    <>
      <Field label="Easing">
        <Select
          label="Easing"
          value={typeof easing === 'string' ? easing : 'own'}
          options={easings}
          onChange={(v) => set((c) => ({ ...c, easing: v === 'own' ? core.ask('easing', { easing: c.easing }) : v }))}
        />
      </Field>
      {typeof easing !== 'string' && (
        <Curve
          value={easing as [number, number, number, number]}
          onChange={(easing) => set((c) => ({ ...c, easing }))}
        />
      )}
    </>
  )
}

// Twins says what is shared, and parts it.
function Twins({ cues }: { cues: Cue[] }) {
  const assembly = useSession((s) => s.assembly)
  const doc = useSession((s) => s.doc)!
  const shared = cues.filter((c) => c.twin)
  const all = doc.steps.flatMap((s) => s.cues ?? [])
  const sharing = cues.length === 1 ? all.filter((c) => c.twin === cues[0]!.id) : []
  if (shared.length === 0 && sharing.length === 0) return null
  const original = shared.length > 0 ? sourceOf(shared[0]!) : null
  return (
    <div className="mb-1.5 flex items-center gap-1.5 rounded-[3px] bg-advice-soft px-2 py-1 text-[12px] text-advice">
      <Link2 size={13} className="shrink-0" />
      <span className="min-w-0 grow">
        {original
          ? `Twin: shares the settings of ${namesOf(assembly, original.targets ?? []) || kindNames[original.kind]}`
          : sharing.length === 1
            ? 'A twin shares these settings'
            : `${sharing.length} twins share these settings`}
      </span>
      {original && (
        <Tip text="From now on it has settings of its own">
          <Button kind="quiet" onClick={() => perform({ do: 'partTwins', cueIds: cues.map((c) => c.id) })}>
            <Unlink size={12} /> Part
          </Button>
        </Tip>
      )}
    </div>
  )
}

// A note stands at a point of its part, and a drive is of a joint: neither is given other parts.
const retargeted = (cue: Cue) => cue.kind !== 'note' && cue.kind !== 'drive'

// Targets are what a cue acts on; what was picked last can be added or taken out.
function Targets({ ids, cue, one }: { ids: string[]; cue: Cue; one: boolean }) {
  const assembly = useSession((s) => s.assembly)
  const picked = useSession((s) => s.lastPick)
  const targets = cue.targets ?? []
  if (!retargeted(cue)) return null
  const inside = picked.filter((p) => targets.includes(p))
  const fresh = picked.filter((p) => !targets.includes(p))
  return (
    <Field label="Acts on">
      <div className="flex min-w-0 items-center gap-1">
        <span className="grow truncate text-[12.5px]" title={one ? namesOf(assembly, targets) : undefined}>
          {one ? namesOf(assembly, targets) : 'several'}
        </span>
        {fresh.length > 0 && (
          <Tip text={`Add ${namesOf(assembly, fresh)}`}>
            <Button
              kind="quiet"
              className="!px-1.5"
              aria-label={`+ pick: add ${namesOf(assembly, fresh)}`}
              onClick={() => setTargets(ids, fresh, true)}
            >
              + pick
            </Button>
          </Tip>
        )}
        {fresh.length === 0 && inside.length > 0 && inside.length < targets.length && (
          <Tip text={`Take ${namesOf(assembly, inside)} out`}>
            <Button
              kind="quiet"
              className="!px-1.5"
              aria-label={`− pick: take ${namesOf(assembly, inside)} out`}
              onClick={() => setTargets(ids, inside, false)}
            >
              − pick
            </Button>
          </Tip>
        )}
      </div>
    </Field>
  )
}
