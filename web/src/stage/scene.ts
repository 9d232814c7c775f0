import * as THREE from 'three'
import type { Assembly, Finish } from '../api/client'
import { Batch, Materials } from './batch'
import type { Frame, Floor, Look, Strips, Vec3 } from '../core/core'
import { FlowLines } from './flow'
import type { Shape } from './geometry'
import { Occlusion } from './occlusion'
import { Ruler } from './ruler'
import { markedBelow } from '../core/tree'
import { findable, Targets, type Findable } from './targets'
import type { Section } from './view'
import {
  depthMaterial,
  edgeMaterial,
  ghostMaterial,
  backgroundMaterial,
  shadowMaterial,
  shared,
  surfaceMaterial,
  type Shared,
} from './look'

// Part is what is known of one part. What is drawn of it alone, because it is
// see-through or marked, is made when it is needed first.
interface Part extends Findable {
  finishes: readonly Finish[]
  batch: Batch
  alone: Alone | null
}

interface Alone {
  mesh: THREE.Mesh
  // They write depth only, so that of a see-through part its nearest surface shows, or edge, once.
  first: THREE.Mesh
  firstLines: THREE.Mesh
  lines: THREE.Mesh
  behind: THREE.Mesh // the edges that the faces hide, while these are on their way to nothing
  ghost: THREE.Mesh // the edges again, through everything, while the part is marked
  surfaces: THREE.ShaderMaterial[]
  edge: THREE.ShaderMaterial
  hidden: THREE.ShaderMaterial
  near: THREE.ShaderMaterial
  /** What is sorted, in the order in which it is drawn: all of them but the ghost. */
  sorted: THREE.Mesh[]
}

const cells = 96

// onceAPixel lets the strips of a faded part that meet in one place be drawn there once: else where short edges are
// dense, as in a small hole, they were darker than the lines.
function onceAPixel(m: THREE.Material, ref: number) {
  m.stencilWrite = true
  m.stencilRef = ref
  m.stencilFunc = THREE.NotEqualStencilFunc
  m.stencilZPass = THREE.ReplaceStencilOp
}

// Scene is the assembly in three.js. It draws what the core says and decides
// nothing.
export class Scene {
  readonly three = new THREE.Scene()
  readonly uniforms: Shared
  readonly parts: Part[] = []
  private readonly byNode: (Part | undefined)[]
  readonly targets: Targets
  private shown = -1 // the number of the frame that is shown
  private readonly batches: Batch[] = []
  private readonly materials: Materials
  private readonly strength: Float32Array
  private readonly dark = new THREE.DataTexture(new Uint8Array(cells * cells), cells, cells, THREE.RedFormat)
  private readonly noise: THREE.DataTexture
  private readonly floor: THREE.Mesh
  private readonly nodes: Assembly['nodes']
  private hidden: boolean[] = []
  private readonly clear = new Map<number, Alone>() // by node: what is see-through
  private readonly alones: Part[] = []
  private realign = false // the marks of parts that are drawn alone must be laid anew
  private marked: { picked: ReadonlySet<string>; hover: string | null; touched: ReadonlySet<string> } | null = null
  readonly ruler = new Ruler(this.three)
  private readonly flow: FlowLines
  private readonly occlusion: Occlusion
  /** Whether parts darken each other. */
  occludes = true

  constructor(
    assembly: Assembly,
    shapes: Shape[],
    private readonly look: Look,
    noise: string,
    ground: Floor,
    size: number,
    /** How edges are drawn in a picture of so many lines, so many to a pixel of the screen. */
    private readonly strips: (lines: number, ratio: number) => Strips,
  ) {
    this.uniforms = shared(look)
    this.occlusion = new Occlusion(look, size, this.uniforms)
    this.materials = new Materials(this.uniforms)
    this.nodes = assembly.nodes
    this.three.matrixWorldAutoUpdate = false
    this.noise = new THREE.DataTexture(
      Uint8Array.from(atob(noise), (c) => c.charCodeAt(0)),
      64,
      64,
      THREE.RedFormat,
    )
    this.noise.wrapS = this.noise.wrapT = THREE.RepeatWrapping
    this.noise.needsUpdate = true
    const background = new THREE.Mesh(new THREE.PlaneGeometry(2, 2), backgroundMaterial(this.uniforms, this.noise))
    background.frustumCulled = false
    background.renderOrder = -2
    this.three.add(background)
    this.floor = this.makeFloor(ground)
    this.flow = new FlowLines(look.ink as Vec3)
    this.three.add(this.flow)
    this.strength = new Float32Array(assembly.nodes.length)
    this.addParts(assembly, shapes)
    this.byNode = assembly.nodes.map(() => undefined)
    for (const p of this.parts) this.byNode[p.node] = p
    this.targets = new Targets(
      this.parts,
      (p) => (p as Part).batch.pose(p),
      (node) => markedBelow(this.nodes, new Set([node])),
      this.uniforms.cut,
    )
  }

  private addParts(assembly: Assembly, shapes: Shape[]) {
    const alike = new Map<string, number[]>()
    assembly.nodes.forEach((n, i) => {
      if (n.shape < 0 || !shapes[n.shape]) return
      const key = `${n.shape}/${(n.finishes ?? []).join()}`
      alike.set(key, [...(alike.get(key) ?? []), i])
    })
    for (const nodes of alike.values()) {
      const n = assembly.nodes[nodes[0]!]!
      const shape = shapes[n.shape]!
      const finishes = (n.finishes ?? []).map((f) => assembly.finishes[f]!)
      const batch = new Batch(this.materials, shape, finishes, nodes.length)
      this.three.add(...batch.meshes)
      this.batches.push(batch)
      for (const node of nodes) {
        const part: Part = {
          node,
          id: assembly.nodes[node]!.id,
          shape,
          finishes,
          batch,
          target: findable(shape),
          slot: -1,
          alone: null,
          drawn: 'not',
        }
        this.parts.push(part)
        batch.members.push(part)
      }
    }
    this.parts.sort((x, y) => x.node - y.node)
  }

  private makeFloor({ centre, side }: Floor): THREE.Mesh {
    this.dark.magFilter = this.dark.minFilter = THREE.LinearFilter
    const floor = new THREE.Mesh(new THREE.PlaneGeometry(side, side), shadowMaterial(this.uniforms, this.dark))
    floor.matrixAutoUpdate = false
    floor.matrixWorld.makeRotationX(-Math.PI / 2).setPosition(...centre)
    floor.renderOrder = -1
    // The map's rows run from back to front, a plane's texture from front to back.
    const uv = floor.geometry.getAttribute('uv')
    for (let i = 0; i < uv.count; i++) uv.setY(i, 1 - uv.getY(i))
    this.three.add(floor)
    return floor
  }

  private alone(p: Part): Alone {
    if (p.alone) return p.alone
    const surfaces = p.finishes.map((f) => surfaceMaterial(this.uniforms, f, false))
    const edge = edgeMaterial(this.uniforms)
    onceAPixel(edge, 1 + 2 * (p.node % 127))
    const hidden = edgeMaterial(this.uniforms)
    onceAPixel(hidden, 2 + 2 * (p.node % 127))
    hidden.uniforms.back!.value = true
    const near = edgeMaterial(this.uniforms)
    near.colorWrite = false
    near.transparent = true
    const through = ghostMaterial(this.uniforms)
    const depth = depthMaterial()
    // Of what stands in one place the page draws first what was made first.
    const behind = new THREE.Mesh(p.shape.edges, hidden)
    const first = new THREE.Mesh(p.shape.surface, depth)
    const firstLines = new THREE.Mesh(p.shape.edges, near)
    const mesh = new THREE.Mesh(p.shape.surface, surfaces)
    const lines = new THREE.Mesh(p.shape.edges, edge)
    const ghost = new THREE.Mesh(p.shape.edges, through)
    const sorted = [behind, first, firstLines, mesh, lines]
    const a: Alone = { surfaces, edge, hidden, near, behind, first, firstLines, mesh, lines, ghost, sorted }
    for (const o of [...sorted, ghost]) {
      o.matrixAutoUpdate = false
      o.visible = false
      this.three.add(o)
    }
    ghost.renderOrder = 3
    p.alone = a
    this.alones.push(p)
    return a
  }

  // show puts everything where a frame of the core has it: solid parts in their batches, see-through ones alone, so
  // that they can be sorted. Of the frame behind the one that is shown only what is otherwise is looked at.
  show(f: Frame) {
    if (f.version === this.shown) return
    const relist = new Set<Batch>()
    const place = (p: Part) => {
      // Most of what moves is solid and stays so.
      if (p.drawn === 'solid' && !p.alone && this.isSolid(p, f)) p.batch.put(p, f.matrices, f.tints)
      else if (this.place(p, f)) relist.add(p.batch)
      else if (p.drawn === 'solid') p.batch.put(p, f.matrices, f.tints)
    }
    if (this.shown >= 0 && f.version === this.shown + 1) {
      for (const node of f.altered) {
        const p = this.byNode[node]
        if (p) place(p)
      }
    } else this.parts.forEach(place)
    this.shown = f.version
    this.targets.moved()
    for (const b of relist)
      b.show(
        b.members.filter((p) => p.drawn === 'solid'),
        f.matrices,
        f.tints,
      )
    for (const b of this.batches) b.upload()
    this.flow.show(f.flow)
  }

  // isSolid reports whether a part is seen, and hides what lies behind it.
  private isSolid({ node, batch }: Part, f: Frame): boolean {
    return (
      f.opacities[node]! === 1 &&
      f.surfaces[3 * node]! === 0 &&
      f.surfaces[3 * node + 1]! === 1 &&
      f.surfaces[3 * node + 2]! === 1 &&
      !batch.clear &&
      !this.hidden[node]
    )
  }

  // place shows one part as a frame has it, and says whether it is drawn with others otherwise than before.
  private place(p: Part, f: Frame): boolean {
    const alpha = f.opacities[p.node]!
    const visible = alpha > 0 && !this.hidden[p.node]
    const flatness = f.surfaces[3 * p.node]!,
      faces = f.surfaces[3 * p.node + 1]!,
      edges = f.surfaces[3 * p.node + 2]!
    const clear = visible && !this.isSolid(p, f)
    const was = p.drawn
    p.drawn = clear ? 'clear' : visible ? 'solid' : 'not'
    const changes = p.drawn !== was && (p.drawn === 'solid' || was === 'solid')
    if (!clear && !p.alone) return changes
    const a = this.alone(p)
    this.realign = true
    a.mesh.visible = clear && faces > 0
    a.lines.visible = clear && edges > 0.03
    a.behind.visible = a.lines.visible && faces < 1
    a.first.visible = clear && !this.uniforms.cut.value.on
    a.firstLines.visible = a.lines.visible && !this.uniforms.cut.value.on
    for (const o of [p.target, ...a.sorted, a.ghost]) o.matrixWorld.fromArray(f.matrices, 16 * p.node)
    if (!clear) {
      this.clear.delete(p.node)
      return changes
    }
    this.clear.set(p.node, a)
    a.surfaces.forEach((m, i) => {
      setAlpha(m, alpha * faces * p.finishes[i]!.opacity)
      m.uniforms.flatness!.value = flatness
      m.uniforms.tint!.value.fromArray(f.tints, 4 * p.node)
    })
    setAlpha(a.edge, alpha)
    setAlpha(a.hidden, alpha * (1 - faces) * this.look.hiddenEdges)
    a.edge.uniforms.strength!.value = a.hidden.uniforms.strength!.value = a.near.uniforms.strength!.value = edges
    return changes
  }

  // shade lays the contact shadow on the ground.
  shade(darkness: Float32Array) {
    const dark = this.dark.image.data as Uint8Array
    for (let i = 0; i < dark.length; i++) dark[i] = 255 * Math.min(darkness[i]!, 1)
    this.dark.needsUpdate = true
  }

  // sort brings what is see-through into the order in which an eye sees it, the farthest
  // first.
  sort(farFirst: (nodes: number[]) => readonly number[]) {
    if (this.clear.size < 2) return
    farFirst([...this.clear.keys()].sort((a, b) => a - b)).forEach((node, place, all) => {
      for (const o of this.clear.get(node)!.sorted) o.renderOrder = place / all.length
    })
  }

  // mark colours what is picked, and what the pointer is over more lightly. A
  // picked subassembly marks all that is in it.
  mark(picked: ReadonlySet<string>, hover: string | null, touched: ReadonlySet<string>) {
    const anew = this.marked?.picked !== picked || this.marked.hover !== hover || this.marked.touched !== touched
    const strength = this.strength
    if (anew) {
      this.marked = { picked, hover, touched }
      this.nodes.forEach(({ id, parent }, i) => {
        const above = parent >= 0 ? strength[parent]! : 0
        const own = picked.has(id) ? 1 : id === hover ? 0.45 : touched.has(id) ? 0.22 : 0
        strength[i] = Math.max(above, own)
      })
    }
    for (const b of this.batches) b.mark(strength, anew, this.three)
    if (!anew && !this.realign) return
    this.realign = false
    for (const p of this.alones) {
      const a = p.alone!
      const s = p.drawn === 'clear' ? strength[p.node]! : 0 // what is solid is marked in its batch
      for (const m of a.surfaces) m.uniforms.marked!.value = s
      a.edge.uniforms.marked!.value = s
      a.ghost.visible = s > 0
      ;(a.ghost.material as THREE.ShaderMaterial).uniforms.marked!.value = s
    }
  }

  private known: { lines: number; ratio: number; strips: Strips } | null = null

  private stripsOf(lines: number, ratio: number): Strips {
    if (this.known?.lines !== lines || this.known.ratio !== ratio)
      this.known = { lines, ratio, strips: this.strips(lines, ratio) }
    return this.known.strips
  }

  // prepare adapts what depends on the eye: the world's up in its frame, the
  // width of lines.
  prepare(camera: THREE.PerspectiveCamera, width: number, height: number, ratio: number, away: number) {
    this.uniforms.away.value = away
    const turn = new THREE.Matrix4().extractRotation(camera.matrixWorldInverse)
    this.uniforms.upDir.value.set(0, 1, 0).applyMatrix4(turn)
    this.uniforms.viewport.value.set(width, height)
    const { edge, contour, pull } = this.stripsOf(height, ratio)
    this.uniforms.edgePull.value = pull
    this.uniforms.edgeWidth.value = edge
    this.uniforms.contourWidth.value = contour
    const flat = camera.projectionMatrix.elements[15] === 1
    this.floor.visible = flat
      ? camera.matrixWorld.elements[9]! > 0
      : camera.position.y > this.floor.matrixWorld.elements[13]!
  }

  // occlude finds how parts darken each other in a picture that is to be drawn, if they are to.
  occlude(
    renderer: THREE.WebGLRenderer,
    camera: THREE.PerspectiveCamera,
    width: number,
    height: number,
    wanted: boolean,
  ) {
    if (wanted && this.occludes && !this.uniforms.cut.value.on)
      this.occlusion.find(renderer, this.three, camera, width, height)
    else this.occlusion.none()
  }

  indexOf(node: string): number {
    return this.nodes.findIndex((n) => n.id === node)
  }

  // showEdges draws the edges of a share of the parts that hide what lies behind them; of those near an eye, if one is given.
  showEdges(share: number, near?: THREE.Vector3) {
    for (const b of this.batches) {
      if (near) b.nearFirst(near)
      b.showEdges(share)
    }
  }

  hide(nodes: ReadonlySet<string>) {
    this.hidden = markedBelow(this.nodes, nodes)
    this.shown = -1
  }

  cut(s: Section | null) {
    const c = this.uniforms.cut.value
    c.on = s !== null
    this.materials.open(c.on)
    this.shown = -1
    if (!s) return
    const sense = s.flip ? -1 : 1
    c.plane.set(0, 0, 0, sense * s.at).setComponent(s.axis, sense)
  }

  // dispose gives back what the graphics card holds of the scene: of its shapes those that the scene has not which
  // takes its place; without one, all.
  dispose(next?: Scene) {
    const kept = new Set(next?.parts.map((p) => p.shape))
    this.ruler.measure(null)
    for (const b of this.batches) b.dispose()
    this.materials.dispose()
    this.three.traverse((o) => {
      const { geometry, material } = o as Partial<THREE.Mesh>
      geometry?.dispose()
      for (const m of material ? [material].flat() : []) m.dispose()
    })
    for (const p of this.parts) {
      if (kept.has(p.shape)) continue
      p.shape.surface.dispose()
      p.shape.edges.dispose()
    }
    this.occlusion.dispose()
    this.dark.dispose()
    this.noise.dispose()
    this.three.clear()
  }
}

function setAlpha(m: THREE.ShaderMaterial, alpha: number) {
  m.uniforms.alpha!.value = alpha
  m.transparent = true
}
