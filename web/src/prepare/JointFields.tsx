import { RotateCcw, Trash2, X } from 'lucide-react'
import { useEffect, useMemo, useState, type ReactNode } from 'react'
import { Field, Line } from '../inspector/fields'
import { labelOf, nodeById, useSession } from '../session/session'
import {
  alterJoint,
  back,
  choose,
  doesWhat,
  mechanismWords,
  setJoint,
  slides,
  tryJoint,
  unjoint,
  useMechanism,
  type Joint,
} from '../session/mechanism'
import { axesOf, useView } from '../stage/view'
import type { AxisOffer } from '../core/core'
import { Button, IconButton, Select, Tick } from '../ui/controls'
import { NumberField } from '../ui/NumberField'
import { Couplings } from './Couplings'
import { written } from '../core/written'

// JointFields shows one joint: what it does, to be tried out, and what it is made of.
export function JointFields({ joint }: { joint: Joint }) {
  const assembly = useSession((s) => s.assembly)!
  const names = nodeById(assembly)
  const { select } = useSession.getState()
  const set = (change: Partial<Joint>) => setJoint({ ...joint, ...change })
  const driven = mechanismWords().joints.find((k) => k.kind === joint.kind)?.driven
  const name = (id: string) => names.get(id)?.name ?? 'what is gone'
  return (
    <>
      <div className="mb-1 flex items-center gap-1.5">
        <h2 className="serif grow truncate text-[20px] leading-tight font-semibold">{joint.name || 'Joint'}</h2>
        <IconButton label="Remove the joint" onClick={() => void unjoint(joint.id)}>
          <Trash2 size={14} />
        </IconButton>
        <IconButton label="Close the joint" onClick={() => choose(null)}>
          <X size={14} />
        </IconButton>
      </div>
      <p className="mb-3 text-ink-2">
        <PartLink id={joint.body} onClick={() => select({ nodes: [joint.body] })} /> {doesWhat(joint.kind)}{' '}
        <PartLink id={joint.base} onClick={() => select({ nodes: [joint.base] })} />.
      </p>
      <Try joint={joint} />
      <section className="mt-4 border-t border-line pt-3">
        <Field label="Name">
          <Line
            key={joint.id}
            label="Name of the joint"
            value={joint.name}
            onChange={(v) => {
              void set({ name: v })
              return true
            }}
          />
        </Field>
        <Field label="Kind">
          <Select
            label="Kind of joint"
            value={joint.kind}
            options={mechanismWords().joints.map((k) => ({ value: k.kind, text: k.name }))}
            onChange={(kind) => void alterJoint(joint, { kind })}
          />
        </Field>
        <Role label="Moves" joint={joint} name={name(joint.body)} onChange={(body) => alterJoint(joint, { body })} />
        <Role label="On" joint={joint} name={name(joint.base)} onChange={(base) => set({ base })} />
        {joint.kind !== 'fixed' && <Axis joint={joint} set={set} />}
        {joint.kind === 'helical' && (
          <Field label="Lead">
            <NumberField
              label="Lead"
              quantity="length"
              value={joint.lead ?? 1}
              onChange={(lead) => void set({ lead })}
            />
          </Field>
        )}
        {driven && <Limits joint={joint} set={set} />}
      </section>
      {driven && <Couplings joint={joint} />}
    </>
  )
}

function PartLink({ id, onClick }: { id: string; onClick(): void }) {
  const assembly = useSession((s) => s.assembly)!
  return (
    <button type="button" onClick={onClick} className="text-ink underline decoration-line underline-offset-2">
      {labelOf(assembly, id)}
    </button>
  )
}

// Role is one side of a joint, to be replaced by what is picked.
function Role({
  label,
  joint,
  name,
  onChange,
}: {
  label: string
  joint: Joint
  name: string
  onChange(id: string): unknown
}) {
  const picked = useSession((s) => s.selection.nodes)
  const free = picked.length === 1 && picked[0] !== joint.body && picked[0] !== joint.base
  const other = free ? picked[0]! : null
  return (
    <Field label={label}>
      <div className="flex min-w-0 items-center gap-1.5">
        <span className="min-w-0 grow truncate text-[12.5px]">{name}</span>
        {other && (
          <Button kind="quiet" aria-label={`${label}: the picked part`} onClick={() => void onChange(other)}>
            the picked part
          </Button>
        )}
      </div>
    </Field>
  )
}

// Axis is chosen among the round surfaces of both parts, or pointed at; of a universal joint the second one, too.
function Axis({ joint, set }: { joint: Joint; set(change: Partial<Joint>): unknown }) {
  const assembly = useSession((s) => s.assembly)
  const [offers, setOffers] = useState<AxisOffer[]>([])
  const { body, base } = joint
  useEffect(() => {
    let gone = false
    void axesOf(body, [body, base]).then((list) => !gone && setOffers(list))
    return () => void (gone = true)
  }, [assembly, body, base])
  const at = offers.findIndex((o) => near(o.axis, joint.axis) && (o.direction || near(o.point, joint.point)))
  return (
    <>
      <AxisField
        label="Axis"
        which="axis"
        body={body}
        offers={offers}
        at={at}
        axis={joint.axis}
        take={(o) => set({ axis: o.axis, point: o.direction ? joint.point : o.point })}
      >
        <Button onClick={() => void alterJoint(joint, { reversed: true })}>Reverse</Button>
      </AxisField>
      {joint.kind === 'universal' && (
        <AxisField
          label="Second axis"
          which="second"
          body={body}
          offers={offers}
          at={offers.findIndex((o) => near(o.axis, joint.second ?? []))}
          axis={joint.second ?? []}
          take={(o) => set({ second: o.axis })}
        />
      )}
    </>
  )
}

// AxisField chooses one axis of a joint.
function AxisField({
  label,
  which,
  body,
  offers,
  at,
  axis,
  take,
  children,
}: {
  label: string
  which: 'axis' | 'second'
  body: string
  offers: readonly AxisOffer[]
  at: number
  axis: readonly number[]
  take(offer: AxisOffer): unknown
  children?: ReactNode
}) {
  const pointing = useMechanism((s) => s.pointing === which)
  const measured = useView((s) => s.measured)
  useEffect(() => {
    const last = measured.at(-1)
    if (!pointing || !last) return
    useMechanism.setState({ pointing: null })
    useView.getState().setMeasuring(false)
    void axesOf(body, [], last).then(([a]) => a && take(a))
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once for each thing that is pointed at
  }, [measured, pointing])
  const options = useMemo(() => offers.map((o, i) => ({ value: String(i), text: o.text })), [offers])
  return (
    <>
      <Field label={label}>
        <Select
          label={`${label} of the joint`}
          value={String(at)}
          options={at < 0 ? [{ value: '-1', text: words(axis) }, ...options] : options}
          onChange={(v) => {
            const o = offers[Number(v)]
            if (o) void take(o)
          }}
        />
      </Field>
      <Field label="">
        <div className="flex gap-1.5">
          <Button
            className="grow"
            aria-pressed={pointing}
            onClick={() => {
              useMechanism.setState({ pointing: pointing ? null : which })
              useView.getState().setMeasuring(!pointing)
            }}
          >
            {pointing ? 'Now a round face or an edge…' : 'Point at it'}
          </Button>
          {children}
        </div>
      </Field>
    </>
  )
}

const near = (a: readonly number[], b: readonly number[]) =>
  b.length === a.length && a.every((v, i) => Math.abs(v - b[i]!) < 1e-4)
const words = (axis: readonly number[]) => `along ${axis.map((v) => written(v, 'plain', 3)).join(', ')}`

function Limits({ joint, set }: { joint: Joint; set(change: Partial<Joint>): unknown }) {
  const quantity = slides(joint) ? 'length' : 'angle'
  const limited = joint.min !== undefined || joint.max !== undefined
  const rest = joint.rest ?? 0
  return (
    <>
      <Field label="At rest it is">
        <NumberField
          label="Value at rest"
          quantity={quantity}
          value={rest}
          onChange={(v) => void set({ rest: v || undefined })}
        />
      </Field>
      <Tick on={limited} onChange={(on) => void alterJoint(joint, { limited: on })}>
        It has limits
      </Tick>
      {limited && (
        <Field label="From, to">
          <div className="grid grid-cols-2 gap-1.5">
            <NumberField
              label="Least value"
              quantity={quantity}
              value={joint.min ?? rest}
              onChange={(min) => void set({ min })}
            />
            <NumberField
              label="Greatest value"
              quantity={quantity}
              value={joint.max ?? rest}
              onChange={(max) => void set({ max })}
            />
          </div>
        </Field>
      )}
    </>
  )
}

// Try moves the joint on the stage, with all that follows it.
function Try({ joint }: { joint: Joint }) {
  const now = useMechanism((s) => s.now)
  const tried = useMechanism((s) => s.tried)
  const names = useSession((s) => s.assembly?.joints)
  useEffect(() => back, [joint.id])
  const state = now?.joints.find((j) => j.id === joint.id)
  const problem = now?.problems.find((p) => p.of === joint.id)
  if (!state?.driven) return null
  const value = tried?.joint === joint.id ? tried.value : (joint.rest ?? 0)
  const ends = tried?.joint === joint.id ? (now?.ends ?? []) : []
  const quantity = slides(joint) ? 'length' : 'angle'
  const follows = tried
    ? (now?.joints ?? []).filter(
        (j) => j.id !== joint.id && j.driven && Math.abs(j.value - (restOf(names, j.id) ?? 0)) > 1e-6,
      )
    : []
  return (
    <section aria-label="Try it" className="bg-sheet-2 px-3 py-2.5">
      <div className="flex items-center gap-2">
        <input
          type="range"
          aria-label="Value of the joint"
          aria-valuetext={written(value, quantity)}
          min={state.low}
          max={state.high}
          step={(state.high - state.low) / 720}
          value={value}
          onChange={(e) => tryJoint(joint.id, Number(e.target.value))}
          className="min-w-0 grow accent-[var(--ink)]"
        />
        <div className="w-[84px]">
          <NumberField
            label="Try the value"
            quantity={quantity}
            value={value}
            onChange={(v) => tryJoint(joint.id, v)}
          />
        </div>
        <IconButton label="Back to rest" disabled={!tried} onClick={back}>
          <RotateCcw size={14} />
        </IconButton>
      </div>
      {!tried && <p className="mt-1 text-[12px] text-ink-2">Drag to try it: what is tied to it follows.</p>}
      {problem && <p className="mt-1 text-[12px] text-signal-ink">{problem.text}</p>}
      {ends.map((e) => (
        <p key={String(e.beyond)} role="note" className="mt-1 text-[12px] text-advice">
          It goes no {e.beyond ? 'farther' : 'less far'} than {written(e.value, quantity)}: beyond that the loop at “
          {names?.find((j) => j.id === e.at)?.name}” cannot be closed.
        </p>
      ))}
      {follows.length > 0 && (
        <dl aria-label="What follows" className="mt-1.5 grid grid-cols-[1fr_auto] gap-x-3 text-[12px]">
          {follows.slice(0, 8).map((f) => {
            const j = names?.find((n) => n.id === f.id)
            return (
              <div key={f.id} className="contents">
                <dt className="truncate text-ink-2">{j?.name}</dt>
                <dd className="mono text-right text-[11.5px]">{written(f.value, slides(j) ? 'length' : 'angle')}</dd>
              </div>
            )
          })}
          {follows.length > 8 && <dt className="text-ink-2">and {follows.length - 8} more</dt>}
        </dl>
      )}
    </section>
  )
}

const restOf = (joints: readonly Joint[] | undefined, id: string) => joints?.find((j) => j.id === id)?.rest
