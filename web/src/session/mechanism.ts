// The joints of the open assembly: which one is looked at, and what it and all others stand at while it is tried out.
import { create } from 'zustand'
import { words, type Schemas } from '../api/client'
import type { AlteredJoint, JointNow, JointsNow, MechanismWords } from '../core/core'
import { newId } from './actions'
import { useSession } from './session'

export type Joint = Schemas['Joint']
export type Coupling = Schemas['Coupling']

interface State {
  /** The joint whose settings are shown. */
  chosen: string | null
  /** What is tried out, and at which value. */
  tried: { joint: string; value: number } | null
  now: JointsNow | null
  /** An axis is being pointed at for the chosen joint. */
  pointing: 'axis' | 'second' | null
  /** The joints are looked at: a hand moves what is on one. */
  shown: boolean
}

export const useMechanism = create<State>(() => ({
  chosen: null,
  tried: null,
  now: null,
  pointing: null,
  shown: false,
}))

// What the kinds are called, asked for once.
let said: MechanismWords | null = null

/** mechanismWords are the kinds of joint and of coupling, in words. */
export const mechanismWords = (): MechanismWords => (said ??= useSession.getState().core!.ask('mechanismWords'))

const kindOf = (kind: string) => mechanismWords().joints.find((k) => k.kind === kind)

export const doesWhat = (kind: string) => kindOf(kind)?.does ?? ''

/** Whether a joint's values are mm, and not degrees. */
export const slides = (joint: Joint | undefined) => (joint && kindOf(joint.kind)?.slides) ?? false

/** alterJoint changes one thing about a joint, and what follows from that. */
export const alterJoint = (joint: Joint, by: Omit<AlteredJoint, 'joint'>) =>
  setJoint(useSession.getState().core!.ask('jointAs', { joint, ...by }))

const ask = () => useSession.getState().core?.ask('joints') ?? null

/** lookAtJoints brings what is known of the joints up to date. */
export function lookAtJoints() {
  useMechanism.setState({ now: ask() })
}

/** choose shows a joint's settings, and its body on the stage. */
export function choose(joint: Joint | null) {
  back()
  useMechanism.setState({ chosen: joint?.id ?? null, pointing: null })
  if (joint) useSession.getState().select({ nodes: [joint.body] })
}

/** tryJoint sets a joint on the stage to a value, and what follows it. */
export function tryJoint(joint: string, value: number) {
  const { core, tell } = useSession.getState()
  try {
    core?.tryJoint(joint, value)
    const now = ask()
    // It may go no farther than its loop lets it.
    const taken = now?.joints.find((j) => j.id === joint)?.value ?? value
    useMechanism.setState({ tried: { joint, value: taken }, now })
    useSession.setState((s) => ({ previews: s.previews + 1 }))
  } catch (e) {
    tell(words(e))
  }
}

/** back puts what was tried out back to rest. */
export function back() {
  if (!useMechanism.getState().tried) return
  useSession.getState().core?.tryJoint(null, 0)
  useMechanism.setState({ tried: null, now: ask() })
  useSession.setState((s) => ({ previews: s.previews + 1 }))
}

export const stateOf = (id: string): JointNow | undefined =>
  useMechanism.getState().now?.joints.find((j) => j.id === id)

/** setJoint puts a joint into the arrangement, in the place of the one with its id. */
export const setJoint = (joint: Joint) => useSession.getState().arrange({ do: 'setJoints', joints: [joint] })

export const setCoupling = (coupling: Coupling) =>
  useSession.getState().arrange({ do: 'setJoints', couplings: [coupling] })

export const unjoint = (...ids: string[]) => useSession.getState().arrange({ do: 'unjoint', jointIds: ids })

/** addJoint makes a joint of the first picked part on the second, or on the whole assembly. */
export async function addJoint(nodes: readonly string[]) {
  const { core, tell } = useSession.getState()
  try {
    const joint = core!.ask('newJoint', { nodes: [...nodes], id: newId('joint') })
    if (await setJoint(joint)) choose(joint)
  } catch (e) {
    tell(words(e))
  }
}

// Another assembly stands at rest, and joints that it has not cannot be looked at.
useSession.subscribe((s, before) => {
  if (s.assembly === before.assembly) return
  const { chosen } = useMechanism.getState()
  const there = s.assembly?.joints?.some((j) => j.id === chosen)
  useMechanism.setState({
    tried: null,
    now: s.assembly ? ask() : null,
    pointing: null,
    ...(!there && { chosen: null }),
  })
})
