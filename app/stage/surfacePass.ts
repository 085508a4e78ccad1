import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  GLSL3,
  Mesh,
  NearestFilter,
  PlaneGeometry,
  RGBAIntegerFormat,
  Scene,
  ShaderMaterial,
  UnsignedIntType,
  WebGLRenderTarget,
  type Camera,
  type Texture,
  type WebGLRenderer,
} from 'three'
import { GROUND } from '#core/evaluate/visible'
import type { MeshTables } from '#core/evaluate/tables'
import type { Box } from '#core/mesh/mesh'
import { groundUnder } from '#core/evaluate/rasterize'
import { HIDE_VERTEX, STATE_DECLARATION } from './partState'
import { noWords } from './passes'

/** A target that holds what is seen at each pixel: see `SEEN_WORDS`. */
export function surfaceTarget(width: number, height: number): WebGLRenderTarget {
  return new WebGLRenderTarget(width, height, {
    format: RGBAIntegerFormat,
    type: UnsignedIntType,
    internalFormat: 'RGBA32UI',
    minFilter: NearestFilter,
    magFilter: NearestFilter,
    generateMipmaps: false,
  })
}

const VERTEX = `
in float ubPartIn;
flat out uint ubTriangle;
out vec2 ubWeights;
out float ubDepth;
${STATE_DECLARATION}
void main() {
  int corner = gl_VertexID % 3;
  ubTriangle = uint(gl_VertexID / 3) + 1u;
  ubWeights = vec2(corner == 1, corner == 2);
  vec4 at = modelViewMatrix * vec4(position, 1.0);
  ubDepth = -at.z;
  gl_Position = projectionMatrix * at;
  int ubPart = int(ubPartIn + 0.5);
  ${HIDE_VERTEX}
}`
const FRAGMENT = `
flat in uint ubTriangle;
in vec2 ubWeights;
in float ubDepth;
uniform bool ubPeels;
uniform highp usampler2D ubBefore;
layout(location = 0) out highp uvec4 seen;
void main() {
  if (ubPeels) {
    uvec4 before = texelFetch(ubBefore, ivec2(gl_FragCoord.xy), 0);
    if (before.x == 0u || before.x == ubTriangle || ubDepth <= uintBitsToFloat(before.w)) discard;
  }
  seen = uvec4(ubTriangle, floatBitsToUint(ubWeights.x), floatBitsToUint(ubWeights.y), floatBitsToUint(ubDepth));
}`
const DEPTH_FRAGMENT = `
in float ubDepth;
layout(location = 0) out highp float way;
void main() { way = ubDepth; }`
const GROUND_VERTEX = `
out float ubDepth;
void main() {
  vec4 at = modelViewMatrix * vec4(position, 1.0);
  ubDepth = -at.z;
  gl_Position = projectionMatrix * at;
}`
const GROUND_FRAGMENT = `
in float ubDepth;
layout(location = 0) out highp uvec4 seen;
void main() { seen = uvec4(${GROUND}u, 0u, 0u, floatBitsToUint(ubDepth)); }`

/** The first pass: which triangle is seen at each pixel, and where in it. Nothing of a look is in it. */
export class SurfacePass {
  /** Three vertices of its own for each triangle, so that a vertex's number tells the triangle and the corner. */
  readonly geometry = new BufferGeometry()
  private readonly material = new ShaderMaterial({
    glslVersion: GLSL3,
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    side: DoubleSide,
    uniforms: { ubState: { value: null }, ubPeels: { value: false }, ubBefore: { value: noWords } },
  })
  private readonly ground = new Mesh(
    new PlaneGeometry(1, 1),
    new ShaderMaterial({ glslVersion: GLSL3, vertexShader: GROUND_VERTEX, fragmentShader: GROUND_FRAGMENT }),
  )
  private readonly mesh: Mesh = new Mesh(this.geometry, this.material)
  private readonly scene = new Scene()
  groundOn = true

  constructor() {
    const { mesh } = this
    mesh.frustumCulled = this.ground.frustumCulled = false
    this.ground.rotation.x = -Math.PI / 2
    this.scene.add(mesh, this.ground)
  }

  /** The mesh as a light without perspective sees it: how far away the nearest surface is. */
  private readonly depthMaterial = new ShaderMaterial({
    glslVersion: GLSL3,
    vertexShader: VERTEX,
    fragmentShader: DEPTH_FRAGMENT,
    side: DoubleSide,
    uniforms: { ubState: { value: null } },
  })

  set state(texture: Texture) {
    this.material.uniforms.ubState!.value = this.depthMaterial.uniforms.ubState!.value = texture
  }

  setMesh({ mesh, parts }: MeshTables, box: Box): void {
    const { positions, indices } = mesh
    const at = new Float32Array(indices.length * 3)
    const part = new Float32Array(indices.length)
    for (let i = 0; i < indices.length; i++) {
      const v = indices[i]! * 3
      at[i * 3] = positions[v]!
      at[i * 3 + 1] = positions[v + 1]!
      at[i * 3 + 2] = positions[v + 2]!
      part[i] = parts.partOfTriangle[Math.floor(i / 3)]!
    }
    this.geometry.dispose()
    this.geometry.setAttribute('position', new BufferAttribute(at, 3))
    this.geometry.setAttribute('ubPartIn', new BufferAttribute(part, 1))
    this.geometry.setDrawRange(0, indices.length)
    const { x, y, z, reach } = groundUnder(box)
    this.ground.position.set(x, y, z)
    this.ground.scale.setScalar(reach * 2)
  }

  /** @param before the layer in front of the one that is wanted; the front one where it is left out */
  draw(renderer: WebGLRenderer, target: WebGLRenderTarget, camera: Camera, before?: WebGLRenderTarget): void {
    const { uniforms } = this.material
    uniforms.ubPeels!.value = before !== undefined
    uniforms.ubBefore!.value = before?.texture ?? noWords
    this.ground.visible = this.groundOn
    renderer.setRenderTarget(target)
    renderer.setClearColor(0x000000, 0)
    renderer.clear()
    renderer.render(this.scene, camera)
    renderer.setRenderTarget(null)
  }

  drawDepths(renderer: WebGLRenderer, target: WebGLRenderTarget, camera: Camera): void {
    this.mesh.material = this.depthMaterial
    this.ground.visible = false
    renderer.setRenderTarget(target)
    renderer.setClearColor(0x000000, 0)
    renderer.clear()
    renderer.render(this.scene, camera)
    renderer.setRenderTarget(null)
    this.mesh.material = this.material
  }

  dispose(): void {
    this.geometry.dispose()
    this.depthMaterial.dispose()
    this.material.dispose()
    this.ground.geometry.dispose()
    ;(this.ground.material as ShaderMaterial).dispose()
  }
}
