import * as THREE from 'three'
import type { Look } from '../core/core'
import type { Shared } from './look'

// How parts darken each other where they come near: docs/look.md. The film's renderer does the same (render/occlusion.go);
// rows of cells run downwards here as there.

/** What is drawn of a scene into the cells: the surfaces of what is solid. */
export const solidLayer = 1

const bare = /* glsl */ `void main() { gl_Position = vec4(position.xy, 0.0, 1.0); }`

// Normals are those of the facets, as the film's renderer has them.
const cellsMaterial = () =>
  new THREE.ShaderMaterial({
    uniforms: { fit: { value: new THREE.Vector2(1, 1) } },
    side: THREE.DoubleSide,
    vertexShader: /* glsl */ `
    uniform vec2 fit; varying vec3 at;
    void main() {
      #ifdef USE_INSTANCING
      mat4 place = modelMatrix * instanceMatrix;
      #else
      mat4 place = modelMatrix;
      #endif
      vec4 p = viewMatrix * place * vec4(position, 1.0);
      at = p.xyz;
      vec4 c = projectionMatrix * p;
      gl_Position = vec4((c.x + c.w) * fit.x - c.w, (c.w - c.y) * fit.y - c.w, c.zw);
    }`,
    fragmentShader: /* glsl */ `
    uniform mat4 projectionMatrix; varying vec3 at;
    void main() {
      vec3 n = normalize(cross(dFdx(at), dFdy(at)));
      vec3 eye = projectionMatrix[3][3] == 1.0 ? vec3(0.0, 0.0, 1.0) : -at;
      gl_FragColor = vec4(dot(n, eye) < 0.0 ? -n : n, -at.z);
    }`,
  })

const roughMaterial = (taps: number) =>
  new THREE.ShaderMaterial({
    defines: { TAPS: taps },
    uniforms: {
      cells: { value: null },
      taps: { value: [] },
      slopes: { value: new THREE.Vector2() },
      step: { value: new THREE.Vector2() },
      scale: { value: 1 },
      parallel: { value: false },
      reach: { value: 1 },
      most: { value: 1 },
      bias: { value: 0 },
      gain: { value: 1 },
      least: { value: 0 },
      first: { value: 1 },
    },
    depthTest: false,
    depthWrite: false,
    vertexShader: bare,
    fragmentShader: /* glsl */ `
    uniform sampler2D cells; uniform vec2 taps[TAPS], slopes, step; uniform float scale, reach, most, bias, gain, least, first; uniform bool parallel;
    vec3 place(ivec2 cell, float z) {
      vec2 slope = slopes * vec2(-1.0, 1.0) + (vec2(cell) + 0.5) * step * vec2(1.0, -1.0);
      return vec3(slope * (parallel ? 1.0 : z), -z);
    }
    void main() {
      ivec2 cell = ivec2(gl_FragCoord.xy), size = textureSize(cells, 0);
      vec4 c = texelFetch(cells, cell, 0);
      gl_FragColor = vec4(0.0, c.w, 0.0, 1.0);
      float r = floor(min(reach * scale / (parallel ? 1.0 : c.w), most) * 4.0 + 0.5) / 4.0;
      if (c.w == 0.0 || r < first) return;
      vec3 p = place(cell, c.w);
      float sum = 0.0;
      for (int i = 0; i < TAPS; i++) {
        ivec2 tap = ivec2(floor(taps[i] * r + 0.5));
        ivec2 at = cell + ivec2(tap.x, -tap.y);
        if (at.x < 0 || at.y < 0 || at.x >= size.x || at.y >= size.y) continue;
        float z = texelFetch(cells, at, 0).w;
        if (z == 0.0) continue;
        vec3 d = place(at, z) - p;
        float square = dot(d, d) / (reach * reach), up = dot(d, c.xyz);
        if (up <= 0.0 || square >= 1.0) continue;
        sum += max(up / (sqrt(square) * reach) - bias, 0.0) * (1.0 - square);
      }
      gl_FragColor.r = clamp(sum * gain / float(TAPS) * min((r - first) / first, 1.0) - least, 0.0, 1.0);
    }`,
  })

const smoothMaterial = () =>
  new THREE.ShaderMaterial({
    uniforms: { rough: { value: null }, reach: { value: 1 }, apart: { value: 1 } },
    depthTest: false,
    depthWrite: false,
    vertexShader: bare,
    fragmentShader: /* glsl */ `
    uniform sampler2D rough; uniform float reach, apart;
    void main() {
      ivec2 cell = ivec2(gl_FragCoord.xy), size = textureSize(rough, 0);
      float z = texelFetch(rough, cell, 0).y, sum = 0.0, dark = 0.0;
      gl_FragColor = vec4(0.0, z, 0.0, 1.0);
      if (z == 0.0) return;
      for (int y = -1; y <= 1; y++) for (int x = -1; x <= 1; x++) {
        ivec2 at = cell + ivec2(x, y);
        if (at.x < 0 || at.y < 0 || at.x >= size.x || at.y >= size.y) continue;
        vec4 c = texelFetch(rough, at, 0);
        if (c.y == 0.0) continue;
        float w = (2.0 - abs(float(x))) * (2.0 - abs(float(y))) * max(1.0 - apart * abs(c.y - z) / reach, 0.0);
        sum += w;
        dark += w * c.x;
      }
      gl_FragColor.r = dark / sum;
    }`,
  })

/** In a surface's shader: the share of its brightness that is left at a depth, mm. */
export const leftOver = /* glsl */ `
uniform sampler2D occluded; uniform float occludedCell, occludedReach, occludedStrength, occludedApart, occludedRest; uniform bool occludes; uniform vec2 viewport;
float leftOver(float z) {
  if (!occludes) return 1.0;
  vec2 at = vec2(gl_FragCoord.x, viewport.y - gl_FragCoord.y) / occludedCell - 0.5;
  ivec2 size = textureSize(occluded, 0), first = ivec2(floor(at));
  vec2 share = at - vec2(first);
  ivec2 last = min(first + 1, size - 1);
  first = max(first, 0);
  float sum = 0.0, dark = 0.0;
  for (int i = 0; i < 4; i++) {
    bool right = (i & 1) == 1, low = (i & 2) == 2;
    vec2 c = texelFetch(occluded, ivec2(right ? last.x : first.x, low ? last.y : first.y), 0).xy;
    if (c.y == 0.0) continue;
    float w = (right ? share.x : 1.0 - share.x) * (low ? share.y : 1.0 - share.y) * (max(1.0 - occludedApart * abs(c.y - z) / occludedReach, 0.0) + occludedRest);
    sum += w;
    dark += w * c.x;
  }
  return sum == 0.0 ? 1.0 : 1.0 - occludedStrength * dark / sum;
}
`

const target = (depthBuffer: boolean) =>
  new THREE.WebGLRenderTarget(1, 1, {
    type: THREE.FloatType,
    format: THREE.RGBAFormat,
    minFilter: THREE.NearestFilter,
    magFilter: THREE.NearestFilter,
    depthBuffer,
  })

export class Occlusion {
  private readonly cells = target(true)
  private readonly rough = target(false)
  private readonly dark = target(false)
  private readonly draw = cellsMaterial()
  private readonly darken: THREE.ShaderMaterial
  private readonly smooth = smoothMaterial()
  private readonly sheet = new THREE.Mesh(new THREE.PlaneGeometry(2, 2))
  private readonly alone = new THREE.Scene()
  private readonly reach: number

  constructor(
    private readonly look: Look,
    size: number,
    private readonly uniforms: Shared,
  ) {
    const { occlusion } = look
    this.reach = occlusion.reach * size
    this.darken = roughMaterial(occlusion.taps.length)
    Object.assign(this.darken.uniforms, {
      taps: { value: occlusion.taps.map((t) => new THREE.Vector2(...(t as [number, number]))) },
      most: { value: occlusion.most },
      bias: { value: occlusion.bias },
      gain: { value: occlusion.gain },
      least: { value: occlusion.least },
      first: { value: occlusion.first },
      reach: { value: this.reach },
    })
    this.darken.uniforms.cells!.value = this.cells.texture
    this.smooth.uniforms.rough!.value = this.rough.texture
    this.smooth.uniforms.reach!.value = this.reach
    this.smooth.uniforms.apart!.value = occlusion.apart
    this.uniforms.occluded.value = this.dark.texture
    this.uniforms.occludedReach.value = this.reach
    this.uniforms.occludedStrength.value = occlusion.strength
    this.sheet.frustumCulled = false
    this.alone.add(this.sheet)
  }

  // none leaves surfaces as bright as they are.
  none() {
    this.uniforms.occludes.value = false
  }

  // find finds how dark surfaces are in the picture that is to be drawn next.
  find(
    renderer: THREE.WebGLRenderer,
    scene: THREE.Scene,
    camera: THREE.PerspectiveCamera,
    width: number,
    height: number,
  ) {
    if (!renderer.extensions.has('EXT_color_buffer_float')) return this.none()
    const cell = Math.min(width, height) / this.look.occlusion.cells
    const across = Math.max(Math.ceil(width / cell), 1)
    const down = Math.max(Math.ceil(height / cell), 1)
    for (const t of [this.cells, this.rough, this.dark]) t.setSize(across, down)
    const { elements } = camera.projectionMatrix
    const parallel = elements[15] === 1
    const [tanH, tanV] = [1 / elements[0]!, 1 / elements[5]!] // mm where lines of sight are parallel
    this.draw.uniforms.fit!.value.set(width / (cell * across), height / (cell * down))
    const u = this.darken.uniforms
    u.slopes!.value.set(tanH, tanV)
    u.step!.value.set((2 * tanH * cell) / width, (2 * tanV * cell) / height)
    u.scale!.value = height / 2 / cell / tanV
    u.parallel!.value = parallel

    const into = renderer.getRenderTarget()
    const clear = renderer.getClearAlpha()
    const layers = camera.layers.mask
    renderer.setClearAlpha(0)
    renderer.setRenderTarget(this.cells)
    renderer.clear()
    camera.layers.set(solidLayer)
    scene.overrideMaterial = this.draw
    renderer.render(scene, camera)
    scene.overrideMaterial = null
    camera.layers.mask = layers
    renderer.setClearAlpha(clear)
    this.fill(renderer, this.rough, this.darken)
    this.fill(renderer, this.dark, this.smooth)
    renderer.setRenderTarget(into)
    this.uniforms.occludedCell.value = cell
    this.uniforms.occludes.value = true
  }

  private fill(renderer: THREE.WebGLRenderer, into: THREE.WebGLRenderTarget, material: THREE.ShaderMaterial) {
    this.sheet.material = material
    renderer.setRenderTarget(into)
    renderer.render(this.alone, nowhere)
  }

  dispose() {
    for (const t of [this.cells, this.rough, this.dark]) t.dispose()
    for (const m of [this.draw, this.darken, this.smooth]) m.dispose()
    this.sheet.geometry.dispose()
  }
}

const nowhere = new THREE.Camera()
