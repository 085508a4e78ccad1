import {
  BackSide,
  BoxGeometry,
  BufferAttribute,
  Color,
  CompressedCubeTexture,
  DataTexture,
  DataUtils,
  EquirectangularReflectionMapping,
  HalfFloatType,
  LinearFilter,
  LinearMipmapLinearFilter,
  Mesh,
  MeshBasicMaterial,
  PMREMGenerator,
  RGBAFormat,
  Scene,
  SphereGeometry,
  type CompressedPixelFormat,
  type Texture,
  type WebGLRenderer,
} from 'three'
import type { Surroundings } from '#core/trace/light'
import { RIGS, type Rig, type RigName } from '#core/trace/rigs'
import { keyOfPicture, keyOfRig, type KeyLight } from '#core/light/keyLight'

/** Surroundings as a light: what shines from everywhere, and the lamp that casts the shadow. */
export interface Light {
  texture: Texture
  key: KeyLight
}

type Triple = [number, number, number]

const colorOf = (radiance: number | Triple): Color =>
  typeof radiance === 'number' ? new Color().setScalar(radiance) : new Color(...radiance)

/**
 * Pixels along the sides of the cube that surroundings become. three.js makes them 256 at least, which takes a graphics
 * card some milliseconds and software twelve seconds on two cores; a quarter of it is enough but for mirrors.
 */
export type Sharpness = 256 | 64

function generatorOf(renderer: WebGLRenderer, sharpness: Sharpness): PMREMGenerator {
  const generator = new PMREMGenerator(renderer)
  // Its size has a lower limit that no option changes.
  if (sharpness < 256)
    Object.assign(generator, {
      _setSize(this: { _cubeSize: number }) {
        this._cubeSize = sharpness
      },
    })
  return generator
}

/** A rig as an image-based light, made by the graphics card. */
function drawnRig(renderer: WebGLRenderer, name: RigName, sharpness: Sharpness): Texture {
  const rig: Rig = RIGS[name]
  const scene = new Scene()
  const dome = new SphereGeometry(20, 32, 24)
  for (const { radiance, size, at } of rig.panels) {
    const mesh = new Mesh(new BoxGeometry(...size), new MeshBasicMaterial({ color: colorOf(radiance) }))
    mesh.position.set(...at)
    mesh.lookAt(0, 0, 0)
    scene.add(mesh)
  }
  const shades = new Float32Array(dome.attributes.position!.count * 3)
  for (let i = 0; i < shades.length / 3; i++)
    colorOf(rig.dome(dome.attributes.position!.getY(i) / 20)).toArray(shades, i * 3)
  dome.setAttribute('color', new BufferAttribute(shades, 3))
  scene.add(new Mesh(dome, new MeshBasicMaterial({ side: BackSide, vertexColors: true })))
  const generator = generatorOf(renderer, sharpness)
  const { texture } = generator.fromScene(scene, 0.03)
  generator.dispose()
  scene.traverse(o => {
    if (!(o instanceof Mesh)) return
    ;(o.geometry as BoxGeometry).dispose()
    ;(o.material as MeshBasicMaterial).dispose()
  })
  return texture
}

const fetched = new Map<RigName, Promise<Uint16Array<ArrayBuffer>>>()

/**
 * The half floats of a rig as `core/light` prefilters it, level by level, face by face, four a texel: made with the
 * application (`scripts/rigs.mjs`).
 */
function prefiltered(name: RigName): Promise<Uint16Array<ArrayBuffer>> {
  const old = fetched.get(name)
  if (old) return old
  const coming = fetch(new URL(`./generated/${name}.bin`, import.meta.url)).then(async answer => {
    if (!answer.ok) throw new Error(`The light ${name} did not come (${answer.status}).`)
    return new Uint16Array(await answer.arrayBuffer())
  })
  fetched.set(name, coming)
  coming.catch(() => fetched.delete(name))
  return coming
}

/** A rig as an image-based light, of a prefiltered one: software needs seconds of a processor to make it itself. */
function readyRig(halves: Uint16Array<ArrayBuffer>, sharpness: Sharpness): Texture {
  const faces = Array.from({ length: 6 }, () => ({
    width: sharpness,
    height: sharpness,
    mipmaps: [] as { width: number; height: number; data: Uint16Array }[],
  }))
  let at = 0
  for (let size: number = sharpness; at < halves.length; size /= 2) {
    for (const { mipmaps } of faces) {
      const end = at + size * size * 4
      mipmaps.push({ width: size, height: size, data: halves.subarray(at, end) })
      at = end
    }
  }
  // The one kind of cube map that three.js takes with levels of its own; of this format it is not compressed.
  const texture = new CompressedCubeTexture(faces, RGBAFormat as unknown as CompressedPixelFormat, HalfFloatType)
  texture.minFilter = LinearMipmapLinearFilter
  texture.magFilter = LinearFilter
  texture.needsUpdate = true
  return Object.assign(texture, { isPMREMTexture: true })
}

/** A rig as an image-based light. */
export async function rigLight(renderer: WebGLRenderer, name: RigName, sharpness: Sharpness): Promise<Light> {
  const key = keyOfRig(name)
  if (sharpness === 256) return { texture: drawnRig(renderer, name, sharpness), key }
  try {
    return { texture: readyRig(await prefiltered(name), sharpness), key }
  } catch {
    // Without the server the stage goes on.
    return { texture: drawnRig(renderer, name, sharpness), key }
  }
}

/** A picture of surroundings as an image-based light. */
export function pictureLight(renderer: WebGLRenderer, picture: Surroundings, sharpness: Sharpness): Light {
  const { width, height, data } = picture
  // Half floats, rows from the bottom, as WebGL counts them.
  const texels = new Uint16Array(width * height * 4)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const to = ((height - 1 - y) * width + x) * 4
      for (let k = 0; k < 3; k++)
        texels[to + k] = DataUtils.toHalfFloat(Math.min(BRIGHTEST, data[(y * width + x) * 3 + k]!))
      texels[to + 3] = ONE
    }
  }
  const equirectangular = new DataTexture(
    texels,
    width,
    height,
    RGBAFormat,
    HalfFloatType,
    EquirectangularReflectionMapping,
  )
  equirectangular.magFilter = LinearFilter
  equirectangular.minFilter = LinearFilter
  equirectangular.needsUpdate = true
  const generator = generatorOf(renderer, sharpness)
  const { texture } = generator.fromEquirectangular(equirectangular)
  generator.dispose()
  equirectangular.dispose()
  return { texture, key: keyOfPicture(picture) }
}
/** The largest half float, and 1 as one. */
const BRIGHTEST = 65504
const ONE = 0x3c00
