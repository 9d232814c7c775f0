// The look of docs/look.md in GLSL. The film's rasteriser draws the same in Go;
// all numbers come from the core.
import * as THREE from 'three'
import type { Finish } from '../api/client'
import type { Look } from '../core/core'
import { leftOver } from './occlusion'

const lighting = /* glsl */ `
uniform float knee;
struct Material { float dielectric, mirror, shine, shineRough, shininessLog2, shininessLog2Rough; };
uniform Material material;
struct Room { float floor, ceiling, from, wide, keyBox, keyFrom, keyWide, fillBox, fillFrom, fillWide; };
uniform Room room;
float stepUp(float x, float from, float wide) { return smoothstep(from, from + wide, x); }
uniform vec3 sky, ground, keyLight, fillLight, keyDir, fillDir, upDir;
vec3 encode(vec3 c) {
  c = clamp(c, 0.0, 4.0);
  c = min(c, knee) + (1.0 - knee) * (1.0 - exp(-max(c - knee, 0.0) / (1.0 - knee)));
  return mix(1.055 * pow(c, vec3(1.0 / 2.4)) - 0.055, 12.92 * c, vec3(lessThanEqual(c, vec3(0.0031308))));
}
vec3 hemi(float up) { return mix(ground, sky, 0.5 + 0.5 * up); }
vec3 lit(vec3 base, float metal, float rough, vec3 n, vec3 v) {
  float nv = dot(n, v);
  if (nv < 0.0) { n = -n; nv = -nv; }
  vec3 f0 = mix(vec3(material.dielectric), base, metal);
  vec3 r = 2.0 * nv * n - v;
  float shine = max(dot(r, keyDir), 0.0);
  int shininessLog2 = int(material.shininessLog2 - material.shininessLog2Rough * rough + 0.5);
  for (int i = 0; i < 7; i++) if (i < shininessLog2) shine *= shine;
  float bright = room.floor + room.ceiling * stepUp(dot(r, upDir), room.from, room.wide)
    + room.keyBox * stepUp(dot(r, keyDir), room.keyFrom, room.keyWide) + room.fillBox * stepUp(dot(r, fillDir), room.fillFrom, room.fillWide);
  vec3 env = mix(hemi(dot(r, upDir)) * bright, hemi(dot(n, upDir)), rough);
  float g = 1.0 - min(nv, 1.0);
  vec3 f = f0 + (1.0 - f0) * (g * g * g * g * g * (1.0 - rough));
  vec3 diffuse = base * (1.0 - metal) * (hemi(dot(n, upDir)) + keyLight * max(dot(n, keyDir), 0.0) + fillLight * max(dot(n, fillDir), 0.0));
  return encode(diffuse + f * (env * material.mirror + keyLight * shine * (material.shine - material.shineRough * rough)));
}
`

export interface Shared {
  [name: string]: THREE.IUniform
  upDir: THREE.IUniform<THREE.Vector3>
  viewport: THREE.IUniform<THREE.Vector2>
  edgeWidth: THREE.IUniform<number>
  contourWidth: THREE.IUniform<number>
  edgePull: THREE.IUniform<number>
  /** How far the eye is from what it looks at, mm. */
  away: THREE.IUniform<number>
  mark: THREE.IUniform<THREE.Color>
  /** How dark surfaces are by what is near them; see occlusion.ts. */
  occluded: THREE.IUniform<THREE.Texture | null>
  occludedCell: THREE.IUniform<number>
  occludedReach: THREE.IUniform<number>
  occludedStrength: THREE.IUniform<number>
  occludes: THREE.IUniform<boolean>
  /** A section: what lies beyond the plane is cut away. */
  cut: THREE.IUniform<{ plane: THREE.Vector4; on: boolean }>
}

const vec = (v: readonly number[]) => new THREE.Vector3(v[0], v[1], v[2])

// shared makes the uniforms that every material of one stage shares.
export function shared(look: Look): Shared {
  return {
    sky: { value: vec(look.skyColour) },
    ground: { value: vec(look.groundColour) },
    keyLight: { value: vec(look.keyLight) },
    fillLight: { value: vec(look.fillLight) },
    keyDir: { value: vec(look.key) },
    fillDir: { value: vec(look.fill) },
    upDir: { value: new THREE.Vector3(0, 1, 0) },
    ink: { value: vec(look.ink) },
    knee: { value: look.knee },
    room: { value: look.room },
    material: { value: look.material },
    strip: { value: look.strip },
    backgroundTop: { value: vec(look.backgroundTop) },
    backgroundBottom: { value: vec(look.backgroundBottom) },
    edgePull: { value: look.edgePull },
    away: { value: 1 },
    edgeWidth: { value: look.edgeWidth },
    contourWidth: { value: look.contourWidth },
    lineRoom: { value: look.lineRoom },
    slantLeast: { value: look.slant },
    rim: { value: look.rim },
    shadow: { value: look.shadow },
    viewport: { value: new THREE.Vector2(1, 1) },
    occluded: { value: null },
    occludedCell: { value: 1 },
    occludedReach: { value: 1 },
    occludedStrength: { value: 0 },
    occludedApart: { value: look.occlusion.apart },
    occludedRest: { value: look.occlusion.rest },
    occludes: { value: false },
    cut: { value: { plane: new THREE.Vector4(0, 0, 1, 0), on: false } },
    mark: { value: new THREE.Color().setRGB(0xd8 / 255, 0x43 / 255, 0x2b / 255, THREE.LinearSRGBColorSpace) },
  }
}

// Parts that are drawn together have their pose and mark in attributes, a part
// that is drawn alone has them in its matrix and in uniforms.
const placed = /* glsl */ `
#ifdef USE_INSTANCING
attribute float instanceMarked;
attribute vec4 instanceTint;
vec4 tintOf() { return instanceTint; }
mat4 placeOf() { return modelMatrix * instanceMatrix; }
float markOf() { return instanceMarked; }
#else
uniform float marked;
uniform vec4 tint;
vec4 tintOf() { return tint; }
mat4 placeOf() { return modelMatrix; }
float markOf() { return marked; }
#endif
varying float vMarked;
varying vec4 vTint;
`

// surfaceMaterial shows a finish, darkened by what is near where it is solid. Without one the finish lies in the attributes of
// what is drawn together: one material then serves all, and the page has less to
// tell the graphics card.
export function surfaceMaterial(s: Shared, f: Finish | null, solid: boolean): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    defines: { ...(!f && { WORN: '' }), ...(solid && { SOLID: '' }) },
    uniforms: {
      ...s,
      base: { value: vec(f?.colour ?? [0, 0, 0]) },
      metal: { value: f?.metalness ?? 0 },
      rough: { value: f?.roughness ?? 0 },
      alpha: { value: 1 },
      marked: { value: 0 },
      flatness: { value: 0 },
      clear: { value: f ? f.opacity : 1 },
      tint: { value: new THREE.Vector4() },
    },
    side: THREE.DoubleSide,
    vertexShader:
      placed +
      /* glsl */ `
      invariant gl_Position; // see depthMaterial
      varying vec3 vNormal; varying vec3 vView; varying vec3 vWorld; varying float vDepth;
      #ifdef WORN
      attribute vec3 instanceBase; attribute vec2 instanceWear;
      varying vec3 vBase; varying vec2 vWear;
      #endif
      void main() {
        #ifdef WORN
        vBase = instanceBase; vWear = instanceWear;
        #endif
        vMarked = markOf();
        vTint = tintOf();
        mat4 place = placeOf(), seen = viewMatrix * place;
        vec4 p = seen * vec4(position, 1.0);
        vWorld = (place * vec4(position, 1.0)).xyz;
        vNormal = mat3(seen) * normal;
        vDepth = -p.z;
        vView = projectionMatrix[3][3] == 1.0 ? vec3(0.0, 0.0, 1.0) : -p.xyz;
        gl_Position = projectionMatrix * p;
      }`,
    fragmentShader:
      lighting +
      (solid ? leftOver : '') +
      /* glsl */ `
      uniform vec3 mark, backgroundTop; uniform float alpha, flatness, clear, rim; // clear is the opacity of the finish by itself
      #ifdef WORN
      varying vec3 vBase; varying vec2 vWear;
      #define base vBase
      #define metal vWear.x
      #define rough vWear.y
      #else
      uniform vec3 base; uniform float metal, rough;
      #endif
      varying float vMarked; varying vec4 vTint;
      varying vec3 vNormal; varying vec3 vView; varying vec3 vWorld; varying float vDepth;
      struct Cut { vec4 plane; bool on; };
      uniform Cut cut;
      void main() {
        if (cut.on) {
          if (dot(vWorld, cut.plane.xyz) > cut.plane.w) discard;
          // What is seen from behind is the inside of a body: it stands for the face of the cut.
          if (dot(vNormal, vView) < 0.0) {
            float hatch = step(0.5, fract((gl_FragCoord.x + gl_FragCoord.y) / 7.0));
            gl_FragColor = vec4(mix(mix(encode(mix(base, vTint.rgb, vTint.a)), vec3(0.97, 0.96, 0.93), 0.45) * (0.9 + 0.1 * hatch), mark, vMarked * 0.4), 1.0);
            return;
          }
        }
        vec3 c = mix(lit(mix(base, vTint.rgb, vTint.a), metal, rough, normalize(vNormal), normalize(vView)), backgroundTop, flatness);
        #ifdef SOLID
        c *= leftOver(vDepth);
        #endif
        gl_FragColor = vec4(mix(c, mark * (0.45 + 0.7 * c.g), vMarked * 0.62), alpha);
        if (clear < 1.0) {
          float g = 1.0 - min(abs(dot(normalize(vNormal), normalize(vView))), 1.0);
          gl_FragColor.a *= (clear + (1.0 - clear) * rim * g * g * g) / max(clear, 1e-3);
        }
      }`,
  })
}

// depthMaterial writes the depth of what surfaceMaterial shows, from the very same numbers: another formula would differ
// in the last bit and let faces flicker, and so would the same one where a driver may put it together in another way (GLSL
// ES 3.00, 4.6.1: only what is invariant in both is the same in both).
export function depthMaterial(): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    colorWrite: false,
    side: THREE.DoubleSide,
    transparent: true,
    vertexShader: /* glsl */ `invariant gl_Position; void main() { mat4 place = modelMatrix, seen = viewMatrix * place; vec4 p = seen * vec4(position, 1.0); gl_Position = projectionMatrix * p; }`,
    fragmentShader: `void main() { gl_FragColor = vec4(1.0); }`,
  })
}

// edgeMaterial draws instanced strips: one instance an edge.
export function edgeMaterial(s: Shared): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    uniforms: {
      ...s,
      alpha: { value: 1 },
      marked: { value: 0 },
      strength: { value: 1 },
      back: { value: false },
      tint: { value: new THREE.Vector4() },
    },
    side: THREE.DoubleSide,
    vertexShader:
      placed +
      /* glsl */ `
      attribute vec3 a, b, n0, n1;
      attribute vec2 drawn; // from where it shows; how far away others are, mm
      varying vec3 vWorld;
      struct Cut { vec4 plane; bool on; };
      uniform Cut cut;
      uniform bool back; // whether those on the back of a closed part are drawn
      struct Strip { float end, contourEnd, thinnest; };
      uniform Strip strip;
      uniform float edgePull, edgeWidth, contourWidth, lineRoom, slantLeast, strength, away; uniform vec2 viewport;
      void main() {
        vMarked = markOf();
        vTint = tintOf();
        mat4 place = placeOf(), seen = viewMatrix * place;
        vWorld = (place * vec4(position.x < 0.5 ? a : b, 1.0)).xyz;
        vec3 pa = (seen * vec4(a, 1.0)).xyz, pb = (seen * vec4(b, 1.0)).xyz;
        bool parallel = projectionMatrix[3][3] == 1.0;
        mat3 turn = mat3(seen);
        vec3 eye = parallel ? vec3(0.0, 0.0, 1.0) : -pa;
        bool f0 = dot(turn * n0, eye) > 0.0, f1 = dot(turn * n1, eye) > 0.0, contour = f0 != f1;
        if (drawn.x > 1.5 && !contour || drawn.x > 0.5 && drawn.x < 1.5 && !f0 && !f1 && !back && !cut.on) { gl_Position = vec4(2.0, 2.0, 2.0, 1.0); return; }
        vec3 out3 = turn * (n0 + n1);
        vec2 outwards = parallel ? out3.xy : out3.xy * -pa.z + pa.xy * out3.z;
        float h = 0.5 * strength * (contour ? contourWidth : edgeWidth);
        float room = 0.5 * strength * lineRoom * drawn.y * viewport.y * 0.5 * projectionMatrix[1][1] / (parallel ? 1.0 : -pa.z);
        if ((parallel || pa.z < 0.0) && room * 0.3 < h) {
          // Seen aslant, the gaps between lines are narrower.
          vec3 beside = cross(turn * (n0 + n1), turn * (b - a));
          float deep = dot(beside, parallel ? vec3(0.0, 0.0, 1.0) : normalize(pa)), long2 = dot(beside, beside);
          float slant = long2 == 0.0 ? 1.0 : max(sqrt(max(1.0 - deep * deep / long2, 0.0)), slantLeast);
          h = min(h, room * slant);
          if (drawn.x > 1.5) h = max(h, 0.5 * strength * min(edgeWidth, contourWidth));
        }
        if (2.0 * h < strip.thinnest) { gl_Position = vec4(2.0, 2.0, 2.0, 1.0); return; }
        if (parallel) { pa.z += edgePull * away; pb.z += edgePull * away; }
        else { pa *= 1.0 - edgePull; pb *= 1.0 - edgePull; }
        if (!parallel && pa.z > -1.0 && pb.z > -1.0) { gl_Position = vec4(2.0, 2.0, 2.0, 1.0); return; }
        if (!parallel && pa.z > -1.0) pa = mix(pa, pb, (-1.0 - pa.z) / (pb.z - pa.z));
        if (!parallel && pb.z > -1.0) pb = mix(pb, pa, (-1.0 - pb.z) / (pa.z - pb.z));
        vec4 ca = projectionMatrix * vec4(pa, 1.0), cb = projectionMatrix * vec4(pb, 1.0);
        vec2 sa = ca.xy / ca.w * viewport * 0.5, sb = cb.xy / cb.w * viewport * 0.5;
        vec2 d = sb - sa; float l = length(d);
        // Seen end on, an edge is a point, but for what single precision makes of it.
        if (l < 0.02) { gl_Position = vec4(2.0, 2.0, 2.0, 1.0); return; }
        d /= l;
        vec2 over = vec2(-d.y, d.x);
        vec2 side = over * h * position.y + d * h * (contour ? strip.contourEnd : strip.end) * sign(position.x - 0.5);
        // A contour lies beside its surface, which would bury half of it.
        if (contour) side += over * h * (dot(over, outwards) < 0.0 ? -1.0 : 1.0);
        vec4 c = position.x < 0.5 ? ca : cb;
        gl_Position = vec4(c.xy + side / (viewport * 0.5) * c.w, c.zw);
      }`,
    fragmentShader: /* glsl */ `
      uniform vec3 ink, mark; uniform float alpha;
      varying vec3 vWorld; varying float vMarked;
      struct Cut { vec4 plane; bool on; };
      uniform Cut cut;
      void main() {
        if (cut.on && dot(vWorld, cut.plane.xyz) > cut.plane.w) discard;
        #ifdef GHOST
        gl_FragColor = vec4(mark, vMarked * ${ghostly});
        #else
        gl_FragColor = vec4(mix(ink, mark, vMarked), alpha);
        #endif
      }`,
  })
}

/** The opacity of the edges of what is marked, where something lies before them. */
export const ghostly = 0.55

// ghostMaterial draws edges through everything: those of marked parts.
export function ghostMaterial(s: Shared): THREE.ShaderMaterial {
  const m = edgeMaterial(s)
  m.defines = { GHOST: '' }
  m.depthTest = m.depthWrite = false
  m.transparent = true
  m.uniforms.back!.value = true
  return m
}

// backgroundMaterial draws the background, rounded by the noise: else its few grades were bands.
export function backgroundMaterial(s: Shared, noise: THREE.Texture): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    uniforms: { ...s, noise: { value: noise } },
    depthTest: false,
    depthWrite: false,
    vertexShader: /* glsl */ `varying float v; void main() { v = 0.5 - 0.5 * position.y; gl_Position = vec4(position.xy, 1.0, 1.0); }`,
    fragmentShader: /* glsl */ `uniform vec3 backgroundTop, backgroundBottom; uniform sampler2D noise; varying float v;
      void main() { gl_FragColor = vec4(mix(backgroundTop, backgroundBottom, v) + (texture2D(noise, gl_FragCoord.xy / 64.0).r - 0.5) / 255.0, 1.0); }`,
  })
}

export function shadowMaterial(s: Shared, dark: THREE.Texture): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    uniforms: { ...s, dark: { value: dark } },
    depthWrite: false,
    transparent: true,
    vertexShader: /* glsl */ `varying vec2 at; void main() { at = uv; gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }`,
    fragmentShader: /* glsl */ `uniform sampler2D dark; uniform vec3 ink; uniform float shadow; varying vec2 at;
      void main() { gl_FragColor = vec4(ink, texture2D(dark, at).r * shadow); }`,
  })
}
