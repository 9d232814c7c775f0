// The line of a measurement, over everything.
import * as THREE from 'three'
import type { Vec3 } from '../core/core'

export class Ruler {
  private line: THREE.Line<THREE.BufferGeometry, THREE.LineBasicMaterial> | null = null

  constructor(private readonly scene: THREE.Scene) {}

  /** Draws a line between two points of the world, or none. */
  measure(between: [Vec3, Vec3] | null) {
    if (this.line) {
      this.scene.remove(this.line)
      this.line.geometry.dispose()
      this.line.material.dispose()
      this.line = null
    }
    if (!between) return
    this.line = new THREE.Line(
      new THREE.BufferGeometry().setFromPoints(between.map((p) => new THREE.Vector3(...p))),
      new THREE.LineBasicMaterial({ color: 0xd8432b, depthTest: false, transparent: true }),
    )
    this.line.renderOrder = 5
    this.scene.add(this.line)
  }

  /** Shows the line, or hides it for a picture without marks. */
  show(shown: boolean) {
    if (this.line) this.line.visible = shown
  }
}
