// Parts that share a shape and its finishes are drawn together: one call for
// all of their surfaces of one finish, one for all of their edges.
import * as THREE from 'three'
import type { Finish } from '../api/client'
import type { Shape } from './geometry'
import { edgeMaterial, ghostMaterial, surfaceMaterial, type Shared } from './look'
import { solidLayer } from './occlusion'

/** What all batches are drawn with. */
export class Materials {
  private readonly worn: THREE.ShaderMaterial
  // Of what is closed nobody outside sees a back: as in films, it is not drawn, unless a section opens the body.
  private readonly closed: THREE.ShaderMaterial
  private readonly ofMany: { closed: boolean; material: THREE.ShaderMaterial }[] = [] // for shapes of many finishes
  readonly edge: THREE.ShaderMaterial
  readonly ghost: THREE.ShaderMaterial

  constructor(readonly uniforms: Shared) {
    this.worn = surfaceMaterial(uniforms, null, true)
    this.closed = surfaceMaterial(uniforms, null, true)
    this.open(false)
    this.edge = edgeMaterial(uniforms)
    this.ghost = ghostMaterial(uniforms)
  }

  /** What the surface of a shape is drawn with. One of a single finish has it in attributes, and needs no material of its own. */
  of({ closed }: Shape, finishes: readonly Finish[]): THREE.ShaderMaterial | THREE.ShaderMaterial[] {
    if (finishes.length === 1) return closed ? this.closed : this.worn
    const many = finishes.map((f) => surfaceMaterial(this.uniforms, f, true))
    if (closed) for (const m of many) m.side = this.closed.side
    this.ofMany.push(...many.map((material) => ({ closed, material })))
    return many
  }

  /** Shows the backs of what is closed, or not. */
  open(opened: boolean) {
    this.closed.side = opened ? THREE.DoubleSide : THREE.FrontSide
    for (const { closed, material } of this.ofMany) if (closed) material.side = this.closed.side
  }

  dispose() {
    for (const { material } of this.ofMany) material.dispose()
    this.closed.dispose()
    this.worn.dispose()
    this.edge.dispose()
    this.ghost.dispose()
  }
}

export type Drawn = 'not' | 'solid' | 'clear'

/** A part of a batch. What is solid is drawn with others: slot is its place among them, −1 where it is not. */
export interface Member {
  node: number
  drawn: Drawn
  slot: number
}

export class Batch {
  readonly members: Member[] = []
  /** Whether the finishes themselves are see-through. */
  readonly clear: boolean
  private readonly surface: THREE.InstancedMesh
  private readonly lines: THREE.InstancedMesh
  private readonly marks: THREE.InstancedBufferAttribute
  private readonly tints: THREE.InstancedBufferAttribute
  private readonly poses: Float32Array // of the instances
  private readonly colours: Float32Array
  private shown: readonly Member[] = []
  private altered = false // poses or colours
  private remark = false // the marks must be laid anew
  // The edges of what is marked, through everything; made when something is marked first.
  private ghost: THREE.InstancedMesh | null = null

  constructor(
    private readonly materials: Materials,
    private readonly shape: Shape,
    finishes: readonly Finish[],
    private readonly most: number,
  ) {
    this.clear = finishes.some((f) => f.opacity < 1)
    const n = most
    this.marks = new THREE.InstancedBufferAttribute(new Float32Array(n), 1)
    this.tints = new THREE.InstancedBufferAttribute(new Float32Array(4 * n), 4)
    this.marks.setUsage(THREE.DynamicDrawUsage)
    this.tints.setUsage(THREE.DynamicDrawUsage)
    const surface = this.own(shape.surface)
    if (finishes.length === 1) {
      surface.clearGroups()
      const { colour, metalness, roughness } = finishes[0]!
      surface.setAttribute('instanceBase', repeated(colour, n))
      surface.setAttribute('instanceWear', repeated([metalness, roughness], n))
    }
    this.surface = new THREE.InstancedMesh(surface, materials.of(shape, finishes), n)
    this.lines = new THREE.InstancedMesh(this.own(shape.strokes()), materials.edge, n)
    this.surface.layers.enable(solidLayer)
    for (const m of this.meshes) {
      m.visible = false // until something is shown
      m.frustumCulled = false // the boxes of instances are the core's business
      m.matrixAutoUpdate = false
      m.instanceMatrix.setUsage(THREE.DynamicDrawUsage)
    }
    this.lines.instanceMatrix = this.surface.instanceMatrix
    this.poses = this.surface.instanceMatrix.array as Float32Array
    this.colours = this.tints.array as Float32Array
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

  // show draws the given parts, which are of this batch, where the matrices have them.
  show(members: readonly Member[], matrices: Float32Array, tints: Float32Array) {
    for (const m of this.shown) m.slot = -1
    this.shown = members
    members.forEach((m, k) => {
      m.slot = k
      this.put(m, matrices, tints)
    })
    for (const m of this.meshes) {
      m.count = members.length
      m.visible = members.length > 0
    }
    this.remark = true
  }

  // put moves one of the parts that are shown.
  put({ node, slot }: Member, matrices: Float32Array, tints: Float32Array) {
    const { poses, colours } = this
    for (let i = 0, from = 16 * node, at = 16 * slot; i < 16; i++) poses[at + i] = matrices[from + i]!
    for (let i = 0, from = 4 * node, at = 4 * slot; i < 4; i++) colours[at + i] = tints[from + i]!
    this.altered = true
  }

  // upload has the graphics card told of what was put.
  upload() {
    if (!this.altered) return
    this.altered = false
    this.tints.needsUpdate = this.surface.instanceMatrix.needsUpdate = true
    this.remark ||= this.ghost?.visible ?? false
  }

  // pose puts the target of a part that is shown where the part is.
  pose({ drawn, slot, target }: Member & { target: THREE.Mesh }) {
    if (drawn === 'solid') target.matrixWorld.fromArray(this.poses, 16 * slot)
  }

  // showEdges draws the edges of a share of the parts: of the first ones (nearFirst).
  showEdges(share: number) {
    this.lines.count = Math.ceil(share * this.shown.length)
    this.lines.visible = this.lines.count > 0
  }

  // nearFirst brings what is drawn into the order in which it lies before an eye.
  nearFirst(eye: THREE.Vector3) {
    const { poses, colours } = this
    const [from, worn] = [poses.slice(), colours.slice()]
    const away = (m: Member) =>
      (from[16 * m.slot + 12]! - eye.x) ** 2 +
      (from[16 * m.slot + 13]! - eye.y) ** 2 +
      (from[16 * m.slot + 14]! - eye.z) ** 2
    this.shown = this.shown.toSorted((a, b) => away(a) - away(b))
    this.shown.forEach((m, k) => {
      poses.set(from.subarray(16 * m.slot, 16 * m.slot + 16), 16 * k)
      colours.set(worn.subarray(4 * m.slot, 4 * m.slot + 4), 4 * k)
    })
    this.shown.forEach((m, k) => (m.slot = k))
    this.altered = this.remark = true
    this.upload()
  }

  // mark colours the parts that are drawn here by how strongly they are marked, when that or they have changed. What there
  // is to draw through everything is added to the scene.
  mark(strength: Float32Array, anew: boolean, scene: THREE.Scene) {
    if (!anew && !this.remark) return
    this.remark = false
    let changed = false
    this.shown.forEach(({ node }, k) => {
      const s = strength[node]!
      if (this.marks.array[k] !== s) {
        this.marks.array[k] = s
        changed = true
      }
    })
    if (changed) this.marks.needsUpdate = true
    this.haunt(
      this.shown.flatMap(({ node }, k) => (strength[node]! > 0 ? [k] : [])),
      scene,
    )
  }

  // haunt draws the edges of some of the parts that are shown through everything.
  private haunt(marked: readonly number[], scene: THREE.Scene) {
    if (this.ghost) this.ghost.visible = marked.length > 0
    if (marked.length === 0) return
    if (!this.ghost) {
      const own = this.own(this.shape.strokes())
      own.setAttribute('instanceMarked', new THREE.InstancedBufferAttribute(new Float32Array(this.most), 1))
      this.ghost = new THREE.InstancedMesh(own, this.materials.ghost, this.most)
      this.ghost.frustumCulled = false
      this.ghost.matrixAutoUpdate = false
      this.ghost.renderOrder = 3
      scene.add(this.ghost)
    }
    const marks = this.ghost.geometry.getAttribute('instanceMarked') as THREE.InstancedBufferAttribute
    const [from, to] = [this.surface.instanceMatrix.array, this.ghost.instanceMatrix.array]
    marked.forEach((k, i) => {
      marks.array[i] = this.marks.array[k]!
      for (let j = 0; j < 16; j++) to[16 * i + j] = from[16 * k + j]!
    })
    this.ghost.count = marked.length
    marks.needsUpdate = this.ghost.instanceMatrix.needsUpdate = true
  }

  dispose() {
    for (const m of this.meshes) {
      m.dispose()
      m.geometry.dispose()
    }
    this.ghost?.dispose()
    this.ghost?.geometry.dispose()
  }
}

function repeated(values: readonly number[], n: number): THREE.InstancedBufferAttribute {
  return new THREE.InstancedBufferAttribute(
    Float32Array.from({ length: n * values.length }, (_, i) => values[i % values.length]!),
    values.length,
  )
}
