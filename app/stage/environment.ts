import { BackSide, BoxGeometry, BufferAttribute, Color, Mesh, MeshBasicMaterial, PMREMGenerator, Scene, SphereGeometry, type Texture, type WebGLRenderer } from 'three'

type Triple = [number, number, number]
/** A lamp or an open sky seen as a glowing plate: radiance, size and place in meters, around the middle of the mesh. */
interface Panel { radiance: number | Triple, size: Triple, at: Triple }
interface Rig {
  title: string
  help: string
  /** Radiance of the surroundings from straight down (-1) to straight up (1). */
  dome(up: number): number | Triple
  panels: Panel[]
}

/** The lights that come with the stage, made in code. Only the last has hue: it shows how a look stands up to warm light. */
export const RIGS = {
  overcast: {
    title: 'Overcast', help: 'A gray sky, lighter above, with one broad soft window: for judging color.',
    dome: up => 0.46 + 0.3 * Math.max(0, up) ** 0.6 - 0.1 * Math.max(0, -up),
    panels: [{ radiance: 7, size: [6, 5, 0.1], at: [-9, 6, 6] }, { radiance: 3, size: [1.2, 8, 0.1], at: [10, 4, -5] }, { radiance: 4, size: [7, 2, 0.1], at: [2, 13, -3] }],
  },
  lowSun: {
    title: 'Low sun', help: 'A small hard light from the side, a dim sky: shows height and roughness.',
    dome: up => 0.2 + 0.34 * Math.max(0, up),
    panels: [{ radiance: 260, size: [1.5, 1.5, 0.1], at: [-14, 4.5, 6] }],
  },
  strips: {
    title: 'Workshop strips', help: 'Rows of long lamps overhead: their reflections run over every bump.',
    dome: up => up > 0.2 ? 0.1 : 0.16,
    panels: [-7.5, -2.5, 2.5, 7.5].map((z): Panel => ({ radiance: 13, size: [16, 0.5, 0.1], at: [0, 10, z] })),
  },
  lamp: {
    title: 'Night lamp', help: 'One warm lamp near by, and next to nothing else: shows what glows.',
    dome: () => [0.012, 0.014, 0.018],
    panels: [{ radiance: [95, 62, 34], size: [1.6, 1.6, 0.1], at: [5, 8, 7] }],
  },
} as const satisfies Record<string, Rig>
export type RigName = keyof typeof RIGS

const colorOf = (radiance: number | Triple): Color => typeof radiance === 'number' ? new Color().setScalar(radiance) : new Color(...radiance)

/** A rig as an image-based light. */
export function rigLight(renderer: WebGLRenderer, name: RigName): Texture {
  const rig: Rig = RIGS[name], scene = new Scene(), dome = new SphereGeometry(20, 32, 24)
  for (const { radiance, size, at } of rig.panels) {
    const mesh = new Mesh(new BoxGeometry(...size), new MeshBasicMaterial({ color: colorOf(radiance) }))
    mesh.position.set(...at)
    mesh.lookAt(0, 0, 0)
    scene.add(mesh)
  }
  const shades = new Float32Array(dome.attributes.position!.count * 3)
  for (let i = 0; i < shades.length / 3; i++) colorOf(rig.dome(dome.attributes.position!.getY(i) / 20)).toArray(shades, i * 3)
  dome.setAttribute('color', new BufferAttribute(shades, 3))
  scene.add(new Mesh(dome, new MeshBasicMaterial({ side: BackSide, vertexColors: true })))
  const generator = new PMREMGenerator(renderer), { texture } = generator.fromScene(scene, 0.03)
  generator.dispose()
  scene.traverse((o) => {
    if (!(o instanceof Mesh)) return
    ;(o.geometry as BoxGeometry).dispose()
    ;(o.material as MeshBasicMaterial).dispose()
  })
  return texture
}

/**
 * A picture of surroundings (Radiance HDR or OpenEXR, latitude and longitude) as an image-based light.
 * @throws Error with a sentence where it is neither
 */
export async function pictureLight(renderer: WebGLRenderer, name: string, bytes: ArrayBuffer): Promise<Texture> {
  const exr = /\.exr$/i.test(name)
  const Loader = exr ? (await import('three/examples/jsm/loaders/EXRLoader.js')).EXRLoader : (await import('three/examples/jsm/loaders/HDRLoader.js')).HDRLoader
  const url = URL.createObjectURL(new Blob([bytes]))
  try {
    const picture = await new Loader().loadAsync(url), generator = new PMREMGenerator(renderer), { texture } = generator.fromEquirectangular(picture)
    generator.dispose()
    picture.dispose()
    return texture
  }
  catch {
    throw new Error(`${name} cannot be read as a picture of light; Radiance HDR and OpenEXR files can.`)
  }
  finally {
    URL.revokeObjectURL(url)
  }
}
