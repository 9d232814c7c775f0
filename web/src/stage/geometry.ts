// Shapes as the server stores them (docs/formats.md), laid over typed arrays.
import * as THREE from 'three'
import { acceleratedRaycast, MeshBVH } from 'three-mesh-bvh'

export interface Shape {
  surface: THREE.BufferGeometry
  /** One instance an edge: for a part that is drawn alone. */
  edges: THREE.InstancedBufferGeometry
  /** Four corners an edge: for parts that are drawn together. */
  strokes(): THREE.BufferGeometry
  triangles: number
  /** Whether nobody outside sees the backs of its triangles. */
  closed: boolean
}

const header = 32
/** Numbers of an edge: a, b, n0, n1, from where it shows, how far away others are (docs/formats.md). */
const ofAnEdge = 14
const edgeAttributes = [
  ['a', 3, 0],
  ['b', 3, 3],
  ['n0', 3, 6],
  ['n1', 3, 9],
  ['drawn', 2, 12],
] as const

export async function loadShapes(address: string): Promise<Shape[]> {
  const reply = await fetch(address)
  if (!reply.ok) {
    const said = (await reply.json().catch(() => null)) as { message?: string } | null
    throw new Error(
      said?.message
        ? `The shapes of this assembly did not arrive: ${said.message}`
        : 'The shapes of this assembly did not arrive. Reload the page; if that does not help, import the assembly again.',
    )
  }
  const data = await reply.arrayBuffer()
  const shapes: Shape[] = []
  const view = new DataView(data)
  for (let at = 0; at < data.byteLength;) {
    const size = view.getUint32(at, true)
    if (at + 4 + size > data.byteLength)
      throw new Error('The shapes of this assembly arrived incomplete. Reload the page.')
    shapes.push(read(data, at + 4))
    at += 4 + size + ((4 - (size % 4)) % 4)
  }
  return shapes
}

/** Lays a shape over its stored form, which begins at a place of the data. */
export function read(data: ArrayBuffer, at: number): Shape {
  const [vertices, triangles, patches, edges, closed] = new Uint32Array(data, at + 4, 5) as unknown as [
    number,
    number,
    number,
    number,
    number,
  ]
  let p = at + header
  const take = (n: number) => {
    const a = new Float32Array(data, p, n)
    p += 4 * n
    return a
  }
  const surface = new THREE.BufferGeometry()
  surface.setAttribute('position', new THREE.BufferAttribute(take(3 * vertices), 3))
  surface.setAttribute('normal', new THREE.BufferAttribute(take(3 * vertices), 3))
  surface.setIndex(new THREE.BufferAttribute(new Uint32Array(data, p, 3 * triangles), 1))
  p += 12 * triangles
  const runs = new Uint32Array(data, p, 2 * patches)
  p += 8 * patches
  for (let i = 0; i < patches; i++) surface.addGroup(3 * runs[2 * i]!, 3 * runs[2 * i + 1]!, i)
  surface.computeBoundingSphere()
  const lines = take(ofAnEdge * edges)
  let made: THREE.BufferGeometry | null = null
  return {
    surface,
    edges: strips(lines, edges, surface.boundingSphere!),
    strokes: () => (made ??= strokesOf(lines, edges)),
    triangles,
    closed: closed === 1,
  }
}

// strokesOf writes the quad of every edge out.
function strokesOf(lines: Float32Array, n: number): THREE.BufferGeometry {
  const each = 3 + ofAnEdge // of each corner
  const all = new Float32Array(4 * each * n)
  const index = new Uint32Array(6 * n)
  for (let e = 0; e < n; e++) {
    for (let k = 0; k < 4; k++) {
      const at = each * (4 * e + k)
      all[at] = k < 2 ? 0 : 1
      all[at + 1] = k === 0 || k === 3 ? -1 : 1
      all.set(lines.subarray(ofAnEdge * e, ofAnEdge * (e + 1)), at + 3)
    }
    index.set([4 * e, 4 * e + 1, 4 * e + 2, 4 * e, 4 * e + 2, 4 * e + 3], 6 * e)
  }
  const g = new THREE.BufferGeometry()
  const buffer = new THREE.InterleavedBuffer(all, each)
  g.setAttribute('position', new THREE.InterleavedBufferAttribute(buffer, 3, 0))
  for (const [name, size, at] of edgeAttributes)
    g.setAttribute(name, new THREE.InterleavedBufferAttribute(buffer, size, 3 + at))
  g.setIndex(new THREE.BufferAttribute(index, 1))
  return g
}

// strips makes a quad for each edge; the shader gives it its place and width.
function strips(lines: Float32Array, n: number, sphere: THREE.Sphere): THREE.InstancedBufferGeometry {
  const g = new THREE.InstancedBufferGeometry()
  g.setAttribute('position', new THREE.BufferAttribute(new Float32Array([0, -1, 0, 0, 1, 0, 1, 1, 0, 1, -1, 0]), 3))
  g.setIndex([0, 1, 2, 0, 2, 3])
  const all = new THREE.InstancedInterleavedBuffer(lines, ofAnEdge, 1)
  for (const [name, size, at] of edgeAttributes)
    g.setAttribute(name, new THREE.InterleavedBufferAttribute(all, size, at))
  g.instanceCount = n
  g.boundingSphere = sphere
  return g
}

const middle = new THREE.Vector3()

// pickable lets rays find a mesh quickly while it is visible; the tree is built at the first ray that comes near. What rays
// find is moved, but never scaled.
export function pickable(mesh: THREE.Mesh) {
  mesh.raycast = function (caster, hits) {
    if (!this.visible) return
    const sphere = this.geometry.boundingSphere!
    if (
      caster.ray.distanceSqToPoint(middle.copy(sphere.center).applyMatrix4(this.matrixWorld)) >
      sphere.radius * sphere.radius
    )
      return
    const g = this.geometry as THREE.BufferGeometry & { boundsTree?: MeshBVH }
    g.boundsTree ??= new MeshBVH(g, { indirect: true })
    acceleratedRaycast.call(this, caster, hits)
  }
}
