// Runs the core as the browser has it, in Node: reads a job from standard input
// and prints a digest for every reveal and time.
import { readFileSync } from 'node:fs'
import { webcrypto } from 'node:crypto'

globalThis.crypto ??= webcrypto
await import(new URL('../web/src/core/wasm_exec.js', import.meta.url))
const go = new Go()
const { instance } = await WebAssembly.instantiate(readFileSync(new URL('../web/src/core/core.wasm', import.meta.url)), go.importObject)
void go.run(instance)
const x = instance.exports

function call(name, value) {
  const bytes = value instanceof Uint8Array ? value : new TextEncoder().encode(JSON.stringify(value))
  const at = x.reserve(bytes.length)
  new Uint8Array(x.mem.buffer, at, bytes.length).set(bytes)
  const n = x[name]()
  const text = new TextDecoder().decode(new Uint8Array(x.mem.buffer, x.answer(), Math.abs(n)))
  if (n < 0) throw new Error(text)
  return JSON.parse(text)
}

const job = JSON.parse(readFileSync(0, 'utf8'))
call('openAssembly', Buffer.from(job.packed, 'base64')) // of assembly.Pack
const out = []
for (const reveal of job.reveals) {
  call('openReveal', reveal)
  out.push(job.times.map((time) => call('ask', { ask: 'digest', with: { time } })))
}
let bench = null
if (job.bench) {
  const runs = []
  for (let k = 0; k < 60; k++) {
    const begun = performance.now()
    x.at(k * 150_000)
    runs.push(performance.now() - begun)
  }
  bench = runs.sort((a, b) => a - b)[30]
}
let grab = null
if (job.grabs) {
  const runs = job.grabs.map((held) => {
    const begun = performance.now()
    const { joint, value } = call('ask', { ask: 'follow', with: held })
    const id = new TextEncoder().encode(joint)
    new Uint8Array(x.mem.buffer, x.reserve(id.length), id.length).set(id)
    x.tryJoint(value)
    return performance.now() - begun
  })
  grab = runs.sort((a, b) => a - b)[runs.length >> 1]
}
process.stdout.write(JSON.stringify({ digests: out, medianAt: bench, medianGrab: grab }), () => process.exit(0))
