// The core, compiled from Go to WebAssembly. Everything that is computed about
// the job is computed there; this file only carries bytes to and fro.
import './wasm_exec.js' // comes with Go and defines the class Go
import wasm from './core.wasm?url'
import { packed } from './packed'
import type { Camera, Command, Schemas } from '../api/client'
import { layout, type Queries, type State, type Vec3 } from './core.gen'

export type Look = Schemas['Look']
export type View = Schemas['View']

export * from './core.gen'
export type Quantity = Queries['quantity']['with']['kind']
export type PickRule = Queries['pick']['with']['rule']

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
  variant(): number
  ask(): number
  at(micros: number): void
  atRest(): void
  tryJoint(value: number): number
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
    const reply = await fetch(wasm)
    if (!reply.ok) throw new Error('The core (core.wasm) is not there: build the application again with “make build”.')
    return Core.start((imports) => WebAssembly.instantiateStreaming(reply, imports))
  }

  /** Starts the core from a module that was brought along: it is translated while it is unpacked. */
  static of(module: Response): Promise<Core> {
    const typed = new Response(module.body, { headers: { 'Content-Type': 'application/wasm' } })
    return Core.start((imports) => WebAssembly.instantiateStreaming(typed, imports))
  }

  private static async start(
    make: (imports: WebAssembly.Imports) => Promise<WebAssembly.WebAssemblyInstantiatedSource>,
  ): Promise<Core> {
    const go = new Go()
    const { instance } = await make(go.importObject)
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

  /** Shows the product as a variant has it, or all of it; the open reveal stays as it is. */
  variant(id: string): State {
    this.send(id)
    return this.receive(this.x.variant())
  }

  /** Nodes, by number, in the order in which an eye sees them, the farthest first. */
  order(nodes: readonly number[], at: Vec3, ahead: Vec3, parallel: boolean): readonly number[] {
    const place = this.x.reserve(4 * nodes.length)
    new Int32Array(this.x.mem.buffer, place, nodes.length).set(nodes)
    if (!this.x.order(...at, ...ahead, Number(parallel))) return nodes
    return Array.from(new Int32Array(this.x.mem.buffer, place, nodes.length))
  }

  /** Asks for something; nothing on the stage moves by it. */
  ask<Name extends keyof Queries>(
    name: Name,
    ...[what]: Queries[Name]['with'] extends null ? [] : [Queries[Name]['with']]
  ): Queries[Name]['answer'] {
    this.send(JSON.stringify({ ask: name, with: what }))
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
    return new Float32Array(this.x.mem.buffer, place, layout.shadow ** 2)
  }

  // atRest is the assembly as it was imported.
  atRest(): Frame {
    this.x.atRest()
    return this.frame()
  }

  /** Sets a joint of the assembly at rest to a value; without a joint everything goes back. */
  tryJoint(joint: string | null, value: number) {
    this.send(joint ?? '')
    this.receive(this.x.tryJoint(value))
  }

  private frame(): Frame {
    const memory = this.x.mem.buffer
    const at = layout.camera
    const c = new Float64Array(memory, this.x.camera(), layout.camera.numbers)
    return {
      matrices: new Float32Array(memory, this.x.matrices(), layout.matrix * this.nodes),
      opacities: new Float32Array(memory, this.x.opacities(), this.nodes),
      tints: new Float32Array(memory, this.x.tints(), layout.tint * this.nodes),
      surfaces: new Float32Array(memory, this.x.surfaces(), layout.surface * this.nodes),
      flow: new Float32Array(memory, this.x.flow(), this.x.flowLength()),
      version: this.x.version(),
      altered: new Int32Array(memory, this.x.altered(), this.x.alteredLength()),
      camera: {
        target: [...c.subarray(at.target, at.target + 3)],
        orientation: [...c.subarray(at.orientation, at.orientation + 4)],
        distance: c[at.distance]!,
        focalLength: c[at.focalLength]!,
        ...(c[at.orthographic] === 1 && { orthographic: true }),
      },
      step: c[at.step]!,
      across: c[at.field]!,
      up: c[at.field + 1]!,
    }
  }
}
