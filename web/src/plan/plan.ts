// The teardown plan of the open reveal: it is computed by the server, written by the core, and shown as a preview until it is accepted.
import { setEye } from '../session/eye'
import { create } from 'zustand'
import { answer, api, words, type Schemas } from '../api/client'
import type { Written } from '../core/core'
import { useSession } from '../session/session'
import { asked as askedFor } from '../session/variants'
import { useTransport } from '../session/transport'

export type Plan = Schemas['Plan']
export type Move = Schemas['Move']
type Choices = Schemas['Choices']
export type Fineness = 'each' | 'usual' | 'few'
export type AllAtOnce = '' | 'together' | 'layers'

interface Planning {
  open: boolean
  /** Where in the film the plan goes on, µs. */
  from: number
  choices: Choices
  plan: Plan | null
  done: boolean
  /** It was ended before it was through. */
  stopped: boolean
  problem: string | null
  fineness: Fineness
  /** Moves, by their first node, that go into the step before, or begin one. */
  join: string[]
  split: string[]
  pace: number
  shots: boolean
  flow: boolean
  how: AllAtOnce
  /** The steps that are shown, by their ids, with the moves in each. */
  shown: { step: string; moves: number[] }[]
  at: number // the move that is looked at, −1 for none
  /** What the ids of the steps that are shown begin with. */
  fresh: string
  /** The number of the plan that is waited for. */
  asked: number
}

const closed: Planning = {
  open: false,
  from: 0,
  choices: {},
  plan: null,
  done: false,
  stopped: false,
  problem: null,
  fineness: 'usual',
  join: [],
  split: [],
  pace: 1,
  shots: true,
  flow: true,
  how: '',
  shown: [],
  at: -1,
  fresh: '',
  asked: 0,
}

export const usePlan = create<Planning>(() => closed)

const again = 250 // ms until it is asked again how far the server has come

/** openPlan plans from the playhead on: all, or what has to leave before a part can. */
export async function openPlan(choices: Choices = {}) {
  const s = useSession.getState()
  if (!s.revealId || !s.core) return
  s.settle()
  if (useTransport.getState().playing) useTransport.getState().toggle(useTransport.getState().backwards)
  const fresh = `plan-${crypto.randomUUID().slice(0, 6)}`
  usePlan.setState({ ...closed, open: true, fresh, from: useTransport.getState().time, choices })
  setEye('shot')
  await compute()
}

/** choose changes what is wanted, and has it computed anew. */
export async function choose(change: Partial<Choices>) {
  usePlan.setState({ choices: { ...usePlan.getState().choices, ...change } })
  await compute()
}

async function compute() {
  const { from, choices } = usePlan.getState()
  const reveal = useSession.getState().revealId
  if (!reveal) return
  usePlan.setState({ done: false, stopped: false, problem: null, at: -1 })
  const path = { params: { path: { id: reveal } } }
  try {
    await useSession.getState().idle() // the server plans what it has
    const query = { variant: askedFor(useSession.getState().variant) }
    const begun = { params: { ...path.params, query } }
    let state = await answer(api.POST('/api/reveals/{id}/plan', { ...begun, body: { time: from, choices } }))
    usePlan.setState({ asked: state.number })
    for (;;) {
      const now = usePlan.getState()
      if (!now.open || useSession.getState().revealId !== reveal || state.number !== now.asked) return
      if (
        state.plan &&
        (state.plan.moves.length !== now.plan?.moves.length ||
          state.plan.complete !== now.plan.complete ||
          state.plan.proven !== now.plan.proven ||
          state.done)
      )
        take(state.plan)
      if (state.done) return usePlan.setState({ done: true, problem: state.problem ?? null })
      await new Promise((go) => setTimeout(go, again))
      state = await answer(api.GET('/api/reveals/{id}/plan', path))
    }
  } catch (e) {
    usePlan.setState({ done: true, problem: words(e) })
  }
}

function take(plan: Plan) {
  usePlan.setState({ plan })
  showPlan()
}

// write has the core write moves behind what is there without the preview.
function write(moves?: number[]): Written {
  const s = useSession.getState()
  const p = usePlan.getState()
  s.settle()
  return s.core!.ask('planned', {
    plan: p.plan,
    time: p.from,
    writing: {
      moves,
      fineness: p.fineness,
      join: p.join,
      split: p.split,
      pace: p.pace,
      noShots: !p.shots,
      noFlow: !p.flow,
      allAtOnce: p.how,
      fresh: p.fresh,
    },
  })
}

/** showPlan shows the plan as if it had been accepted: nothing of it is in the reveal. */
export function showPlan() {
  const p = usePlan.getState()
  if (!p.open || !p.plan || p.plan.moves.length === 0) return
  const written = write()
  const steps = (written.command.commands ?? []).map((c) => c.step!.id)
  useSession.getState().preview(written.command)
  usePlan.setState({
    shown: written.steps.map((moves, i) => ({ step: steps[i]!, moves: moves ?? p.plan!.moves.map((_, k) => k) })),
  })
}

export function setWriting(change: Partial<Pick<Planning, 'fineness' | 'pace' | 'shots' | 'flow' | 'how'>>) {
  usePlan.setState(change)
  showPlan()
}

/** begins tells whether a move begins a step. */
export const begins = (move: number) => usePlan.getState().shown.some((s) => s.moves[0] === move)

/** toggleJoin puts a move into the step of the one before it, or lets it begin one of its own. */
export function toggleJoin(move: number) {
  const { plan, join, split } = usePlan.getState()
  const node = plan!.moves[move]!.nodes[0]!
  const others = (list: string[]) => list.filter((n) => n !== node)
  usePlan.setState(
    begins(move)
      ? { join: [...others(join), node], split: others(split) }
      : { join: others(join), split: [...others(split), node] },
  )
  showPlan()
  look(move)
}

/** spanOf is when the step with a move runs, as it is shown. */
function spanOf(move: number) {
  const { shown } = usePlan.getState()
  const step = shown.find((s) => s.moves.includes(move))?.step
  return useSession.getState().schedule?.steps.find((s) => s.step === step)
}

/** look goes to a move: its parts are picked, the playhead is where they have left. */
export function look(move: number) {
  const { plan } = usePlan.getState()
  const m = plan?.moves[move]
  const span = spanOf(move)
  usePlan.setState({ at: move })
  if (!m || !span) return
  useSession.getState().select({ nodes: m.nodes })
  const bars =
    useSession
      .getState()
      .schedule?.bars.filter((b) => b.step === span.step && m.nodes.some((n) => b.targets?.includes(n))) ?? []
  useTransport.getState().seek(Math.max(span.start, ...bars.map((b) => b.start + b.duration)), true)
}

/** explode goes to a share of the way in which everything goes apart at once. */
export function explode(share: number) {
  const { schedule } = useSession.getState()
  const span = schedule?.steps.find((s) => s.step === usePlan.getState().shown[0]?.step)
  if (span) useTransport.getState().seek(span.start + share * span.done)
}

/** accept puts moves into the reveal as one edit: all, or these. */
export function accept(moves?: number[]) {
  const s = useSession.getState()
  const written = write(moves)
  if (!s.run(written.command)) return showPlan()
  closePlan()
  const first = written.command.commands?.[0]?.step?.id
  const span = useSession.getState().schedule?.steps.find((x) => x.step === first)
  if (span) useTransport.getState().seek(span.start, true)
  const n = written.command.commands?.length ?? 0
  useSession
    .getState()
    .inform(`The plan is in the script: ${n === 1 ? '1 step' : `${n} steps`}. One undo takes all of it away.`)
}

/** stopPlan ends the computation: what has been found stays. */
export async function stopPlan() {
  const reveal = useSession.getState().revealId
  if (!reveal) return
  usePlan.setState({ stopped: true })
  await answer(api.DELETE('/api/reveals/{id}/plan', { params: { path: { id: reveal } } })).catch((e: unknown) =>
    usePlan.setState({ problem: words(e) }),
  )
}

/** closePlan leaves the plan; what was not accepted is gone. */
export function closePlan() {
  if (!usePlan.getState().open) return
  const computing = !usePlan.getState().done
  usePlan.setState(closed)
  if (useSession.getState().core) useSession.getState().settle()
  if (computing) void stopPlan()
}

// given is a move as it is: with its direction, where that is one and the same straight one for all.
function given(m: Move): Schemas['Given'] {
  const along = m.paths[0]!.legs[0]!.along
  const same = m.paths.every(
    (p) => p.legs.length === 1 && p.legs[0]!.along.every((x, k) => Math.abs(x - along[k]!) < 1e-6),
  )
  return { nodes: m.nodes, along: same ? along : undefined }
}

// order takes the moves before a place as they are, changes those from there on, and has the rest computed.
function arrange(list: Schemas['Given'][]) {
  return choose({ given: list })
}

/** moveTo puts a move before another one; all is looked at anew, and what collides is said. */
export function moveTo(from: number, to: number) {
  const moves = usePlan.getState().plan?.moves ?? []
  if (to < 0 || to >= moves.length) return
  const list = moves.map(given)
  const [one] = list.splice(from, 1)
  list.splice(to, 0, { nodes: one!.nodes })
  return arrange(list.map((g, i) => (i > Math.max(from, to) ? { nodes: g.nodes } : g)))
}

/** turnTo lets a move go another way; those behind it find their own. */
export function turnTo(move: number, along: [number, number, number]) {
  const moves = usePlan.getState().plan?.moves ?? []
  return arrange([...moves.slice(0, move).map(given), { nodes: moves[move]!.nodes, along }])
}

/** keepTo keeps the moves up to one as they are, and has the rest computed again. */
export function keepTo(move: number) {
  return arrange((usePlan.getState().plan?.moves ?? []).slice(0, move + 1).map(given))
}

/** leaveOut lets the parts of a move where they are; what comes behind it is computed again. */
export function leaveOut(move: number) {
  const { plan, choices } = usePlan.getState()
  const moves = plan!.moves
  return choose({
    without: [...(choices.without ?? []), ...moves[move]!.nodes],
    given: moves.slice(0, move).map(given),
  })
}

// What others do comes in between: the preview is shown anew on top of it. An own edit ends the plan's preview as well.
useSession.subscribe((now, before) => {
  const p = usePlan.getState()
  if (!p.open) return
  if (now.revealId !== before.revealId) return closePlan()
  const first = p.shown[0]?.step
  if (now.doc !== before.doc && first && now.doc && !now.doc.steps.some((s) => s.id === first)) {
    queueMicrotask(() => {
      const s = useSession.getState()
      if (usePlan.getState().open && s.doc && !s.doc.steps.some((x) => x.id === usePlan.getState().shown[0]?.step))
        showPlan()
    })
  }
})
