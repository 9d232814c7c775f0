// Shapes as the client page has them: places in steps of a 65,535th of the shape's box, directions in steps of a 127th,
// numbers of vertices as differences (clientpage/shapes.go).
import { read, type Shape } from '../stage/geometry'

class Reader {
  private at = 0
  private readonly view: DataView
  constructor(private readonly data: ArrayBuffer) {
    this.view = new DataView(data)
  }
  get more() {
    return this.at < this.data.byteLength
  }
  byte() {
    return this.view.getUint8(this.at++)
  }
  signed() {
    return this.view.getInt8(this.at++)
  }
  float() {
    const v = this.view.getFloat32(this.at, true)
    this.at += 4
    return v
  }
  half() {
    const v = this.view.getUint16(this.at, true)
    this.at += 2
    return v
  }
  /** A whole number in groups of seven bits, the lowest first. */
  whole() {
    let v = 0
    for (let scale = 1; ; scale *= 128) {
      const b = this.byte()
      v += (b & 127) * scale
      if (b < 128) return v
    }
  }
  /** The same with the sign in the lowest bit. */
  difference() {
    const v = this.whole()
    return v % 2 ? -(v + 1) / 2 : v / 2
  }
}

const ofAnEdge = 14

/** Reads all shapes, each into the form in which the stage takes it. */
export function unpackShapes(data: ArrayBuffer): Shape[] {
  const r = new Reader(data)
  const list: Shape[] = []
  while (r.more) list.push(read(one(r), 0))
  return list
}

function one(r: Reader): ArrayBuffer {
  const [vertices, triangles, submeshes, edges, closed] = [r.whole(), r.whole(), r.whole(), r.whole(), r.whole()]
  const out = new ArrayBuffer(32 + 4 * (6 * vertices + 3 * triangles + 2 * submeshes + ofAnEdge * edges))
  new Uint32Array(out, 4, 5).set([vertices, triangles, submeshes, edges, closed])
  const low = [r.float(), r.float(), r.float()]
  const step = [r.float(), r.float(), r.float()]
  const positions = new Float32Array(out, 32, 3 * vertices)
  for (let k = 0; k < 3; k++)
    for (let i = 0, v = 0; i < vertices; i++) positions[3 * i + k] = low[k]! + step[k]! * (v = (v + r.half()) & 0xffff)
  const normals = new Float32Array(out, 32 + 12 * vertices, 3 * vertices)
  for (let i = 0; i < vertices; i++) direction(r, normals, 3 * i)
  let at = 32 + 24 * vertices
  const index = new Uint32Array(out, at, 3 * triangles)
  for (let i = 0, v = 0; i < index.length; i++) index[i] = v += r.difference()
  at += 12 * triangles
  const runs = new Uint32Array(out, at, 2 * submeshes)
  for (let i = 0; i < runs.length; i++) runs[i] = r.whole()
  at += 8 * submeshes
  const lines = new Float32Array(out, at, ofAnEdge * edges)
  for (let i = 0, v = 0; i < edges; i++) {
    const e = ofAnEdge * i
    for (let end = 0; end < 2; end++) {
      v += r.difference()
      for (let k = 0; k < 3; k++) lines[e + 3 * end + k] = positions[3 * v + k]!
    }
    direction(r, lines, e + 6)
    direction(r, lines, e + 9)
    lines[e + 12] = r.byte()
    lines[e + 13] = r.float()
  }
  return out
}

/** Reads a direction; one of no length stays so. */
function direction(r: Reader, into: Float32Array, at: number) {
  const [x, y, z] = [r.signed(), r.signed(), r.signed()]
  const length = Math.hypot(x, y, z) || 1
  into[at] = x / length
  into[at + 1] = y / length
  into[at + 2] = z / length
}
