// The stage of the client page and its clock, outside React.
import type { RevealDocument } from '../api/client'
import type { Core, State } from '../core/core'
import type { Shape } from '../stage/geometry'
import type { Eye } from '../stage/eyes'
import { Stage } from '../stage/stage'
import type { Section } from '../stage/view'
import type { Told } from './data'

const second = 1e6
/** How strongly a part that was made see-through is still there. */
const clearOpacity = 0.22

export interface Playing {
  time: number
  playing: boolean
  eye: Eye
  length: number
  steps: { start: number; duration: number; index: number }[]
  pick: string | null
  /** What is moved by hand, in the product as it stands together. */
  hand: { joint: string; value: number } | null
}

/** A joint that can be moved by hand: what moves, and from where to where, degrees or mm. */
export interface Handle {
  joint: string
  name: string
  low: number
  high: number
  rest: number
  slides: boolean
}

export class Player {
  readonly stage: Stage
  private state: State
  private doc: RevealDocument
  private readonly listeners = new Set<() => void>()
  private now: Playing
  private last = 0
  private clear: ReadonlySet<string> = new Set()
  private aspect = 16 / 9
  private shown = 0 // which of the reveals

  constructor(
    readonly core: Core,
    readonly told: Told,
    shapes: Shape[],
    readonly canvas: HTMLCanvasElement,
  ) {
    core.openAssembly(told.assembly)
    this.doc = told.reveals[0]!
    this.state = core.openReveal(this.doc)
    this.now = { time: 0, playing: false, eye: 'shot', length: 0, steps: [], pick: null, hand: null }
    this.laid()
    this.stage = new Stage(canvas, core)
    this.stage.enter({
      pick: (hit) => this.pick(hit?.node ?? null),
      hover: () => undefined,
      menu: () => undefined,
      looked: () => this.tell(),
      moved: () => this.tell(),
      eye: (eye) => this.change({ eye }),
    })
    this.stage.setMonitor(false)
    this.stage.setEye('shot')
    this.stage.lay(told.assembly, shapes)
    this.stage.setOccludes(!this.doc.frame.noOcclusion)
    this.stage.eyes.lookFrom(this.doc.opening.camera)
    this.stage.setTime(0)
  }

  subscribe = (heard: () => void) => {
    this.listeners.add(heard)
    return () => void this.listeners.delete(heard)
  }

  snapshot = () => this.now

  private change(what: Partial<Playing>) {
    this.now = { ...this.now, ...what }
    this.tell()
  }

  private tell() {
    this.now = { ...this.now }
    for (const heard of this.listeners) heard()
  }

  // laid reads how the film is laid out in time.
  private laid() {
    const { schedule } = this.state
    const steps = (schedule?.steps ?? [])
      .map((s, index) => ({ start: s.start, duration: s.duration, index, muted: s.muted }))
      .filter((s) => !s.muted)
    this.now = { ...this.now, length: schedule?.duration ?? 0, steps }
  }

  /** Shows another reveal from its beginning. */
  show(reveal: number) {
    this.shown = reveal
    this.doc = this.told.reveals[reveal]!
    this.stop()
    this.reopen()
    this.stage.setOccludes(!this.doc.frame.noOcclusion)
    this.go(0)
    this.film()
  }

  // reopen lays the film out anew: a part that is made see-through is so from the opening on.
  private reopen() {
    const seen = [...this.clear].map((node) => ({ node, opacity: clearOpacity }))
    const kept = (this.doc.opening.opacities ?? []).filter((o) => !this.clear.has(o.node))
    this.state = this.core.openReveal({
      ...this.doc,
      opening: { ...this.doc.opening, opacities: [...kept, ...seen] },
    })
    this.core.shape(this.aspect)
    this.laid()
    this.stage.touch()
    this.go(this.now.time)
  }

  setClear(nodes: ReadonlySet<string>) {
    this.clear = nodes
    this.reopen()
  }

  setHidden(nodes: ReadonlySet<string>) {
    this.stage.setHidden([...nodes])
  }

  setSection(section: Section | null) {
    this.stage.setSection(section)
  }

  pick(node: string | null, all: readonly string[] = node ? [node] : []) {
    this.stage.setMarks(new Set(all), null, new Set())
    this.change({ pick: node })
  }

  resize(width: number, height: number) {
    this.aspect = width / height
    this.core.shape(this.aspect)
    this.stage.setAspect(this.aspect)
    this.stage.resize(width, height)
    if (!this.now.hand) this.stage.setTime(this.now.time)
  }

  go(time: number) {
    const t = Math.round(Math.max(0, Math.min(time, this.now.length)))
    if (this.now.hand) this.core.tryJoint(null, 0)
    this.stage.setTime(t)
    this.change({ time: t, hand: null })
  }

  /** What can be moved by hand. */
  handles(): Handle[] {
    const { joints = [], nodes } = this.told.assembly
    const body = new Map(joints.map((j) => [j.id, nodes.find((n) => n.id === j.body)?.name ?? '']))
    const called = new Map<string, number>()
    return this.core
      .ask('joints')
      .joints.filter((now) => now.driven && now.low < now.high && body.get(now.id) !== '')
      .map(({ id, low, high, slides, value }) => {
        const name = body.get(id)!
        const before = called.get(name) ?? 0
        called.set(name, before + 1)
        return { joint: id, name: before > 0 ? `${name}, ${before + 1}` : name, low, high, rest: value, slides }
      })
  }

  /** Moves a joint of the product as it stands together to a value, with all that follows it; null goes back to the film. */
  turn(joint: string | null, value = 0) {
    if (joint === null) return this.go(this.now.time)
    this.stop()
    if (this.now.eye === 'shot') this.look(null) // a shot may look at a part that is far out in the film
    this.core.tryJoint(joint, value)
    // It may go no farther than its loop lets it.
    const taken = this.core.ask('joints').joints.find((j) => j.id === joint)?.value ?? value
    this.stage.setTime(null)
    this.change({ hand: { joint, value: taken } })
  }

  /** Looks where the film looks. */
  film() {
    this.stage.setEye('shot')
    this.change({ eye: 'shot' })
  }

  /** Looks with an eye of one's own at some parts, or at all, from a named side. */
  look(view: string | null, nodes: readonly string[] = []) {
    const orientation = view
      ? this.core.ask('views').find((v) => v.name === view)!.orientation
      : this.stage.eyes.present().orientation
    const from = { ...this.stage.eyes.present(), orientation }
    this.stage.eyes.lookFrom(this.core.ask('fit', { nodes: [...nodes], from, aspect: this.aspect, margin: 0.15 }))
    this.stage.setEye('mine')
    this.change({ eye: 'mine' })
  }

  play() {
    if (this.now.playing) return
    this.change({ playing: true, time: this.now.time >= this.now.length ? 0 : this.now.time })
    this.last = performance.now()
    requestAnimationFrame(this.tick)
  }

  stop() {
    if (this.now.playing) this.change({ playing: false })
    this.stage.refine()
  }

  private tick = (at: number) => {
    if (!this.now.playing) return
    const time = this.now.time + Math.max(0, at - this.last) * (second / 1000)
    this.last = at
    this.go(time)
    if (time >= this.now.length) return this.stop()
    requestAnimationFrame(this.tick)
  }

  /** The step that runs, as an index of the reveal's; −1 for none. */
  step(): number {
    const at = this.now.steps.findLast((s) => s.start <= this.now.time)
    return at?.index ?? -1
  }

  /** The moment of the reveal at which most is apart, µs; 0 for none. */
  apart(): number {
    return this.told.apart[this.shown] ?? 0
  }

  reveal(): RevealDocument {
    return this.doc
  }

  /** The moment as a clock shows it, without the number of the frame. */
  clock(): string {
    return this.core.ask('timecode', { time: this.now.time }).split(' ')[0]!
  }
}
