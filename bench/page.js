// Draws the frames of scene.json and notes how long each took, until its pixels are
// there.
import * as THREE from 'three'

const width = 1920, height = 1080
const data = await (await fetch('/scene.json')).json()
const canvas = document.createElement('canvas')
document.body.append(canvas)
const renderer = new THREE.WebGLRenderer({ canvas, antialias: true })
renderer.setPixelRatio(1)
renderer.setSize(width, height)
const scene = new THREE.Scene()
scene.background = new THREE.Color(0xf6f3ea)
scene.add(new THREE.HemisphereLight(0xffffff, 0x8a8478, 2))
const key = new THREE.DirectionalLight(0xffffff, 2)
key.position.set(-0.5, 0.7, 0.6)
scene.add(key)
const shapes = data.shapes.map((s) => {
  const surface = new THREE.BufferGeometry()
  surface.setAttribute('position', new THREE.Float32BufferAttribute(s.positions, 3))
  surface.setAttribute('normal', new THREE.Float32BufferAttribute(s.normals, 3))
  surface.setIndex(s.triangles)
  const lines = new THREE.BufferGeometry()
  lines.setAttribute('position', new THREE.Float32BufferAttribute(s.edges.flat(), 3))
  return { surface, lines }
})
const ink = new THREE.LineBasicMaterial({ color: 0x222a2c })
const parts = data.parts.map((p) => {
  const material = new THREE.MeshStandardMaterial({ color: new THREE.Color(...p.colour), metalness: p.metal, roughness: p.rough, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 })
  const mesh = new THREE.Mesh(shapes[p.shape].surface, material)
  const lines = new THREE.LineSegments(shapes[p.shape].lines, ink)
  for (const o of [mesh, lines]) o.matrixAutoUpdate = false
  mesh.add(lines)
  scene.add(mesh)
  return mesh
})
const camera = new THREE.PerspectiveCamera()
camera.matrixAutoUpdate = false
const gl = renderer.getContext()
const pixel = new Uint8Array(4)

function draw(frame) {
  parts.forEach((mesh, i) => {
    mesh.matrix.fromArray(frame.matrices, 16 * i)
    mesh.matrixWorldNeedsUpdate = true
  })
  camera.matrix.fromArray(frame.eye)
  camera.matrixWorldNeedsUpdate = true
  camera.fov = (2 * Math.atan(frame.up) * 180) / Math.PI
  camera.aspect = width / height
  camera.near = 5
  camera.far = 5000
  camera.updateProjectionMatrix()
  const begun = performance.now()
  renderer.render(scene, camera)
  gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel) // waits for the picture
  return performance.now() - begun
}

draw(data.frames[0]) // shaders are compiled, buffers are filled
window.times = data.frames.map(draw)
// How much of the last picture is not paper: it must be about what the rasteriser has.
const picture = new Uint8Array(4 * width * height)
renderer.render(scene, camera)
gl.readPixels(0, 0, width, height, gl.RGBA, gl.UNSIGNED_BYTE, picture)
let covered = 0
for (let i = 0; i < picture.length; i += 4) if (Math.abs(picture[i] - picture[0]) + Math.abs(picture[i + 1] - picture[1]) + Math.abs(picture[i + 2] - picture[2]) > 12) covered++
window.covered = covered / (width * height)
const done = document.createElement('p')
done.id = 'done'
done.textContent = 'Done.'
document.body.prepend(done)
