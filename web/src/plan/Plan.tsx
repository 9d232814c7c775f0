import clsx from 'clsx'
import { ArrowDown, ArrowUp, ChevronRight, Lock, X } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { useShallow } from 'zustand/react/shallow'
import { labelOf, namesOf, useSession } from '../session/session'
import { Button, Choice, IconButton, Tick, Tip, Select } from '../ui/controls'
import { NumberField } from '../ui/NumberField'
import {
  accept,
  choose,
  closePlan,
  explode,
  keepTo,
  leaveOut,
  look,
  moveTo,
  setWriting,
  stopPlan,
  toggleJoin,
  turnTo,
  usePlan,
  type AllAtOnce,
  type Fineness,
  type Move,
} from './plan'
import { written } from '../core/written'

const mm = (d: number) => written(d, 'length', 0)

// PlanPanel is the teardown plan beside the script: a list of moves that can be played, put into another order, turned and accepted. The stage shows it as
// if it had been accepted.
export function PlanPanel() {
  const { plan, done, stopped, problem, choices, at } = usePlan(
    useShallow(({ plan, done, stopped, problem, choices, at }) => ({ plan, done, stopped, problem, choices, at })),
  )
  const assembly = useSession((s) => s.assembly)
  const picked = useSession((s) => s.selection.nodes)
  const list = useRef<HTMLOListElement>(null)
  useEffect(() => {
    list.current?.querySelector(`[data-move="${at}"]`)?.scrollIntoView({ block: 'nearest' })
  }, [at])
  const moves = plan?.moves ?? []
  const collisions = moves.filter((m) => m.collides).length
  return (
    <section aria-label="Teardown plan" className="flex h-full min-h-0 flex-col border-l border-line bg-sheet">
      <header className="border-b border-hair px-4 pt-3 pb-3">
        <div className="flex items-start gap-2">
          <h2 className="serif grow text-[18px] leading-tight font-semibold">
            {choices.reach ? `Get at ${labelOf(assembly, choices.reach)}` : 'Teardown plan'}
          </h2>
          <IconButton label="Leave the plan" onClick={closePlan}>
            <X size={14} />
          </IconButton>
        </div>
        <div role="status" className="mt-1 flex min-h-7 items-center gap-2 text-[12px] text-ink-2">
          <span className="grow">
            {problem
              ? ''
              : done
                ? moves.length === 0
                  ? 'Nothing can leave.'
                  : `${moves.length} moves of ${plan!.parts - plan!.stays.length} parts${stopped ? ', stopped' : ''}${collisions > 0 ? `; ${collisions} go into something` : plan!.proven ? '; nothing goes into anything' : ''}.`
                : moves.length > 0
                  ? plan!.complete
                    ? `${moves.length} moves; they are being looked at as a film…`
                    : `${moves.length} moves so far…`
                  : 'Looking at what can leave…'}
          </span>
          {!done && <Button onClick={() => void stopPlan()}>Stop</Button>}
        </div>
        {problem && (
          <p role="alert" className="text-[12.5px] text-signal-ink">
            It could not be planned: {problem}
          </p>
        )}
      </header>
      <Written />
      <ol ref={list} aria-label="Moves" className="scroll relative min-h-0 grow">
        {moves.map((m, i) => (
          <Entry key={`${i}-${m.nodes[0]}`} move={m} number={i} current={at === i} last={i === moves.length - 1} />
        ))}
      </ol>
      {(plan?.stuck?.length ?? 0) > 0 && done && (
        <div className="scroll relative max-h-28 shrink-0 border-t border-hair px-4 py-2 text-[12px]">
          <h3 className="font-semibold">Stays, though nobody said so</h3>
          <ul>
            {plan!.stuck!.map((s) => (
              <li key={s.node} className="mt-1 text-ink-2">
                <b className="font-semibold text-ink">{labelOf(assembly, s.node)}.</b> {s.says}
              </li>
            ))}
          </ul>
        </div>
      )}
      <footer className="border-t border-line px-4 py-3">
        <div className="mb-1.5 grid grid-cols-2 gap-1.5">
          <Tip text="What is picked is what all others leave">
            <Button
              disabled={picked.length === 0 || at >= 0}
              onClick={() => void choose({ stays: [...picked], given: undefined })}
            >
              Let the pick stay
            </Button>
          </Tip>
          <Tip text="The picked subassembly leaves in one piece and stays so">
            <Button
              disabled={picked.length === 0}
              onClick={() => void choose({ whole: [...(choices.whole ?? []), ...picked], given: undefined })}
            >
              Keep it whole
            </Button>
          </Tip>
        </div>
        <Button kind="strong" className="mb-1.5 w-full" disabled={moves.length === 0} onClick={() => accept()}>
          Accept all
        </Button>
        <div className="grid grid-cols-2 gap-1.5">
          <Button disabled={at < 0} onClick={() => accept(moves.map((_, i) => i).slice(0, at + 1))}>
            Accept up to here
          </Button>
          <Button disabled={at < 0} onClick={() => accept(carriersOf(moves, at))}>
            Accept this one
          </Button>
        </div>
      </footer>
    </section>
  )
}

// carriersOf is a move with those that have taken its parts along before.
function carriersOf(moves: readonly Move[], at: number): number[] {
  const list = [at]
  for (let c = moves[at]!.carried; c >= 0; c = moves[c]!.carried) list.unshift(c)
  return list
}

// Written is how the moves become steps, or one movement of all.
function Written() {
  const { fineness, shots, flow, how, plan } = usePlan(
    useShallow(({ fineness, shots, flow, how, plan }) => ({ fineness, shots, flow, how, plan })),
  )
  const fade = usePlan((p) => p.choices.fade) // what fades does not go far enough to be seen apart
  const [share, setShare] = useState(0)
  return (
    <div className="space-y-2 border-b border-hair px-4 py-3 text-[12.5px]">
      <Choice<AllAtOnce | 'steps'>
        label="What is made of it"
        className="w-full"
        value={how === '' ? 'steps' : how}
        onChange={(v) => {
          setWriting({ how: v === 'steps' ? '' : v })
          setShare(0)
          if (v === 'steps') return
          explode(0)
          if (fade) void choose({ fade: false })
        }}
        options={[
          { value: 'steps', text: 'Steps' },
          { value: 'layers', text: 'By layers' },
          { value: 'together', text: 'All at once' },
        ]}
      />
      {how === '' ? (
        <>
          <Choice<Fineness>
            label="How many moves go into a step"
            className="w-full"
            value={fineness}
            onChange={(v) => setWriting({ fineness: v })}
            options={[
              { value: 'each', text: 'Each move' },
              { value: 'usual', text: 'Usual' },
              { value: 'few', text: 'Few steps' },
            ]}
          />
          <div className="flex items-center gap-3">
            <Tick on={shots} onChange={(v) => setWriting({ shots: v })}>
              Shots
            </Tick>
            <Tick on={flow} onChange={(v) => setWriting({ flow: v })}>
              Flow lines
            </Tick>
          </div>
          <Wanted />
        </>
      ) : (
        <label className="flex items-center gap-2">
          <span>Apart</span>
          <input
            type="range"
            min={0}
            max={100}
            value={share}
            aria-label="How far apart"
            disabled={!plan || plan.moves.length === 0}
            className="min-w-0 grow accent-ink"
            onChange={(e) => {
              setShare(Number(e.target.value))
              explode(Number(e.target.value) / 100)
            }}
          />
          <span className="mono w-11 text-right">{share} %</span>
        </label>
      )}
    </div>
  )
}

const ways: readonly { text: string; along: [number, number, number] }[] = [
  { text: 'Up', along: [0, 1, 0] },
  { text: 'Down', along: [0, -1, 0] },
  { text: 'Front', along: [0, 0, 1] },
  { text: 'Back', along: [0, 0, -1] },
  { text: 'Right', along: [1, 0, 0] },
  { text: 'Left', along: [-1, 0, 0] },
]
const paces = [
  { value: '0.7', text: 'Slow' },
  { value: '1', text: 'Usual' },
  { value: '1.5', text: 'Fast' },
] as const

// Wanted is how far parts stand from one another, how fast they go, and where nothing goes.
function Wanted() {
  const { choices, plan, pace } = usePlan(useShallow(({ choices, plan, pace }) => ({ choices, plan, pace })))
  const [open, setOpen] = useState(false)
  const avoid = choices.avoid ?? []
  const ruled = (a: readonly number[]) => avoid.some((o) => o.every((x, k) => x === a[k]))
  return (
    <>
      <button
        type="button"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
        className="flex min-h-6 items-center gap-1 text-ink-2 hover:text-ink"
      >
        <ChevronRight size={12} className={clsx('transition-transform', open && 'rotate-90')} /> Gaps, pace and
        directions
      </button>
      {open && (
        <div className="space-y-2">
          <div className="flex items-center gap-2">
            <span className="w-10 text-ink-2">Gap</span>
            <span className="w-20">
              <NumberField
                label="Gap between parts, mm"
                quantity="length"
                className="w-full"
                value={choices.spacing ?? plan?.spacing ?? 0}
                onChange={(v) => void choose({ spacing: Math.max(0.1, v) })}
              />
            </span>
            <Select
              label="Pace"
              className="min-w-0 grow"
              value={String(pace) as (typeof paces)[number]['value']}
              onChange={(v) => setWriting({ pace: Number(v) })}
              options={paces}
            />
          </div>
          <Tick on={choices.fade ?? false} onChange={(fade) => void choose({ fade })}>
            Parts fade when they have left
          </Tick>
          <fieldset>
            <legend className="text-ink-2">Nothing goes</legend>
            <div className="grid grid-cols-3">
              {ways.map((w) => (
                <Tick
                  key={w.text}
                  on={ruled(w.along)}
                  onChange={(on) =>
                    void choose({
                      avoid: on ? [...avoid, w.along] : avoid.filter((o) => !o.every((x, k) => x === w.along[k])),
                      given: undefined,
                    })
                  }
                >
                  {w.text}
                </Tick>
              ))}
            </div>
          </fieldset>
        </div>
      )}
    </>
  )
}

function Entry({ move: m, number, current, last }: { move: Move; number: number; current: boolean; last: boolean }) {
  const assembly = useSession((s) => s.assembly)
  const legs = m.paths[0]!.legs
  const far = legs.reduce((sum, l) => sum + l.distance, 0)
  return (
    <li
      data-move={number}
      className={clsx('relative border-b border-hair', current ? 'bg-white' : 'hover:bg-white/60')}
    >
      {current && <span aria-hidden className="absolute inset-y-0 left-0 w-1 bg-signal" />}
      <button
        type="button"
        aria-expanded={current}
        onClick={() => look(number)}
        className={clsx(
          'flex w-full items-baseline gap-2 py-2 pr-3 text-left focus-visible:-outline-offset-2',
          m.carried >= 0 ? 'pl-8' : 'pl-4',
        )}
      >
        <span className="mono w-5 shrink-0 text-[11.5px] text-ink-2">{number + 1}</span>
        <span className="min-w-0 grow text-[12.5px]">
          {m.title}
          {m.collides && (
            <span className="block text-[12px] text-signal-ink">Goes into {labelOf(assembly, m.collides)}</span>
          )}
        </span>
        {m.given && <Lock size={11} aria-label="Kept as it is" className="shrink-0 self-center text-ink-2" />}
        <span className="mono shrink-0 text-[11.5px] text-ink-2">{mm(far)}</span>
      </button>
      {current && <Detail move={m} number={number} last={last} />}
    </li>
  )
}

// Detail is what can be asked of a move, and done with it.
function Detail({ move: m, number, last }: { move: Move; number: number; last: boolean }) {
  const assembly = useSession((s) => s.assembly)
  const done = usePlan((p) => p.done)
  const own = usePlan((p) => p.shown.some((s) => s.moves[0] === number))
  const [why, setWhy] = useState(false)
  const others = m.others ?? []
  return (
    <div className="pr-3 pb-2.5 pl-4 text-[12px]">
      <p className="serif text-[13px] text-ink-2">{m.instruction}</p>
      <div className="mt-1.5 -ml-1.5 flex flex-wrap items-center">
        <IconButton label="Earlier" disabled={number === 0 || !done} onClick={() => void moveTo(number, number - 1)}>
          <ArrowUp size={13} />
        </IconButton>
        <IconButton label="Later" disabled={last || !done} onClick={() => void moveTo(number, number + 1)}>
          <ArrowDown size={13} />
        </IconButton>
        <Tip text="Keep everything up to here as it is, and compute the rest again">
          <Button kind="quiet" className="px-1.5!" disabled={!done} onClick={() => void keepTo(number)}>
            <Lock size={12} /> Lock to here
          </Button>
        </Tip>
        {number > 0 && (
          <Tip text={own ? 'It runs in the step of the move before it' : 'It begins a step'}>
            <Button kind="quiet" className="px-1.5!" onClick={() => toggleJoin(number)}>
              {own ? 'Join' : 'Split off'}
            </Button>
          </Tip>
        )}
        <Tip text="Its parts stay where they are">
          <Button kind="quiet" className="px-1.5!" disabled={!done} onClick={() => void leaveOut(number)}>
            Leave out
          </Button>
        </Tip>
      </div>
      {others.length > 0 && (
        <div className="mt-1.5 flex items-center gap-2">
          <span className="text-ink-2">Way</span>
          <Select
            label="Direction of this move"
            className="min-w-0 grow"
            value="own"
            onChange={(v) => v !== 'own' && void turnTo(number, others[Number(v)]!.along as [number, number, number])}
            options={[
              { value: 'own', text: 'As planned' },
              ...others.map((o, i) => ({
                value: String(i),
                text: `${o.label}${o.blocked ? `, into ${labelOf(assembly, o.blocked)}` : ', free'}`,
              })),
            ]}
          />
        </div>
      )}
      <button
        type="button"
        aria-expanded={why}
        onClick={() => setWhy(!why)}
        className="mt-1 flex min-h-6 items-center gap-1 text-ink-2 hover:text-ink"
      >
        <ChevronRight size={12} className={clsx('transition-transform', why && 'rotate-90')} /> Why now, and why this
        way?
      </button>
      {why && (
        <ul className="mt-1 space-y-1 text-ink-2">
          {m.why.map((w) => (
            <li key={w}>{w}</li>
          ))}
          {others.map((o) => (
            <li key={o.label}>
              {o.label}:{' '}
              {o.blocked
                ? o.far && o.far >= 1
                  ? `${mm(o.far)}, then ${labelOf(assembly, o.blocked)}.`
                  : `${labelOf(assembly, o.blocked)} is in the way.`
                : `free; ${mm(o.out ?? 0)} until it is clear.`}
            </li>
          ))}
          {(m.beside?.length ?? 0) > 0 && <li>It touched {namesOf(assembly, m.beside!)}.</li>}
        </ul>
      )}
    </div>
  )
}
