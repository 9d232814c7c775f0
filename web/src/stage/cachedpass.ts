import * as THREE from 'three'

// CachedPass is a picture that is drawn once and shown again.
export class CachedPass {
  readonly target = new THREE.WebGLRenderTarget(2, 2, { samples: 4, stencilBuffer: true })
  readonly scene = new THREE.Scene()
  readonly camera = new THREE.Camera()
  valid = false
  private readonly quad = new THREE.Mesh(
    new THREE.PlaneGeometry(2, 2),
    new THREE.ShaderMaterial({
      uniforms: { picture: { value: this.target.texture } },
      depthTest: false,
      depthWrite: false,
      vertexShader: 'varying vec2 at; void main() { at = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }',
      fragmentShader:
        'uniform sampler2D picture; varying vec2 at; void main() { gl_FragColor = vec4(texture2D(picture, at).rgb, 1.0); }',
    }),
  )

  constructor() {
    this.quad.frustumCulled = false
    this.scene.add(this.quad)
  }

  dispose() {
    this.target.dispose()
    this.quad.geometry.dispose()
    this.quad.material.dispose()
  }
}
