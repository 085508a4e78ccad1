import {
  Mesh,
  MeshBasicMaterial,
  Scene,
  type Color,
  type Euler,
  type MeshStandardMaterial,
  type PerspectiveCamera,
  type Texture,
  type WebGLRenderer,
} from 'three'
import { shiftOf } from '#core/evaluate/shifts'
import { drawIntoAll } from './smoothCanvas'

/**
 * The look on the stage and in a delivered file: RGBA bytes, row by row from the top, and the color of what is not
 * surface.
 */
export interface Proof {
  width: number
  height: number
  stage: Uint8ClampedArray
  delivered: Uint8ClampedArray
  background: number[]
}

/**
 * Draws a delivered GLB as any viewer would, onto the canvas of the renderer, and reads it back.
 * @param samples pictures with shifted pixels that make it, as on the stage
 */
export async function proofOf(
  renderer: WebGLRenderer,
  glb: ArrayBuffer,
  view: 'finished' | 'baseColor',
  camera: PerspectiveCamera,
  light: { texture: Texture; rotation: Euler; intensity: number },
  background: Color,
  samples: number,
): Promise<Omit<Proof, 'stage'> | null> {
  const { GLTFLoader } = await import('three/examples/jsm/loaders/GLTFLoader.js')
  const { MeshoptDecoder } = await import('meshoptimizer')
  const { scene: delivered } = await new GLTFLoader().setMeshoptDecoder(MeshoptDecoder).parseAsync(glb, '')
  const most = renderer.capabilities.getMaxAnisotropy()
  const worn: MeshStandardMaterial[] = []
  delivered.traverse(o => {
    if (!(o instanceof Mesh)) return
    const material = o.material as MeshStandardMaterial
    worn.push(material)
    for (const map of [material.map, material.roughnessMap, material.normalMap, material.emissiveMap])
      if (map) map.anisotropy = most
    if (view === 'baseColor')
      o.material = new MeshBasicMaterial({
        map: material.map,
        color: material.color,
        vertexColors: material.vertexColors,
        toneMapped: false,
      })
  })
  const { width, height } = renderer.domElement
  drawIntoAll(renderer)
  const copy = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })
  if (!copy) return null
  const scene = new Scene()
  scene.environment = light.texture
  scene.environmentRotation = light.rotation
  scene.environmentIntensity = light.intensity
  scene.background = background
  const eye = camera.clone()
  const shoot = (number: number): Uint8ClampedArray => {
    eye.setViewOffset(width, height, ...shiftOf(number), width, height)
    renderer.setScissorTest(false)
    renderer.clear()
    renderer.render(scene, eye)
    copy.drawImage(renderer.domElement, 0, 0)
    return copy.getImageData(0, 0, width, height).data
  }
  try {
    const empty = [...shoot(0).slice(0, 3)]
    scene.add(delivered)
    const sum = new Float32Array(width * height * 4)
    for (let number = 0; number < samples; number++)
      shoot(number).forEach((byte, i) => {
        sum[i]! += byte / samples
      })
    return { width, height, delivered: Uint8ClampedArray.from(sum), background: empty }
  } finally {
    delivered.traverse(o => {
      if (!(o instanceof Mesh)) return
      o.geometry.dispose()
      ;(o.material as MeshStandardMaterial).dispose()
    })
    for (const m of worn) {
      for (const map of [m.map, m.roughnessMap, m.metalnessMap, m.normalMap, m.emissiveMap, m.aoMap]) map?.dispose()
      m.dispose()
    }
  }
}
