import {
  DataTexture,
  NearestFilter,
  NoBlending,
  RepeatWrapping,
  RGBAFormat,
  ShaderMaterial,
  UniformsUtils,
  WebGLRenderTarget,
  type WebGLRenderer,
} from 'three'
import { GTAOShader } from 'three/examples/jsm/shaders/GTAOShader.js'
import { ditherAt } from '#core/evaluate/visible'
import { exchanged, type FullPass } from './passes'
import type { Sample } from './sample'

/**
 * Looks along three directions, three steps each: samples that are shifted turn them, so that many give a smooth
 * picture.
 */
const LOOKS = 9
const TURNS = 16

const DEPTHS = `uniform highp sampler2D ubRelief;
uniform highp sampler2D ubFacing;
float ubDepthAt(ivec2 at) {
  vec4 relief = texelFetch(ubRelief, clamp(at, ivec2(0), ivec2(resolution) - 1), 0);
  return relief.a == 0.0 ? 1e9 : relief.g;
}
float getDepth(const vec2 uv) { return ubDepthAt(ivec2(uv * resolution)); }
bool ubFromGround = false;
/** Of what may hide the sky: the ground, which is a plane, hides nothing from itself. */
float ubHidingAt(const vec2 uv) {
  ivec2 at = clamp(ivec2(uv * resolution), ivec2(0), ivec2(resolution) - 1);
  return ubFromGround && texelFetch(ubRelief, at, 0).a < 0.0 ? 1e9 : ubDepthAt(at);
}`
/**
 * Depths are meters here, since those of a depth buffer are too coarse for a floor far away; the sky is farther than
 * all.
 */
const PLACE = `vec3 getViewPosition( const in vec2 screenPosition, const in float depth ) {
  vec2 flatAt = screenPosition * 2.0 - 1.0;
#if PERSPECTIVE_CAMERA == 1
  vec4 along = cameraProjectionMatrixInverse * vec4(flatAt, 1.0, 1.0);
  vec3 ray = along.xyz / along.w;
  return ray * (depth / -ray.z);
#else
  return vec3((cameraProjectionMatrixInverse * vec4(flatAt, 0.0, 1.0)).xy, -depth);
#endif
}`
const NORMALS = `vec3 getViewNormal(const vec2 uv) {
  ivec2 at = ivec2(uv * resolution);
  bool ground = texelFetch(ubRelief, at, 0).a < 0.0;
  vec3 normal = normalize((viewMatrix * vec4(ground ? vec3(0.0, 1.0, 0.0) : texelFetch(ubFacing, at, 0).xyz, 0.0)).xyz);
  ubFromGround = ground;
  if (ground) return normal;
  vec3 toward = -normalize(getViewPosition(uv, getDepth(uv)));
  float front = dot(normal, toward);
  // The far side of a sheet is turned round; what only leans away, as a picture of normals may have it, is bent to the
  // eye.
  if (front < -0.5) return -normal;
  return front < 0.1 ? normalize(normal + (0.1 - front) * toward) : normal;
}`
/** Depths and normals come from the channels, where the shader expects textures of its own. */
export const CONTACT_FRAGMENT = [
  [/float getDepth\(const vec2 uv\) \{[^}]*\}/, DEPTHS],
  [/float fetchDepth\(const ivec2 uv\) \{[^}]*\}/, 'float fetchDepth(const ivec2 uv) { return ubDepthAt(uv); }'],
  [/vec3 getViewPosition\([^{]*\{[\s\S]*?#endif[\s\S]*?\n\t\t\}/, PLACE],
  [/depth >= 1\.0/, 'depth >= 1e8'],
  [/float sampleSceneDepth = getDepth\(sampleUv\);/, 'float sampleSceneDepth = ubHidingAt(sampleUv);'],
  [/vec3 getViewNormal\(const vec2 uv\) \{[\s\S]*?#endif\s*\}/, NORMALS],
].reduce((text, [piece, by]) => exchanged(text, piece as RegExp, by as string), GTAOShader.fragmentShader)

/**
 * How much of the sky each pixel sees past what is near it, found from the depths of the picture (ground truth ambient
 * occlusion).
 */
export class ContactPass {
  private readonly material = new ShaderMaterial({
    defines: { ...GTAOShader.defines, SAMPLES: LOOKS, NORMAL_VECTOR_TYPE: 1 },
    uniforms: { ...UniformsUtils.clone(GTAOShader.uniforms), ubRelief: { value: null }, ubFacing: { value: null } },
    fragmentShader: CONTACT_FRAGMENT,
    vertexShader:
      'varying vec2 vUv; void main() { vUv = position.xy * 0.5 + 0.5; gl_Position = vec4(position.xy, 0.0, 1.0); }',
    blending: NoBlending,
    depthTest: false,
    depthWrite: false,
  })
  private readonly noises: DataTexture[] = []

  /** @param reach how far what is near may be, in meters */
  draw(renderer: WebGLRenderer, full: FullPass, sample: Sample, reach: number): void {
    const { camera } = sample
    sample.contact ??= new WebGLRenderTarget(sample.width, sample.height, {
      minFilter: NearestFilter,
      magFilter: NearestFilter,
      depthBuffer: false,
      generateMipmaps: false,
    })
    const { uniforms, defines } = this.material
    const perspective = 'isPerspectiveCamera' in camera ? 1 : 0
    if (defines.PERSPECTIVE_CAMERA !== perspective) {
      defines.PERSPECTIVE_CAMERA = perspective
      this.material.needsUpdate = true
    }
    const { target, pictures } = (sample.channels.now ?? sample.channels.sheet)!
    uniforms.ubRelief!.value = target.textures[pictures.indexOf('relief')]
    uniforms.ubFacing!.value = target.textures[pictures.indexOf('facing')]
    uniforms.tNoise!.value = this.noise(sample.number)
    uniforms.resolution!.value.set(sample.width, sample.height)
    uniforms.cameraNear!.value = camera.near
    uniforms.cameraFar!.value = camera.far
    uniforms.cameraProjectionMatrix!.value.copy(camera.projectionMatrix)
    uniforms.cameraProjectionMatrixInverse!.value.copy(camera.projectionMatrixInverse)
    uniforms.radius!.value = reach
    uniforms.thickness!.value = reach * 1.5
    renderer.setRenderTarget(sample.contact)
    renderer.setClearColor(0xffffff, 1)
    renderer.clear()
    full.draw(renderer, this.material, sample.contact, camera, sample.tiles?.near)
  }

  /** Directions that differ from pixel to pixel and from sample to sample. */
  private noise(number: number): DataTexture {
    const old = this.noises[number]
    if (old) return old
    const bytes = Uint8Array.from({ length: TURNS * TURNS * 4 }, (_, i) => {
      const pixel = i >> 2
      const angle = ditherAt(pixel % TURNS, Math.floor(pixel / TURNS), number) * 2 * Math.PI
      const lane = [
        Math.cos(angle) * 0.5 + 0.5,
        Math.sin(angle) * 0.5 + 0.5,
        0.5,
        ditherAt(Math.floor(pixel / TURNS), pixel % TURNS, number + 7),
      ]
      return Math.round(lane[i % 4]! * 255)
    })
    const texture = new DataTexture(bytes, TURNS, TURNS, RGBAFormat)
    texture.wrapS = texture.wrapT = RepeatWrapping
    texture.minFilter = texture.magFilter = NearestFilter
    texture.needsUpdate = true
    return (this.noises[number] = texture)
  }

  dispose(): void {
    this.material.dispose()
    for (const noise of this.noises) noise?.dispose()
  }
}
