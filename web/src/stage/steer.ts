import * as THREE from 'three'

const turn = Math.PI / 18 // that an arrow turns
const shift = 0.05 // of the distance, that an arrow shifts
const nearer = 1.15

// steered moves an eye by a key: arrows turn it about what it looks at, with Shift they shift both, + and − come
// nearer and go farther. It returns false for other keys.
export function steered(eye: THREE.Camera, target: THREE.Vector3, key: string, shifts: boolean): boolean {
  const across = { ArrowLeft: -1, ArrowRight: 1 }[key] ?? 0
  const up = { ArrowUp: 1, ArrowDown: -1 }[key] ?? 0
  const near = { '+': 1, '=': 1, '-': -1, _: -1 }[key] ?? 0
  if (across === 0 && up === 0 && near === 0) return false
  const from = eye.position.clone().sub(target)
  if (near !== 0) from.multiplyScalar(near > 0 ? 1 / nearer : nearer)
  else if (shifts)
    target.add(new THREE.Vector3(across, up, 0).multiplyScalar(from.length() * shift).applyQuaternion(eye.quaternion))
  else {
    const s = new THREE.Spherical().setFromVector3(from)
    s.theta += across * turn
    s.phi -= up * turn
    from.setFromSpherical(s.makeSafe())
  }
  eye.position.copy(target).add(from)
  return true
}

/** Whether a key steers. */
export const steers = (key: string) =>
  ['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown', '+', '=', '-', '_'].includes(key)
