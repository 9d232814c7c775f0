// Where a three.js camera stands and how it projects, by a camera of a reveal.
import * as THREE from 'three'
import type { Camera } from '../api/client'

export function place(camera: THREE.PerspectiveCamera, c: Camera) {
  camera.quaternion.fromArray(c.orientation as [number, number, number, number])
  camera.position.set(0, 0, c.distance).applyQuaternion(camera.quaternion).add(new THREE.Vector3().fromArray(c.target))
  camera.updateMatrix()
  camera.updateMatrixWorld(true)
}

// size is the assembly's diagonal, mm: what moves away stays in sight.
export function project(
  camera: THREE.PerspectiveCamera,
  across: number,
  up: number,
  target: THREE.Vector3,
  parallel: boolean,
  size: number,
) {
  const distance = Math.max(camera.position.distanceTo(target), size / 1000)
  const reach = distance * 12 + 4 * size
  if (parallel) {
    // what lies behind the eye is seen as well
    camera.near = -reach
    camera.far = reach
    camera.projectionMatrix.makeOrthographic(
      -across * distance,
      across * distance,
      up * distance,
      -up * distance,
      camera.near,
      camera.far,
    )
    camera.projectionMatrixInverse.copy(camera.projectionMatrix).invert()
    return
  }
  camera.near = distance / 50
  camera.far = reach
  camera.projectionMatrix.makePerspective(
    -across * camera.near,
    across * camera.near,
    up * camera.near,
    -up * camera.near,
    camera.near,
    camera.far,
  )
  camera.projectionMatrixInverse.copy(camera.projectionMatrix).invert()
}
