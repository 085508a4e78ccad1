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
 * Draws onto all pixels of the canvas from now on. Its size in the page need not be a whole number of pixels, and a
 * viewport that is rounded from it is up to a pixel wider than the canvas.
 */
export function viewAll(renderer: WebGLRenderer): void {
  const { width, height } = renderer.domElement
  const ratio = renderer.getPixelRatio()
  renderer.setViewport(0, 0, width / ratio, height / ratio)
}

/** Draws a delivered GLB as any viewer would, onto the canvas of the renderer, and reads it back. */
export async function proofOf(
  renderer: WebGLRenderer,
  glb: ArrayBuffer,
  view: 'finished' | 'baseColor',
  camera: PerspectiveCamera,
  light: { texture: Texture; rotation: Euler; intensity: number },
  background: Color,
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
  viewAll(renderer)
  const copy = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })
  if (!copy) return null
  const scene = new Scene()
  scene.environment = light.texture
  scene.environmentRotation = light.rotation
  scene.environmentIntensity = light.intensity
  scene.background = background
  const shoot = (): Uint8ClampedArray => {
    renderer.setScissorTest(false)
    renderer.clear()
    renderer.render(scene, camera)
    copy.drawImage(renderer.domElement, 0, 0)
    return copy.getImageData(0, 0, width, height).data
  }
  try {
    const empty = [...shoot().slice(0, 3)]
    scene.add(delivered)
    return { width, height, delivered: shoot(), background: empty }
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
