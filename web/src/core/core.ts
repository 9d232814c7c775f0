// The core, compiled from Go to WebAssembly. Everything that is computed about
// the job is computed there; this file only carries bytes to and fro.
import './wasm_exec.js' // comes with Go and defines the class Go
import wasm from './core.wasm?url'
import { packed } from './packed'
import type { Bar, Camera, Command, RevealDocument, Schedule, Schemas, Step } from '../api/client'

export type Look = Schemas['Look']
export type View = Schemas['View']
export type Vec3 = [number, number, number]

/** What the core says of the document: all of it, or, where only bars have moved,
 * these and the steps that they are in. */
export interface State {
  reveal?: RevealDocument
  schedule?: Schedule
  bars?: { index: number; bar: Bar }[]
  steps?: { index: number; step: Step; span: Schedule['steps'][number] }[]
  inverse?: Command
  /** What “do” has done altogether, where it was more than the command. */
  command?: Command
  /** Steps that have become longer by it. */
  grown?: number[]
}

export interface Way {
  label: string
  axes: 'own' | 'parent' | 'assembly' | 'other'
  /** The node whose axes they are, where these are another's. */
  of?: string
  along: Vec3
  world: Vec3
  /** The pivot of a turn, where it is not the middle of the picked part. */
  pivot?: Vec3
}

export interface Ways {
  ways: Way[] | null
  centre: Vec3
  pivot: Vec3
  distance: number
  thread?: { size: string; along: Vec3; pivot: Vec3; lead: number; turns: number; sure: number }
}

export interface PlacedFeature {
  node: string
  feature: Schemas['Feature']
}

/** How the moves of a plan become steps. */
export interface Writing {
  moves?: number[]
  fineness?: 'each' | 'usual' | 'few'
  /** Moves, by their first node, that go into the step before, or begin one. */
  join?: string[]
  split?: string[]
  pace?: number
  noShots?: boolean
  noFlow?: boolean
  allAtOnce?: '' | 'together' | 'layers'
  length?: number
  fresh: string
}

/** Moves of a plan as steps to insert, and which moves are in each. */
export interface Written {
  command: Command
  steps: (number[] | null)[]
}

/** A note in the frame: shares of its width and height from the upper left. */
export interface Note {
  lines: string[]
  anchorX: number
  anchorY: number
  x: number
  y: number
  width: number
  height: number
  opacity: number
  /** What it points at, in the world, mm. */
  at: Vec3
  node: string
}

/** A paragraph or an entry of a list. */
export interface Block {
  item?: boolean
  runs: { text: string; strong?: boolean; emphasis?: boolean }[]
}

/** A text over the whole picture. */
export interface Card {
  title: string
  text?: string
  clear?: boolean
  opacity: number
}

/** Sizes of words, in shares of the frame's unit, and their places in it. */
export interface Lettering {
  title: number
  titleLead: number
  text: number
  textLead: number
  column: number
  safe: number
  cardTitle: number
  cardText: number
  cardAt: number
  cardColumn: number
  ground: number
  groundAlpha: number
  tools: number
  toolsLead: number
  lines: number
  note: number
  noteLead: number
  noteAside: number
  noteAbove: number
  noteAlpha: number
  noteDot: number
  noteSlack: number
  noteSlackOf: number
}

/** How a signal word is set: display values, 0 to 1. */
export interface Sign {
  panel: Vec3
  letters: Vec3
  alert?: boolean
}

export interface Said {
  step: number
  opacity: number
}

export interface Relation {
  distance: number
  degrees: number
  meet: boolean
  from: Vec3
  to: Vec3
}

export interface Thread {
  name: string
  diameter: number
  lead: number
}

export interface Place {
  step: number
  offset: number
}

export interface Ground {
  centre: Vec3
  side: number
}

export interface Spread {
  along: Vec3
  pulls: { node: string; distance: number }[]
}

export type PickRule = 'like' | 'fasteners' | 'neighbours' | 'inside'

export type Quantity = 'length' | 'angle' | 'time' | 'percent' | 'plain'

type Question =
  | { ask: 'measure'; quantity: Quantity; text: string }
  | { ask: 'adjust'; quantity: Quantity; text: string; values: number[] }
  | { ask: 'look' }
  | { ask: 'noise' }
  | { ask: 'views' }
  | { ask: 'bounds' }
  | { ask: 'field'; lens: number; aspect: number }
  | { ask: 'snap'; time: number }
  | { ask: 'timecode'; time: number }
  | { ask: 'digest'; time: number }
  | { ask: 'ways'; nodes: string[] }
  | { ask: 'threads' }
  | { ask: 'finishes' }
  | { ask: 'planned'; plan: Schemas['Plan'] | null; time: number; writing: Writing }
  | { ask: 'lettering' }
  | { ask: 'signals' }
  | { ask: 'caption'; time: number }
  | { ask: 'captions' }
  | { ask: 'prose'; text: string }
  | { ask: 'plain'; text: string }
  | { ask: 'cards'; time: number }
  | { ask: 'openHere'; time: number }
  | { ask: 'reference'; features: [{ node: string; feature?: Schemas['Feature'] }]; nodes: string[] }
  | { ask: 'edgeAt'; node: string; lines: Schemas['Feature'][]; point: Vec3; distance: number }
  | { ask: 'easing'; easing: Schemas['Cue']['easing'] }
  | { ask: 'compose'; wish: Schemas['Wish'] }
  | { ask: 'spread'; nodes: string[]; along: Vec3; distance: number; peel: boolean; gap: boolean }
  | { ask: 'notes'; time: number; camera?: Camera }
  | { ask: 'between'; features: [PlacedFeature, PlacedFeature] }
  | { ask: 'pick'; rule: PickRule; nodes: string[] }
  | { ask: 'reach'; cue: string; time: number }
  | { ask: 'drag'; point: Vec3; along: Vec3; ray: [Vec3, Vec3] }
  | { ask: 'shadow' }
  | { ask: 'place'; time: number }
  | { ask: 'frames'; time: number; rate: number }
  | {
      ask: 'fit'
      nodes: string[]
      orientation: number[]
      lens: number
      parallel?: boolean
      aspect: number
      margin: number
    }

interface Exports {
  mem: WebAssembly.Memory
  reserve(n: number): number
  answer(): number
  openAssembly(): number
  tidy(): void
  openReveal(): number
  openSurvey(): number
  closeAll(): void
  apply(): number
  do(): number
  preview(): number
  settle(): number
  shape(aspect: number): number
  ask(): number
  at(micros: number): void
  atRest(): void
  matrices(): number
  opacities(): number
  tints(): number
  surfaces(): number
  flow(): number
  flowLength(): number
  altered(): number
  alteredLength(): number
  version(): number
  dark(): number
  camera(): number
  order(x: number, y: number, z: number, aheadX: number, aheadY: number, aheadZ: number, parallel: number): number
}

declare global {
  var Go: new () => { importObject: WebAssembly.Imports; run(i: WebAssembly.Instance): Promise<void> }
}

const encoder = new TextEncoder()
const decoder = new TextDecoder()

// The order of the numbers in the module's camera (core/desk).
const fields = 14

export interface Frame {
  matrices: Float32Array
  opacities: Float32Array
  /** Colour and amount, 4 a node. */
  tints: Float32Array
  /** Paper, faces and edges, 3 a node. */
  surfaces: Float32Array
  /** Both ends of a stroke, 6 each, of all flow lines. */
  flow: Float32Array
  camera: Camera
  /** Frames of the same number look the same. */
  version: number
  /** The nodes that are otherwise than in the frame of the number before. */
  altered: Int32Array
  step: number
  across: number
  up: number
}

export class Core {
  private nodes = 0
  private constructor(private readonly x: Exports) {}

  static async load(): Promise<Core> {
    const go = new Go()
    const reply = await fetch(wasm)
    if (!reply.ok) throw new Error('The core (core.wasm) is not there: build the application again with “make build”.')
    const { instance } = await WebAssembly.instantiateStreaming(reply, go.importObject)
    void go.run(instance)
    return new Core(instance.exports as unknown as Exports)
  }

  private send(what: string | Uint8Array) {
    const bytes = typeof what === 'string' ? encoder.encode(what) : what
    const at = this.x.reserve(bytes.length)
    new Uint8Array(this.x.mem.buffer, at, bytes.length).set(bytes)
  }

  private receive<T>(length: number): T {
    const text = decoder.decode(new Uint8Array(this.x.mem.buffer, this.x.answer(), Math.abs(length)))
    if (length < 0) throw new Error(text)
    return JSON.parse(text) as T
  }

  openAssembly(assembly: Parameters<typeof packed>[0]) {
    const begun = performance.now()
    this.send(packed(assembly))
    this.receive(this.x.openAssembly())
    setTimeout(() => this.x.tidy())
    performance.mark('assembly opened', { detail: performance.now() - begun })
    this.nodes = assembly.nodes.length
  }

  /** Takes everything off and gives its memory back, for what is opened next. */
  close() {
    this.x.closeAll()
    this.nodes = 0
  }

  /** Bytes of the module's memory: they never become fewer. */
  memory(): number {
    return this.x.mem.buffer.byteLength
  }

  openSurvey(survey: unknown) {
    this.send(JSON.stringify(survey))
    this.receive(this.x.openSurvey())
  }

  openReveal(document: unknown): State {
    this.send(JSON.stringify(document))
    return this.receive(this.x.openReveal())
  }

  apply(command: Command): State {
    this.send(JSON.stringify(command))
    return this.receive(this.x.apply())
  }

  /** Applies what a hand does: steps grow with what is put into them. */
  do(command: Command): State {
    this.send(JSON.stringify(command))
    return this.receive(this.x.do())
  }

  preview(command: Command): State {
    this.send(JSON.stringify(command))
    return this.receive(this.x.preview())
  }

  settle(): State {
    return this.receive(this.x.settle())
  }

  /** Lays the film out for frames of another shape, width over height; 0 is the reveal's own. */
  shape(aspect: number) {
    this.receive(this.x.shape(aspect))
  }

  /** Nodes, by number, in the order in which an eye sees them, the farthest first. */
  order(nodes: readonly number[], at: Vec3, ahead: Vec3, parallel: boolean): readonly number[] {
    const place = this.x.reserve(4 * nodes.length)
    new Int32Array(this.x.mem.buffer, place, nodes.length).set(nodes)
    if (!this.x.order(...at, ...ahead, Number(parallel))) return nodes
    return Array.from(new Int32Array(this.x.mem.buffer, place, nodes.length))
  }

  ask<T>(question: Question): T {
    this.send(JSON.stringify(question))
    return this.receive(this.x.ask())
  }

  // at evaluates the film. The arrays are the module's own memory: they are
  // valid until the next call into the core.
  at(micros: number): Frame {
    this.x.at(micros)
    return this.frame()
  }

  /** The contact shadow of the last frame. Finding it takes no memory, so that the frame stays where it is. */
  dark(): Float32Array {
    const place = this.x.dark()
    return new Float32Array(this.x.mem.buffer, place, 96 * 96)
  }

  // atRest is the assembly as it was imported.
  atRest(): Frame {
    this.x.atRest()
    return this.frame()
  }

  private frame(): Frame {
    const memory = this.x.mem.buffer
    const c = new Float64Array(memory, this.x.camera(), fields)
    return {
      matrices: new Float32Array(memory, this.x.matrices(), 16 * this.nodes),
      opacities: new Float32Array(memory, this.x.opacities(), this.nodes),
      tints: new Float32Array(memory, this.x.tints(), 4 * this.nodes),
      surfaces: new Float32Array(memory, this.x.surfaces(), 3 * this.nodes),
      flow: new Float32Array(memory, this.x.flow(), this.x.flowLength()),
      version: this.x.version(),
      altered: new Int32Array(memory, this.x.altered(), this.x.alteredLength()),
      camera: {
        target: [c[0], c[1], c[2]],
        orientation: [c[3], c[4], c[5], c[6]],
        distance: c[7],
        lens: c[8],
        ...(c[13] === 1 && { parallel: true }),
      },
      step: c[9],
      across: c[11],
      up: c[12],
    }
  }
}
