import * as THREE from 'three'

// One renderer a canvas: what it holds of the graphics card for itself it never gives back while the
// canvas is there.
const renderers = new WeakMap<HTMLCanvasElement, THREE.WebGLRenderer>()

export function rendererOf(canvas: HTMLCanvasElement): THREE.WebGLRenderer {
  const known = renderers.get(canvas)
  if (known) return known
  const fresh = new THREE.WebGLRenderer({ canvas, antialias: true, stencil: true, preserveDrawingBuffer: true })
  fresh.outputColorSpace = THREE.LinearSRGBColorSpace // the shaders write display values
  fresh.autoClear = false
  // Asking whether a shader is right waits until it is compiled: the first picture would come later.
  fresh.debug.checkShaderErrors = import.meta.env.DEV
  renderers.set(canvas, fresh)
  return fresh
}

/** letGo gives up what a canvas that nobody draws on any more holds of the graphics card. */
export function letGo(canvas: HTMLCanvasElement) {
  const gone = renderers.get(canvas)
  renderers.delete(canvas)
  gone?.dispose()
  gone?.forceContextLoss()
}
