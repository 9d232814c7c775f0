// The two eyes of a stage: the author's own, turned by hand, and the shot's, which the reveal directs.
import * as THREE from 'three'
import { OrbitControls } from 'three/addons/controls/OrbitControls.js'
import type { Camera } from '../api/client'
import type { Core, Vec3 } from '../core/core'
import type { Sight } from './painter'
import { place, project } from './projection'
import { steered, steers } from './steer'

export type Eye = 'mine' | 'shot'

/** What a stage hears of its eyes. */
export interface EyesHeard {
  /** The author's own eye has moved by hand. */
  moved(): void
  /** It stands or sees otherwise. */
  changed(): void
  /** The author looks around while looking through the shot, which has to be left. */
  left(): void
}

/** What the core says of the shot at the playhead. */
interface Directed {
  camera: Camera
  across: number
  up: number
}

/** A place of the page. */
export interface Spot {
  clientX: number
  clientY: number
}

export class Eyes {
  readonly own = new THREE.PerspectiveCamera()
  readonly shot = new THREE.PerspectiveCamera()
  /** Which of them the stage is seen with. */
  open: Eye = 'mine'
  private readonly controls: OrbitControls
  private lens = 50
  private parallel = false // of the author's eye
  private directed: Camera | null = null
  private aspect = 16 / 9
  private size = 500 // the assembly's diagonal, mm

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly core: Core,
    private readonly heard: EyesHeard,
  ) {
    this.shot.matrixAutoUpdate = false // the controls ask where the author's eye is in the middle of moving it
    this.controls = new OrbitControls(this.own, canvas)
    this.controls.zoomToCursor = true
    this.controls.rotateSpeed = 0.8
    this.controls.addEventListener('change', () => {
      this.own.updateMatrix()
      this.own.updateMatrixWorld(true)
      this.setLens()
      heard.moved()
    })
    this.controls.addEventListener('start', () => this.leaveShot())
  }

  private camera() {
    return this.open === 'mine' ? this.own : this.shot
  }

  /** What is looked with. */
  sight(): Sight {
    return this.open === 'mine'
      ? { camera: this.own, away: this.own.position.distanceTo(this.controls.target) }
      : this.shotSight()
  }

  shotSight(): Sight {
    return { camera: this.shot, away: this.directed?.distance ?? 1 }
  }

  /** Has the shot's eye stand where the reveal directs it. */
  direct(d: Directed) {
    place(this.shot, d.camera)
    const target = new THREE.Vector3().fromArray(d.camera.target)
    project(this.shot, d.across, d.up, target, d.camera.orthographic ?? false, this.size)
    this.directed = d.camera
  }

  // Turning the view while looking through the shot means to look around: the
  // author's own eye takes over from there, and nothing is recorded.
  private leaveShot() {
    if (this.open !== 'shot') return
    if (this.directed) this.lookFrom(this.directed)
    this.open = 'mine'
    this.heard.left()
  }

  /** Turns the view about what it looks at, shifts it or comes nearer, by a key; false for other keys. */
  steer(key: string, shift: boolean): boolean {
    if (!steers(key)) return false
    this.leaveShot()
    steered(this.own, this.controls.target, key, shift)
    this.controls.update()
    return true
  }

  /** The author's eye as a camera of a reveal. */
  present(): Camera {
    const t = this.controls.target
    return {
      target: [t.x, t.y, t.z],
      orientation: this.orientation(),
      distance: this.own.position.distanceTo(t),
      focalLength: this.lens,
      ...(this.parallel && { orthographic: true }),
    }
  }

  orientation(): [number, number, number, number] {
    const q = this.own.quaternion
    return [q.x, q.y, q.z, q.w]
  }

  /** Puts the author's eye where a camera is. */
  lookFrom(c: Camera) {
    this.lens = c.focalLength
    this.parallel = c.orthographic ?? false
    place(this.own, c)
    this.controls.target.fromArray(c.target)
    this.controls.update()
    this.setLens()
    this.heard.changed()
  }

  /** Changes how the author's eye projects. */
  setParallel(on: boolean) {
    this.parallel = on
    this.setLens()
    this.heard.changed()
  }

  isParallel() {
    return this.parallel
  }

  /** Takes the shape of the frame, width over height. */
  setAspect(aspect: number) {
    this.aspect = aspect
    this.setLens()
  }

  /** Takes the diagonal of what stands on the stage, mm. */
  setSize(size: number) {
    this.size = size
    this.setLens()
  }

  /** How wide the frame is for its height. */
  get shape() {
    return this.aspect
  }

  private setLens() {
    const [across, up] = this.core.ask('field', { focalLength: this.lens, aspect: this.aspect })
    project(this.own, across, up, this.controls.target, this.parallel, this.size)
  }

  // ray is the line of sight through a place of the page, in the world.
  ray(e: Spot): THREE.Ray {
    const r = this.canvas.getBoundingClientRect()
    const x = ((e.clientX - r.left) / r.width) * 2 - 1
    const y = 1 - ((e.clientY - r.top) / r.height) * 2
    const from = new THREE.Vector3(x, y, -1).unproject(this.camera())
    return new THREE.Ray(from, new THREE.Vector3(x, y, 1).unproject(this.camera()).sub(from).normalize())
  }

  /** The line of sight through a place of the page, in the world: its origin and direction. */
  sightline(e: Spot): [Vec3, Vec3] {
    const { origin, direction } = this.ray(e)
    return [origin.toArray(), direction.toArray()]
  }

  /** Where a point of the world is seen, in pixels of a canvas of a size; null behind the eye. */
  place(p: Vec3, size: { x: number; y: number }): [number, number] | null {
    const camera = this.camera()
    const v = new THREE.Vector3(...p)
    if (camera.projectionMatrix.elements[15] === 0 && v.clone().applyMatrix4(camera.matrixWorldInverse).z > -1)
      return null
    v.project(camera)
    return [((v.x + 1) / 2) * size.x, ((1 - v.y) / 2) * size.y]
  }

  dispose() {
    this.controls.dispose()
  }
}
