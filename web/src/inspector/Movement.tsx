import { Plus, Trash2 } from 'lucide-react'
import { useMemo } from 'react'
import type { Cue, Schemas } from '../api/client'
import { perform } from '../session/actions'
import { namesOf, useSession } from '../session/session'
import { Button, IconButton, Select } from '../ui/controls'
import { NumberField } from '../ui/NumberField'
import { Field, Num, Triple, type SettingsProps } from './fields'

type Leg = Schemas['Leg']
type FlowLine = Schemas['FlowLine']
type Axes = NonNullable<Schemas['Pull']>['axes']

const axesNames: { value: Axes; text: string }[] = [
  { value: 'own', text: 'its own axes' },
  { value: 'parent', text: 'its group’s axes' },
  { value: 'assembly', text: 'the assembly’s axes' },
]

// Movement is what pulls, turns, unscrews and routes are set by.
export function Movement({ cues, set }: SettingsProps) {
  const cue = cues[0]!
  const one = cues.length === 1
  const settings = cue.pull ?? cue.turn ?? cue.unscrew ?? cue.route
  const assembly = useSession((s) => s.assembly)
  const along = cue.pull?.along ?? cue.turn?.about ?? cue.unscrew?.along
  return (
    <>
      {cue.kind === 'pull' && <Pull cues={cues} set={set} />}
      {cue.kind === 'turn' && (
        <>
          <Num
            label="Angle"
            quantity="angle"
            cues={cues}
            of={(c) => c.turn!.degrees}
            put={(c, degrees) => ({ ...c, turn: { ...c.turn!, degrees } })}
          />
          {one && (
            <Field label="Pivot">
              <Triple
                label="Pivot"
                value={cue.turn!.pivot}
                onChange={(pivot) => set((c) => ({ ...c, turn: { ...c.turn!, pivot } }))}
              />
            </Field>
          )}
        </>
      )}
      {cue.kind === 'unscrew' && <Unscrew cues={cues} set={set} />}
      {cue.kind === 'route' && <Route cues={cues} set={set} />}
      {along && one && (
        <Field label="Along">
          <Triple
            label="Along"
            value={along}
            plain
            onChange={(v) =>
              set((c) => ({
                ...c,
                pull: c.pull && { ...c.pull, along: v },
                turn: c.turn && { ...c.turn, about: v },
                unscrew: c.unscrew && { ...c.unscrew, along: v },
              }))
            }
          />
        </Field>
      )}
      {settings && (
        <Field label="In">
          <Select
            label="In"
            value={settings.axes}
            options={
              cue.of
                ? [...axesNames, { value: 'reference', text: `those of ${namesOf(assembly, [cue.of])}` }]
                : axesNames
            }
            onChange={(axes) =>
              set((c) => ({
                ...c,
                of: axes === 'reference' ? c.of : undefined,
                pull: c.pull && { ...c.pull, axes },
                turn: c.turn && { ...c.turn, axes },
                unscrew: c.unscrew && { ...c.unscrew, axes },
                route: c.route && { ...c.route, axes },
              }))
            }
          />
        </Field>
      )}
      <Flow cue={cue} set={set} />
    </>
  )
}

function Pull({ cues, set }: SettingsProps) {
  const cue = cues[0]!
  const one = cues.length === 1
  const across = cue.pull!.secondary
  const beside = (across: Leg | undefined) => set((c) => ({ ...c, pull: { ...c.pull!, secondary: across } }))
  const ids = cues.map((c) => c.id)
  const clear = cue.pull!.clear?.distance === cue.pull!.distance ? cue.pull!.clear : null
  const untilClear = (on: boolean, margin = 0) => perform({ do: 'untilClear', cueIds: ids, on, distance: margin })
  return (
    <>
      <Num
        label="Distance"
        quantity="length"
        cues={cues}
        of={(c) => c.pull!.distance}
        put={(c, distance) => ({ ...c, pull: { ...c.pull!, distance } })}
      />
      {one && clear && (
        <Field label="Until clear">
          <div className="grid grid-cols-[auto_1fr_auto] items-center gap-1.5">
            <span className="text-[12px] text-ink-2">and</span>
            <NumberField
              label="How much farther than clear"
              quantity="length"
              value={clear.margin}
              onChange={(margin) => untilClear(true, margin)}
            />
            <IconButton label="As far as it goes now, whatever the geometry" onClick={() => untilClear(false)}>
              <Trash2 size={13} />
            </IconButton>
          </div>
        </Field>
      )}
      {one && across && (
        <Field label="and aside">
          <div className="grid grid-cols-[1fr_auto_auto] gap-1">
            <NumberField
              label="Distance aside"
              quantity="length"
              value={across.distance}
              onChange={(distance) => beside({ ...across, distance })}
            />
            <Towards label="Aside along" along={across.along} onChange={(along) => beside({ ...across, along })} />
            <IconButton label="Not aside" onClick={() => beside(undefined)}>
              <Trash2 size={13} />
            </IconButton>
          </div>
        </Field>
      )}
      {one && !across && (
        <div className="mb-[3px] flex justify-end gap-1">
          {!clear && (
            <Button kind="quiet" onClick={() => untilClear(true, 10)}>
              until clear
            </Button>
          )}
          <Button kind="quiet" onClick={() => perform({ do: 'sideways', cueIds: ids, on: true })}>
            also sideways
          </Button>
          <Button kind="quiet" onClick={() => perform({ do: 'thenOn', cueIds: ids })}>
            then on
          </Button>
        </div>
      )}
    </>
  )
}

const ways = (['X', 'Y', 'Z'] as const).flatMap((name, k) =>
  [1, -1].map((s) => ({ value: `${s > 0 ? '+' : '−'}${name}`, along: [0, 1, 2].map((i) => (i === k ? s : 0)) })),
)

function Towards({
  label,
  along,
  onChange,
}: {
  label: string
  along: readonly number[]
  onChange(along: number[]): void
}) {
  const now = ways.find((w) => w.along.every((v, i) => v === along[i]))?.value ?? 'own'
  return (
    <Select
      label={label}
      value={now}
      className="mono w-[58px] !px-1.5"
      options={[
        ...ways.map((w) => ({ value: w.value, text: w.value })),
        ...(now === 'own' ? [{ value: 'own', text: 'own' }] : []),
      ]}
      onChange={(v) => {
        const w = ways.find((x) => x.value === v)
        if (w) onChange(w.along)
      }}
    />
  )
}

function Unscrew({ cues, set }: SettingsProps) {
  const core = useSession((s) => s.core)
  const threads = useMemo(() => core?.ask('threads') ?? [], [core])
  const cue = cues[0]!
  const advance = useSession((s) => s.schedule?.bars.find((b) => b.cue === cue.id)?.advance ?? 0)
  const lead = cue.unscrew!.lead
  const doc = useSession((s) => s.doc)
  const guessed = useMemo(() => (doc && core ? core.ask('threadGuessed', { cue: cue.id }) : false), [core, doc, cue.id])
  return (
    <>
      <Field label="Thread">
        <Select
          label="Thread"
          value={String(lead)}
          onChange={(v) => set((c) => ({ ...c, unscrew: { ...c.unscrew!, lead: Number(v) } }))}
          options={[
            ...threads.map((t) => ({ value: String(t.lead), text: `${t.name} · ${t.lead} mm` })),
            ...(threads.some((t) => t.lead === lead) ? [] : [{ value: String(lead), text: `${lead} mm` }]),
          ]}
        />
      </Field>
      {guessed && (
        <p className="mb-1 text-right text-[12px] text-advice">No thread is known here: turns and lead are a guess.</p>
      )}
      <Num
        label="Lead"
        quantity="length"
        cues={cues}
        of={(c) => c.unscrew!.lead}
        put={(c, lead) => ({ ...c, unscrew: { ...c.unscrew!, lead } })}
      />
      <Num
        label="Turns"
        quantity="plain"
        cues={cues}
        of={(c) => c.unscrew!.turns}
        put={(c, turns) => ({ ...c, unscrew: { ...c.unscrew!, turns } })}
      />
      {/* The length of engagement says the same as the turns. */}
      <Num
        label="Comes out"
        quantity="length"
        cues={cues}
        of={(c) => (c.id === cue.id ? advance : c.unscrew!.turns * c.unscrew!.lead)}
        put={(c, mm) => ({ ...c, unscrew: { ...c.unscrew!, turns: mm / c.unscrew!.lead } })}
      />
      <Field label="">
        <Button kind="quiet" onClick={() => perform({ do: 'pullOut', cueIds: cues.map((c) => c.id) })}>
          then straight out
        </Button>
      </Field>
      <Field label="Thread runs">
        <Select
          label="Thread runs"
          value={cue.unscrew!.leftHand ? 'left' : 'right'}
          options={[
            { value: 'right', text: 'right-handed' },
            { value: 'left', text: 'left-handed' },
          ]}
          onChange={(v) => set((c) => ({ ...c, unscrew: { ...c.unscrew!, leftHand: v === 'left' || undefined } }))}
        />
      </Field>
    </>
  )
}

function Route({ cues, set }: SettingsProps) {
  const cue = cues[0]!
  if (cues.length > 1) return null
  const legs = cue.route!.legs
  const to = (legs: Leg[]) => set((c) => ({ ...c, route: { ...c.route!, legs } }))
  const leg = (i: number, change: Partial<Leg>) => to(legs.map((l, k) => (k === i ? { ...l, ...change } : l)))
  return (
    <div role="group" aria-label="Legs" className="mb-1">
      <div className="mb-1 grid grid-cols-[14px_58px_1fr_46px_24px] gap-1 text-[11px] text-ink-3">
        <span />
        <span>Along</span>
        <span className="text-right">Distance</span>
        <span className="text-right">Share</span>
        <span />
      </div>
      {legs.map((l, i) => (
        <div key={i} className="mb-[3px] grid grid-cols-[14px_58px_1fr_46px_24px] items-center gap-1">
          <span className="mono text-[11px] text-ink-3">{i + 1}</span>
          <Towards label={`Leg ${i + 1} along`} along={l.along} onChange={(along) => leg(i, { along })} />
          <NumberField
            label={`Leg ${i + 1} distance`}
            quantity="length"
            value={l.distance}
            onChange={(distance) => leg(i, { distance })}
          />
          <NumberField
            label={`Leg ${i + 1} share of the time`}
            quantity="plain"
            value={l.share || 1}
            onChange={(share) => leg(i, { share })}
            className="!px-1"
          />
          <IconButton
            label={`Remove leg ${i + 1}`}
            disabled={legs.length === 1}
            onClick={() => to(legs.filter((_, k) => k !== i))}
            className="!w-6"
          >
            <Trash2 size={12} />
          </IconButton>
        </div>
      ))}
      <Button kind="quiet" onClick={() => perform({ do: 'addLeg', cueIds: [cue.id] })}>
        <Plus size={12} /> Leg
      </Button>
      <Num
        label="Corners"
        quantity="length"
        cues={cues}
        of={(c) => c.route!.radius ?? 0}
        put={(c, radius) => ({ ...c, route: { ...c.route!, radius: radius || undefined } })}
      />
    </div>
  )
}

const flows = [
  { value: 'none', text: 'none' },
  { value: 'each', text: 'one for each target' },
  { value: 'parts', text: 'one for each part' },
  { value: 'all', text: 'one for all' },
] as const
const lines = [
  { value: 'dashed', text: 'dashed' },
  { value: 'solid', text: 'solid' },
  { value: 'dotted', text: 'dotted' },
] as const

function Flow({ cue, set }: { cue: Cue; set: SettingsProps['set'] }) {
  const flow = cue.flow
  const to = (change: Partial<FlowLine>) => set((c) => ({ ...c, flow: { of: 'each', ...c.flow, ...change } }))
  return (
    <>
      <Field label="Flow line">
        <Select
          label="Flow line"
          value={flow?.of ?? 'none'}
          options={flows}
          onChange={(v) => (v === 'none' ? set((c) => ({ ...c, flow: undefined })) : to({ of: v }))}
        />
      </Field>
      {flow && (
        <>
          <Field label="drawn">
            <Select
              label="Line of the flow line"
              value={flow.line ?? 'dashed'}
              options={lines}
              onChange={(line) => to({ line })}
            />
          </Field>
          <Field label="part of it">
            <div className="grid grid-cols-2 gap-1">
              <NumberField
                label="Flow line from"
                quantity="percent"
                value={(flow.from ?? 0) * 100}
                onChange={(v) => to({ from: v / 100 || undefined })}
                className="!px-1"
              />
              <NumberField
                label="Flow line to"
                quantity="percent"
                value={(flow.to || 1) * 100}
                onChange={(v) => to({ to: v / 100 })}
                className="!px-1"
              />
            </div>
          </Field>
        </>
      )}
    </>
  )
}
