// Parts that share a shape and its finishes are drawn together: one call for
// all of their surfaces of one finish, one for all of their edges.
import * as THREE from 'three'
import type { Finish } from '../api/client'
import type { Shape } from './geometry'
import { edgeMaterial, surfaceMaterial, type Shared } from './look'
import { solidLayer } from './occlusion'

/** What all batches are drawn with. */
export class Materials {
  readonly worn: THREE.ShaderMaterial
  readonly edge: THREE.ShaderMaterial

  constructor(readonly uniforms: Shared) {
    this.worn = surfaceMaterial(uniforms, null, true)
    this.edge = edgeMaterial(uniforms)
  }

  dispose() {
    this.worn.dispose()
    this.edge.dispose()
  }
}

export class Batch {
  readonly nodes: number[] = []
  /** Whether the finishes themselves are see-through. */
  readonly clear: boolean
  private readonly surface: THREE.InstancedMesh
  private readonly lines: THREE.InstancedMesh
  private readonly marks: THREE.InstancedBufferAttribute
  private readonly tints: THREE.InstancedBufferAttribute
  private shown: number[] = []

  constructor(private readonly materials: Materials, shape: Shape, finishes: readonly Finish[], nodes: readonly number[]) {
    this.nodes.push(...nodes)
    this.clear = finishes.some((f) => f.opacity < 1)
    const n = nodes.length
    this.marks = new THREE.InstancedBufferAttribute(new Float32Array(n), 1)
    this.tints = new THREE.InstancedBufferAttribute(new Float32Array(4 * n), 4)
    this.marks.setUsage(THREE.DynamicDrawUsage)
    this.tints.setUsage(THREE.DynamicDrawUsage)
    // A shape of one finish needs no material of its own.
    const plain = finishes.length === 1
    const surface = this.own(shape.surface)
    if (plain) {
      surface.clearGroups()
      const { colour, metalness, roughness } = finishes[0]!
      surface.setAttribute('instanceBase', repeated(colour, n))
      surface.setAttribute('instanceWear', repeated([metalness, roughness], n))
    }
    this.surface = new THREE.InstancedMesh(surface, plain ? materials.worn : finishes.map((f) => surfaceMaterial(materials.uniforms, f, true)), n)
    this.lines = new THREE.InstancedMesh(this.own(shape.strokes()), materials.edge, n)
    this.surface.layers.enable(solidLayer)
    for (const m of this.meshes) {
      m.frustumCulled = false // the boxes of instances are the core's business
      m.matrixAutoUpdate = false
      m.instanceMatrix.setUsage(THREE.DynamicDrawUsage)
    }
    this.lines.instanceMatrix = this.surface.instanceMatrix
  }

  get meshes(): [THREE.InstancedMesh, THREE.InstancedMesh] {
    return [this.surface, this.lines]
  }

  // own shares a geometry's arrays and adds the marks of this batch.
  private own(g: THREE.BufferGeometry): THREE.BufferGeometry {
    const copy = new THREE.BufferGeometry()
    for (const name of Object.keys(g.attributes)) copy.setAttribute(name, g.getAttribute(name))
    copy.setIndex(g.index)
    for (const x of g.groups) copy.addGroup(x.start, x.count, x.materialIndex)
    copy.setAttribute('instanceMarked', this.marks)
    copy.setAttribute('instanceTint', this.tints)
    return copy
  }

  // show draws the given nodes, which are of this batch, where the matrices have
  // them.
  show(nodes: number[], matrices: Float32Array, tints: Float32Array) {
    this.shown = nodes
    const to = this.surface.instanceMatrix.array
    nodes.forEach((node, k) => {
      for (let i = 0; i < 16; i++) to[16 * k + i] = matrices[16 * node + i]!
      for (let i = 0; i < 4; i++) this.tints.array[4 * k + i] = tints[4 * node + i]!
    })
    this.tints.needsUpdate = true
    this.surface.instanceMatrix.needsUpdate = true
    for (const m of this.meshes) {
      m.count = nodes.length
      m.visible = nodes.length > 0
    }
  }

  showEdges(on: boolean) {
    this.lines.visible = on && this.shown.length > 0
  }

  mark(strength: Float32Array) {
    let changed = false
    this.shown.forEach((node, k) => {
      const s = strength[node]!
      if (this.marks.array[k] !== s) {
        this.marks.array[k] = s
        changed = true
      }
    })
    if (changed) this.marks.needsUpdate = true
  }

  dispose() {
    for (const m of this.meshes) {
      m.dispose()
      m.geometry.dispose()
      for (const x of [m.material].flat()) if (x !== this.materials.worn && x !== this.materials.edge) x.dispose()
    }
  }
}

function repeated(values: readonly number[], n: number): THREE.InstancedBufferAttribute {
  return new THREE.InstancedBufferAttribute(Float32Array.from({ length: n * values.length }, (_, i) => values[i % values.length]!), values.length)
}
