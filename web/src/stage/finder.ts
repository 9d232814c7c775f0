// What lines of sight find on the stage: parts under the pointer, behind it, in a box, and whether something lies between.
import * as THREE from 'three'
import type { Frame, Vec3 } from '../core/core'
import type { Eyes, Spot } from './eyes'
import type { Scene } from './scene'
import { seenPoint } from './seen'

/** What lies under the pointer: a part, and which triangle of its shape. */
export interface Hit {
  node: string
  triangle: number
  /** Where it was hit, in the world, mm, and how far away that is. */
  point: Vec3
  distance: number
}

export class Finder {
  private readonly caster = new THREE.Raycaster()
  private pointer: Spot | null = null // where it has been last

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly eyes: Eyes,
    private readonly scene: () => Scene | null,
    private readonly now: () => Frame,
  ) {}

  private hits(e: Spot): Hit[] {
    this.caster.ray.copy(this.eyes.ray(e))
    this.caster.firstHitOnly = true
    return this.scene()?.targets.pick(this.caster) ?? []
  }

  /** The nearest thing at a place of the page. */
  at(e: Spot): Hit | null {
    return this.hits(e)[0] ?? null
  }

  /** The nearest thing under the pointer, whose place is remembered. */
  under(e: PointerEvent): Hit | null {
    this.pointer = { clientX: e.clientX, clientY: e.clientY }
    return this.at(this.pointer)
  }

  /** The next part behind the one that is picked, on the line of sight through the pointer. */
  behind(picked: ReadonlySet<string>): Hit | null {
    if (!this.pointer) return null
    const hits = this.hits(this.pointer)
    const at = hits.findIndex((h) => picked.has(h.node))
    return hits[(at + 1) % hits.length] ?? null
  }

  /** Whether something solid that is not the node's lies clearly before a point of it. */
  hides(node: string, at: Vec3, slack: number, slackOf: number): boolean {
    const { camera } = this.eyes.sight()
    const point = new THREE.Vector3(...at)
    return this.scene()?.targets.solidBefore(this.caster, camera, node, point, slack, slackOf) ?? false
  }

  /** A point of a node that the shot at the playhead sees, in the node's own frame, mm; null where it sees nothing of it. */
  seen(node: string): Vec3 | null {
    const scene = this.scene()
    const index = scene?.indexOf(node) ?? -1
    const at = index < 0 ? null : seenPoint(scene!, this.eyes.shot, node)
    return (
      at &&
      new THREE.Vector3(...at)
        .applyMatrix4(new THREE.Matrix4().fromArray(this.now().matrices, 16 * index).invert())
        .toArray()
    )
  }

  /** The parts whose middles are seen in a box of the canvas, in pixels. */
  inBox(left: number, top: number, right: number, bottom: number): string[] {
    const r = this.canvas.getBoundingClientRect()
    return (
      this.scene()?.targets.within(
        this.eyes.sight().camera,
        (left / r.width) * 2 - 1,
        1 - (bottom / r.height) * 2,
        (right / r.width) * 2 - 1,
        1 - (top / r.height) * 2,
      ) ?? []
    )
  }
}
