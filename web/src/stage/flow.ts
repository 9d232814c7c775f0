// The strokes of flow lines, as the core gives them out.
import * as THREE from 'three'
import type { Vec3 } from '../core/core'

export class FlowLines extends THREE.LineSegments<THREE.BufferGeometry, THREE.LineBasicMaterial> {
  constructor(ink: Vec3) {
    const color = new THREE.Color().setRGB(...ink, THREE.LinearSRGBColorSpace)
    super(new THREE.BufferGeometry(), new THREE.LineBasicMaterial({ color }))
    this.frustumCulled = false
    this.matrixAutoUpdate = false
    this.geometry.setDrawRange(0, 0)
  }

  /** Draws strokes: both ends of each. */
  show(strokes: Float32Array) {
    const g = this.geometry
    const n = strokes.length / 3
    if (n === 0 && g.drawRange.count === 0) return
    if ((g.getAttribute('position')?.count ?? 0) < n) {
      g.dispose() // with the buffer that has become too short
      g.setAttribute('position', new THREE.BufferAttribute(new Float32Array(6 * n), 3))
    }
    const at = g.getAttribute('position') as THREE.BufferAttribute
    ;(at.array as Float32Array).set(strokes)
    at.needsUpdate = true
    g.setDrawRange(0, n)
  }
}
