import {
  DataTexture,
  GLSL3,
  HalfFloatType,
  LinearFilter,
  Mesh,
  MeshBasicMaterial,
  Scene,
  ShaderChunk,
  ShaderMaterial,
  SRGBColorSpace,
  WebGLRenderTarget,
  type Color,
  type Euler,
  type Material,
  type MeshStandardMaterial,
  type PerspectiveCamera,
  type Texture,
  type WebGLRenderer,
} from 'three'
import type { GLTF } from 'three/examples/jsm/loaders/GLTFLoader.js'
import { shiftOf } from '#core/evaluate/shifts'
import { TRANSMISSION, TRANSMISSION_PARS, transmissionsOf, type Transmission } from './diffuseTransmission'
import { finished } from './evaluateOnCard'
import { pictureTarget, WEIGHED } from './lightPass'
import { exchanged, FULL_VERTEX, FullPass } from './passes'
import { readShares } from './readPicture'

/**
 * The look on the stage and in a delivered file: colors encoded for display, from 0 to 255 and not rounded, four
 * numbers to a pixel, row by row from the top; and the color of what is not surface.
 */
export interface Proof {
  width: number
  height: number
  stage: Float32Array
  delivered: Float32Array
  background: number[]
}

/** What is asked of a proof. */
export interface ProofAsked {
  /** The delivered file. */
  glb: ArrayBuffer
  view: 'finished' | 'baseColor'
  /** Pictures with shifted pixels that make each, as on the stage. */
  samples: number
  /** Whether it is still wanted. */
  isWanted: () => boolean
}

/** A delivered GLB, and how it is drawn. */
export interface ProofLook extends ProofAsked {
  /** Whether its picture of occlusion darkens the light around. */
  occluded: boolean
  /** Whether highlights are widened to a pixel, which shifted pictures make unnecessary. */
  widened: boolean
}

const SUM_FRAGMENT = `
uniform sampler2D ubShot;
uniform float ubWeight;
layout(location = 0) out vec4 color;
void main() { color = vec4(texelFetch(ubShot, ivec2(gl_FragCoord.xy), 0).rgb, ubWeight); }`

/** The mean of several pictures, kept as the stage keeps its own. */
class Sum {
  private readonly full = new FullPass()
  private readonly uniforms = { ubShot: { value: null as Texture | null }, ubWeight: { value: 1 } }
  private readonly material = new ShaderMaterial({
    glslVersion: GLSL3,
    vertexShader: FULL_VERTEX,
    fragmentShader: SUM_FRAGMENT,
    uniforms: this.uniforms,
    ...WEIGHED,
  })
  readonly target: WebGLRenderTarget

  constructor(width: number, height: number) {
    this.target = pictureTarget(width, height)
  }

  /** @param number how many pictures it is the mean of already */
  add(renderer: WebGLRenderer, shot: Texture, camera: PerspectiveCamera, number: number): void {
    this.uniforms.ubShot.value = shot
    this.uniforms.ubWeight.value = 1 / (number + 1)
    this.full.draw(renderer, this.material, this.target, camera)
  }

  dispose(): void {
    for (const one of [this.full, this.material, this.target]) one.dispose()
  }
}

const PHYSICAL = /#include <lights_physical_fragment>/
const LIT = /#include <lights_fragment_end>/
/** Highlights are as wide as the surface is rough. */
const NARROW = exchanged(ShaderChunk.lights_physical_fragment, /vec3 dxy = [^;]*;/, 'vec3 dxy = vec3(0.0);')
const white = new DataTexture(new Uint8Array(4).fill(255), 1, 1)
white.needsUpdate = true

/** Adds to a material of the loader what it leaves out, and takes away what many samples make unnecessary. */
function complete(material: MeshStandardMaterial, through: Transmission | undefined, widened: boolean): void {
  material.onBeforeCompile = shader => {
    if (!widened) shader.fragmentShader = exchanged(shader.fragmentShader, PHYSICAL, NARROW)
    if (!through) return
    Object.assign(shader.uniforms, {
      ubThroughFactor: { value: through.factor },
      ubThroughColor: { value: through.color },
      ubThroughShare: { value: through.share ?? white },
      ubThroughColors: { value: through.colors ?? white },
    })
    const declared = exchanged(shader.fragmentShader, /void main\(\) \{/, `${TRANSMISSION_PARS}\nvoid main() {`)
    shader.fragmentShader = exchanged(declared, LIT, `#include <lights_fragment_end>\n${TRANSMISSION}`)
  }
  material.customProgramCacheKey = () => `proof ${widened} ${through !== undefined}`
}

const mapsOf = (m: MeshStandardMaterial): Texture[] =>
  [m.map, m.roughnessMap, m.metalnessMap, m.normalMap, m.emissiveMap, m.aoMap].filter(map => map !== null)

/** Each sample is a place on the surface: what is around it in a picture must not be mixed in. */
const sharply = (map: Texture): Texture => Object.assign(map, { minFilter: LinearFilter, generateMipmaps: false })

/**
 * Puts materials onto the meshes of a file as a renderer with many samples takes them.
 * @returns all that has to be disposed of at the end
 */
async function dress(gltf: GLTF, { view, occluded, widened }: ProofLook): Promise<{ dispose(): void }[]> {
  const throughOf = await transmissionsOf(gltf)
  const worn = new Set<{ dispose(): void }>()
  gltf.scene.traverse(o => {
    if (!(o instanceof Mesh)) return
    const material = o.material as MeshStandardMaterial
    const through = throughOf(material)
    const pictures = [...mapsOf(material), through?.share, through?.colors].filter(map => map !== undefined)
    for (const one of [o.geometry, material, ...pictures.map(sharply)]) worn.add(one)
    complete(material, through, widened)
    if (!occluded) material.aoMap = null
    if (view === 'finished') return
    const { map, color, vertexColors } = material
    o.material = new MeshBasicMaterial({ map, color, vertexColors, toneMapped: false })
    worn.add(o.material as Material)
  })
  return [...worn]
}

/**
 * Draws a delivered GLB as a renderer would that reads it, by the loader of another program.
 * @param size of the picture, in pixels
 * @returns null where it is not wanted any more
 */
export async function proofOf(
  renderer: WebGLRenderer,
  look: ProofLook,
  size: { width: number; height: number },
  camera: PerspectiveCamera,
  light: { texture: Texture; rotation: Euler; intensity: number },
  background: Color,
): Promise<Omit<Proof, 'stage'> | null> {
  const { GLTFLoader } = await import('three/examples/jsm/loaders/GLTFLoader.js')
  const { MeshoptDecoder } = await import('meshoptimizer')
  const gltf = await new GLTFLoader().setMeshoptDecoder(MeshoptDecoder).parseAsync(look.glb, '')
  const worn = await dress(gltf, look)
  const { width, height } = size
  const shot = new WebGLRenderTarget(width, height, { type: HalfFloatType, generateMipmaps: false })
  // Colors are written into such a target as they are onto the canvas: encoded, with their tones mapped.
  Object.assign(shot, { isXRRenderTarget: true })
  shot.texture.colorSpace = SRGBColorSpace
  const sum = new Sum(width, height)
  const scene = new Scene()
  scene.environment = light.texture
  scene.environmentRotation = light.rotation.clone()
  scene.environmentIntensity = light.intensity
  scene.background = background
  const eye = camera.clone()
  const { autoClear } = renderer
  renderer.autoClear = false
  const shoot = (number: number): void => {
    eye.setViewOffset(width, height, ...shiftOf(number), width, height)
    renderer.setRenderTarget(shot)
    renderer.clear()
    renderer.render(scene, eye)
    renderer.setRenderTarget(null)
    sum.add(renderer, shot.texture, eye, number)
  }
  try {
    shoot(0)
    const empty = (await readShares(renderer, sum.target)).slice(0, 3)
    scene.add(gltf.scene)
    for (let number = 0; number < look.samples; number++) {
      if (!look.isWanted()) return null
      shoot(number)
      // The stage stays at hand between two of them.
      await finished(renderer)
    }
    return { width, height, delivered: await readShares(renderer, sum.target), background: [...empty] }
  } finally {
    renderer.autoClear = autoClear
    for (const one of [...worn, shot, sum]) one.dispose()
  }
}
