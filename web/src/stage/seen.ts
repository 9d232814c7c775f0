import * as THREE from 'three'
import type { Vec3 } from '../core/core'
import type { Scene } from './scene'

const side = 15 // lines of sight across and up

// seenPoint is a point of a node that is seen from a camera, in the world: of those that are, the one in the midst of them. null
// where nothing of the node is seen.
export function seenPoint(scene: Scene, camera: THREE.Camera, node: string): Vec3 | null {
  const box = scene.targets.onScreen(camera, node)
  if (!box) return null
  const caster = new THREE.Raycaster()
  const meet = scene.targets.linesTo(node)
  const at = (i: number, from: number, to: number) => from + ((i + 0.5) / side) * (to - from)
  const seen: (Vec3 | null)[] = []
  for (let k = 0; k < side; k++) {
    for (let i = 0; i < side; i++) {
      caster.setFromCamera(new THREE.Vector2(at(i, box.min.x, box.max.x), at(k, box.min.y, box.max.y)), camera)
      seen.push(meet(caster))
    }
  }
  let best: Vec3 | null = null
  let most = 0
  seen.forEach((p, n) => {
    if (!p) return
    const inside = depth(seen, n % side, Math.floor(n / side))
    if (inside > most) {
      most = inside
      best = p
    }
  })
  return best
}

// depth is how far a place of the grid is from the next one at which the node is not seen, or from the border; of two alike the one nearer to the middle
// is deeper.
function depth(seen: readonly unknown[], x: number, y: number): number {
  let near = Math.min(x, y, side - 1 - x, side - 1 - y) + 1
  for (let k = 0; k < side; k++)
    for (let i = 0; i < side; i++) if (!seen[k * side + i]) near = Math.min(near, Math.hypot(i - x, k - y))
  return near - 0.01 * Math.hypot(x - (side - 1) / 2, y - (side - 1) / 2)
}
