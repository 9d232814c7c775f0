import * as THREE from 'three'
import type { Core } from '../core/core'
import { CachedPass } from './cachedpass'
import type { Scene } from './scene'

/** A camera, and how far away what it looks at is, mm. */
export interface Sight {
  camera: THREE.PerspectiveCamera
  away: number
}

/** What is marked over its own look: picked, under the pointer, touched by the selected step. */
export interface Marks {
  picked: ReadonlySet<string>
  over: string | null
  touched: ReadonlySet<string>
}

export const unmarked: Marks = { picked: new Set(), over: null, touched: new Set() }

const nothing: ReadonlySet<string> = new Set()

/** A place of the canvas, in pixels of the page, from its lower left corner. */
interface Place {
  x: number
  y: number
  w: number
  h: number
}

function rendererOf(canvas: HTMLCanvasElement): THREE.WebGLRenderer {
  const r = new THREE.WebGLRenderer({ canvas, antialias: true, stencil: true, preserveDrawingBuffer: true })
  r.outputColorSpace = THREE.LinearSRGBColorSpace // the shaders write display values
  r.autoClear = false
  // Asking whether a shader is right waits until it is compiled: the first picture would come later.
  r.debug.checkShaderErrors = import.meta.env.DEV
  return r
}

// Painter puts a scene onto a canvas: whole, coarsely, as the small picture of the shot, or as a portrait.
export class Painter {
  readonly renderer: THREE.WebGLRenderer
  private readonly watched = new CachedPass()
  private readonly rough = new CachedPass()

  constructor(
    canvas: HTMLCanvasElement,
    private readonly core: Core,
  ) {
    this.renderer = rendererOf(canvas)
  }

  size(): THREE.Vector2 {
    return this.renderer.getSize(new THREE.Vector2())
  }

  resize(width: number, height: number) {
    this.renderer.setPixelRatio(window.devicePixelRatio)
    this.renderer.setSize(width, height, false)
  }

  // compile has the shaders of a scene made ready, beside everything else where the browser can do that.
  async compile(scene: Scene, camera: THREE.Camera) {
    await this.renderer.compileAsync(scene.three, camera)
  }

  // forget lets the small picture of the shot be drawn anew.
  forget() {
    this.watched.valid = false
  }

  whole(scene: Scene, sight: Sight, marks: Marks, fine: boolean) {
    const size = this.size()
    const ratio = this.renderer.getPixelRatio()
    scene.mark(marks.picked, marks.over, marks.touched)
    this.prepare(scene, sight, size.x * ratio, size.y * ratio, ratio, fine)
    this.place({ x: 0, y: 0, w: size.x, h: size.y })
    this.renderer.clear()
    this.renderer.render(scene.three, sight.camera)
  }

  // sketch draws coarsely and at once: without edges, with half as many pixels each way.
  sketch(scene: Scene, sight: Sight, marks: Marks) {
    const size = this.size()
    const ratio = this.renderer.getPixelRatio() / 2
    scene.showEdges(0)
    scene.mark(marks.picked, marks.over, marks.touched)
    this.into(this.rough, scene, sight, Math.ceil(size.x * ratio), Math.ceil(size.y * ratio), ratio)
    this.show(this.rough, { x: 0, y: 0, w: size.x, h: size.y })
  }

  // watch draws the small picture of the shot. Looking around does not change what the reveal's camera sees:
  // unless it is fresh, the picture is laid down again. The stage lays the scene out as the film has it around the
  // drawing.
  watch(scene: Scene, sight: Sight, at: Place, fresh: boolean, around: (draw: () => void) => void) {
    const ratio = this.renderer.getPixelRatio()
    const { target } = this.watched
    if (fresh || !this.watched.valid || target.width !== at.w * ratio || target.height !== at.h * ratio) {
      around(() => {
        scene.mark(nothing, null, nothing)
        this.into(this.watched, scene, sight, at.w * ratio, at.h * ratio, ratio)
      })
      this.watched.valid = true
    }
    this.show(this.watched, at)
  }

  // portrait draws a scene once more, by itself, without marks and without how parts darken each other.
  portrait(scene: Scene, sight: Sight, width: number): { width: number; height: number; pixels: string } {
    const size = this.size()
    const height = Math.round((width * size.y) / size.x)
    const target = new THREE.WebGLRenderTarget(width, height, { samples: 4, stencilBuffer: true })
    scene.mark(nothing, null, nothing)
    scene.ruler.show(false)
    this.renderer.setRenderTarget(target)
    this.prepare(scene, sight, width, height, 1, false)
    this.renderer.clear()
    this.renderer.render(scene.three, sight.camera)
    const pixels = new Uint8Array(4 * width * height)
    this.renderer.readRenderTargetPixels(target, 0, 0, width, height, pixels)
    this.renderer.setRenderTarget(null)
    scene.ruler.show(true)
    target.dispose()
    let text = ''
    for (let at = 0; at < pixels.length; at += 8192) text += String.fromCharCode(...pixels.subarray(at, at + 8192))
    return { width, height, pixels: btoa(text) }
  }

  // onScreen calls back when what has been drawn until now is on the screen, every few milliseconds asking whether
  // anybody still waits for it.
  onScreen(wanted: () => boolean, done: () => void) {
    const gl = this.renderer.getContext() as WebGL2RenderingContext
    const sync = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0)
    gl.flush()
    const look = () => {
      const waits = wanted()
      if (waits && sync && gl.clientWaitSync(sync, 0, 0) === gl.TIMEOUT_EXPIRED) {
        setTimeout(look, 10)
        return
      }
      gl.deleteSync(sync)
      if (waits) done()
    }
    setTimeout(look)
  }

  private into(pass: CachedPass, scene: Scene, sight: Sight, w: number, h: number, ratio: number) {
    pass.target.setSize(w, h)
    this.renderer.setRenderTarget(pass.target)
    this.prepare(scene, sight, w, h, ratio, false)
    this.renderer.clear()
    this.renderer.render(scene.three, sight.camera)
    this.renderer.setRenderTarget(null)
  }

  private show(pass: CachedPass, at: Place) {
    this.place(at)
    this.renderer.render(pass.scene, pass.camera)
  }

  private place({ x, y, w, h }: Place) {
    this.renderer.setViewport(x, y, w, h)
    this.renderer.setScissor(x, y, w, h)
    this.renderer.setScissorTest(true)
  }

  private prepare(scene: Scene, { camera, away }: Sight, width: number, height: number, ratio: number, fine: boolean) {
    scene.prepare(camera, width, height, ratio, away)
    scene.occlude(this.renderer, camera, width, height, fine)
    const ahead = new THREE.Vector3(0, 0, -1).transformDirection(camera.matrixWorld)
    const parallel = camera.projectionMatrix.elements[15] === 1
    scene.sort((nodes) => this.core.order(nodes, camera.position.toArray(), ahead.toArray(), parallel))
  }

  dispose() {
    this.watched.dispose()
    this.rough.dispose()
    this.renderer.dispose()
    this.renderer.forceContextLoss()
  }
}
