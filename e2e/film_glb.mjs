// Samples the animation of a GLB with three.js at the given times and prints, for each
// time, the world matrix (column-major, metres) of each node by name.
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { pathToFileURL } from 'node:url'

const require = createRequire(new URL('../web/package.json', import.meta.url))
globalThis.self = globalThis
globalThis.ProgressEvent = class {}
const three = await import(pathToFileURL(require.resolve('three')).href.replace('three.cjs', 'three.module.js'))
const { GLTFLoader } = await import(pathToFileURL(require.resolve('three/examples/jsm/loaders/GLTFLoader.js')).href)
const { file, times } = JSON.parse(readFileSync(0, 'utf8'))
const bytes = readFileSync(file)
const gltf = await new GLTFLoader().parseAsync(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length), '')
const nodes = await Promise.all(gltf.parser.json.nodes.map((_, i) => gltf.parser.getDependency('node', i)))
const mixer = new three.AnimationMixer(gltf.scene)
mixer.clipAction(gltf.animations[0]).setLoop(three.LoopOnce).play().clampWhenFinished = true
const out = times.map((t) => {
  mixer.setTime(t)
  gltf.scene.updateMatrixWorld(true)
  return nodes.map((n) => Array.from(n.matrixWorld.elements))
})
console.log(JSON.stringify(out))
