import { BackSide, BoxGeometry, BufferAttribute, Color, Mesh, MeshBasicMaterial, PMREMGenerator, Scene, SphereGeometry, type Texture, type WebGLRenderer } from 'three'
import { RIGS, type Rig, type RigName } from '#core/trace/rigs'

type Triple = [number, number, number]

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
