// What lines of sight find: the parts where the stage shows them.
import * as THREE from 'three'
import type { Vec3 } from '../core/core'
import type { Member } from './batch'
import type { Shape } from './geometry'
import { pickable } from './geometry'
import type { Shared } from './look'
import type { Hit } from './finder'

/** A part that can be found. */
export interface Findable extends Member {
  id: string
  shape: Shape
  target: THREE.Mesh // what rays find; it is not drawn
}

/** findable makes what rays find of a shape. */
export function findable(shape: Shape): THREE.Mesh {
  const target = new THREE.Mesh(shape.surface)
  target.matrixAutoUpdate = false
  pickable(target)
  return target
}

export class Targets {
  private readonly byMesh: Map<THREE.Object3D, Findable>
  private readonly meshes: THREE.Mesh[]
  private aimed = false

  /** pose puts a part's target where the part is drawn; below tells what belongs to a node, by the index of nodes. */
  constructor(
    private readonly parts: readonly Findable[],
    private readonly pose: (p: Findable) => void,
    private readonly below: (node: string) => boolean[],
    private readonly cut: Shared['cut'],
  ) {
    this.byMesh = new Map(parts.map((p) => [p.target, p]))
    this.meshes = parts.map((p) => p.target)
  }

  // moved says that parts are elsewhere. Where, is asked when something is to be found: while ten thousand parts move
  // nobody points at them.
  moved() {
    this.aimed = false
  }

  private aim() {
    if (this.aimed) return
    this.aimed = true
    for (const p of this.parts) {
      p.target.visible = p.drawn !== 'not'
      if (p.drawn !== 'not') this.pose(p)
    }
  }

  private isCutAway(at: THREE.Vector3): boolean {
    const { plane, on } = this.cut.value
    return on && plane.x * at.x + plane.y * at.y + plane.z * at.z > plane.w
  }

  private hits(caster: THREE.Raycaster): THREE.Intersection[] {
    this.aim()
    caster.firstHitOnly = !this.cut.value.on
    return caster.intersectObjects(this.meshes, false)
  }

  // pick gives the parts on a line of sight, the nearest first. What the section
  // has cut away is not there.
  pick(caster: THREE.Raycaster): Hit[] {
    const seen = new Set<string>()
    const hits: Hit[] = []
    for (const h of this.hits(caster)) {
      const node = this.byMesh.get(h.object)?.id
      if (!node || seen.has(node) || this.isCutAway(h.point)) continue
      seen.add(node)
      hits.push({ node, triangle: h.faceIndex ?? -1, point: h.point.toArray(), distance: h.distance })
    }
    return hits
  }

  // solidBefore reports whether something solid that is not a node's lies before a point, as a camera sees it: nearer
  // by more than the slack, in mm and as a share of the distance.
  solidBefore(
    caster: THREE.Raycaster,
    camera: THREE.Camera,
    node: string,
    at: THREE.Vector3,
    slack: number,
    slackOf: number,
  ): boolean {
    const { x, y } = at.clone().project(camera)
    caster.setFromCamera(new THREE.Vector2(x, y), camera)
    const far = at.sub(caster.ray.origin).dot(caster.ray.direction)
    const distance = far - slack - slackOf * far
    const own = this.below(node)
    const solid = (h: THREE.Intersection) => {
      const part = this.byMesh.get(h.object)!
      return part.drawn === 'solid' && !own[part.node]
    }
    return this.hits(caster).some((h) => h.distance < distance && solid(h) && !this.isCutAway(h.point))
  }

  // onScreen is where a node is seen at most, −1…1; null where it is outside of the picture.
  onScreen(camera: THREE.Camera, node: string): THREE.Box2 | null {
    this.aim()
    const box = new THREE.Box2()
    const at = new THREE.Vector3()
    const own = this.below(node)
    for (const p of this.parts) {
      if (!own[p.node] || !p.target.visible) continue
      const { min, max } = boundsOf(p.shape)
      for (let i = 0; i < 8; i++) {
        at.set(i & 1 ? max.x : min.x, i & 2 ? max.y : min.y, i & 4 ? max.z : min.z)
          .applyMatrix4(p.target.matrixWorld)
          .project(camera)
        if (Math.abs(at.z) <= 1) box.expandByPoint(new THREE.Vector2(at.x, at.y))
      }
    }
    box.intersect(new THREE.Box2(new THREE.Vector2(-0.98, -0.98), new THREE.Vector2(0.98, 0.98)))
    return box.isEmpty() ? null : box
  }

  // linesTo tells where lines of sight meet a node first, unless something else that is solid lies before.
  linesTo(node: string): (caster: THREE.Raycaster) => Vec3 | null {
    this.aim()
    const own = this.below(node)
    const targets = this.parts
      .filter((p) => p.drawn === 'solid' || (p.drawn === 'clear' && own[p.node]))
      .map((p) => p.target)
    return (caster) => {
      caster.firstHitOnly = true
      const first = caster.intersectObjects(targets, false)[0]
      return first && own[this.byMesh.get(first.object)!.node] ? first.point.toArray() : null
    }
  }

  // within gives the parts whose middles lie in a box of the picture, −1…1.
  within(camera: THREE.Camera, left: number, bottom: number, right: number, top: number): string[] {
    this.aim()
    const at = new THREE.Vector3()
    return this.parts.flatMap((p) => {
      if (!p.target.visible) return []
      boundsOf(p.shape).getCenter(at).applyMatrix4(p.target.matrixWorld).project(camera)
      return at.x >= left && at.x <= right && at.y >= bottom && at.y <= top && Math.abs(at.z) <= 1 ? [p.id] : []
    })
  }
}

function boundsOf({ surface }: Shape): THREE.Box3 {
  if (!surface.boundingBox) surface.computeBoundingBox()
  return surface.boundingBox!
}
