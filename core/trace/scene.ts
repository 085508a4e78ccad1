import {
  WebIO,
  type Accessor,
  type Material as FileMaterial,
  type Node,
  type Primitive,
  type Root,
  type Texture,
} from '@gltf-transform/core'
import {
  EXTMeshoptCompression,
  EXTTextureWebP,
  type EmissiveStrength,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsVariants,
  KHRMeshQuantization,
} from '@gltf-transform/extensions'
import { decode } from 'fast-png'
import { MeshoptDecoder } from 'meshoptimizer'
import { decodeSrgb } from '../color/convert'
import { RayTree } from '../geometry/rayTree'
import { boundsOf, type Box } from '../mesh/mesh'
import { cofactorsOf } from '../mesh/matrix'
import { cross } from '../mesh/vector'
import type { Direction } from './bsdf'

const EXTENSIONS = [
  EXTMeshoptCompression,
  EXTTextureWebP,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsVariants,
  KHRMeshQuantization,
]

/** A GLB that cannot be traced. The message is one sentence. */
export class SceneError extends Error {}

/** A picture as it is decoded: rows from the top, so many numbers a pixel, of so many bits. */
export interface DecodedPicture {
  width: number
  height: number
  channels: number
  depth: number
  data: ArrayLike<number>
}

/** A picture of a material: its numbers from 0 to 1, colors linear. */
interface Picture {
  width: number
  height: number
  channels: number
  data: Float32Array
}
interface Material {
  baseColor: [number, number, number, number]
  metalness: number
  roughness: number
  emission: Direction
  baseMap?: Picture
  roughMap?: Picture
  normalMap?: Picture
  emissionMap?: Picture
  clear: boolean
}

/** What a ray meets. */
export interface Hit {
  point: Direction
  normal: Direction
  geometric: Direction
  tangent: Direction
  side: Direction
  baseColor: Direction
  metalness: number
  roughness: number
  emission: Direction
  opacity: number
}

/** A delivered GLB, laid out for rays. It is read as any renderer would: nothing of the look is known here. */
export class TraceScene {
  readonly bounds: Box
  readonly tree: RayTree

  private constructor(
    readonly positions: Float32Array,
    readonly normals: Float32Array,
    private readonly uvs: Float32Array,
    private readonly tangents: Float32Array,
    private readonly colors: Float32Array | undefined,
    private readonly indices: Uint32Array,
    private readonly materialOf: Uint16Array,
    private readonly materials: readonly Material[],
  ) {
    this.bounds = boundsOf(positions, indices)
    this.tree = new RayTree(positions, indices, { keep: true })
  }

  /**
   * @param webp reads a WebP, where the file has such pictures
   * @throws SceneError
   */
  static async read(glb: Uint8Array, webp?: (bytes: Uint8Array) => Promise<DecodedPicture>): Promise<TraceScene> {
    await MeshoptDecoder.ready
    const document = await new WebIO()
      .registerExtensions(EXTENSIONS)
      .registerDependencies({ 'meshopt.decoder': MeshoptDecoder })
      .readBinary(glb)
      .catch((error: Error) => {
        throw new SceneError(`The GLB cannot be read (${error.message.split('\n')[0]}).`)
      })
    const root = document.getRoot()
    const read = root.listMaterials().flatMap(texturesRead)
    const materials = readMaterials(root, await decodeTextures(new Set(read), webp))
    const pieces: Piece[] = []
    const visit = (node: Node): void => {
      for (const primitive of node.getMesh()?.listPrimitives() ?? [])
        if (primitive.getAttribute('POSITION')) pieces.push({ m: node.getWorldMatrix(), primitive })
      node.listChildren().forEach(visit)
    }
    const scene = root.getDefaultScene() ?? root.listScenes()[0]
    scene?.listChildren().forEach(visit)
    const laid = layOut(pieces, primitive => {
      const which = root.listMaterials().indexOf(primitive.getMaterial()!)
      return which < 0 ? materials.length - 1 : which
    })
    return new TraceScene(
      laid.positions,
      laid.normals,
      laid.uvs,
      laid.tangents,
      laid.colors,
      laid.indices,
      laid.materialOf,
      materials,
    )
  }

  private mix(values: Float32Array, size: number, t: number, u: number, v: number, k: number): number {
    const at = (c: number) => values[this.indices[t * 3 + c]! * size + k]!
    return at(0) * (1 - u - v) + at(1) * u + at(2) * v
  }

  /** The surface at a triangle's point, seen along a direction; what is seen from behind is turned to the front. */
  at(t: number, point: Direction, along: Direction): Hit {
    const { positions: p, indices } = this
    const a = indices[t * 3]! * 3
    const b = indices[t * 3 + 1]! * 3
    const c = indices[t * 3 + 2]! * 3
    const ux = p[b]! - p[a]!
    const uy = p[b + 1]! - p[a + 1]!
    const uz = p[b + 2]! - p[a + 2]!
    const vx = p[c]! - p[a]!
    const vy = p[c + 1]! - p[a + 1]!
    const vz = p[c + 2]! - p[a + 2]!
    const gx = uy * vz - uz * vy
    const gy = uz * vx - ux * vz
    const gz = ux * vy - uy * vx
    const area = gx * gx + gy * gy + gz * gz || 1
    const dx = point[0] - p[a]!
    const dy = point[1] - p[a + 1]!
    const dz = point[2] - p[a + 2]!
    const u = ((dy * vz - dz * vy) * gx + (dz * vx - dx * vz) * gy + (dx * vy - dy * vx) * gz) / area
    const v = ((uy * dz - uz * dy) * gx + (uz * dx - ux * dz) * gy + (ux * dy - uy * dx) * gz) / area
    const length = Math.sqrt(area)
    const behind = gx * along[0] + gy * along[1] + gz * along[2] > 0 ? -1 : 1
    const geometric: Direction = [(behind * gx) / length, (behind * gy) / length, (behind * gz) / length]
    let normal = unit([0, 1, 2].map(k => behind * this.mix(this.normals, 3, t, u, v, k)) as Direction) ?? geometric
    const m = this.materials[this.materialOf[t]!]!
    const s = this.mix(this.uvs, 2, t, u, v, 0)
    const q = this.mix(this.uvs, 2, t, u, v, 1)
    if (m.normalMap) {
      const [x, y, z] = [0, 1, 2].map(k => look(m.normalMap!, s, q, k) * 2 - 1) as Direction
      const tangent = [0, 1, 2].map(k => this.mix(this.tangents, 4, t, u, v, k)) as Direction
      const w = this.tangents[indices[t * 3]! * 4 + 3]!
      const along = unit(minus(tangent, normal))
      if (along) {
        const up = cross(normal, along)
        const turned = [0, 1, 2].map(k => along[k]! * x + up[k]! * y * w * behind + normal[k]! * z) as Direction
        normal = unit(turned) ?? normal
      }
    }
    const first: Direction = Math.abs(normal[0]) > 0.7 ? [0, 1, 0] : [1, 0, 0]
    const tangent = unit(minus(first, normal))!
    const side = cross(normal, tangent)
    const map = (picture: Picture | undefined, k: number) => (picture ? look(picture, s, q, k) : 1)
    const baseColor = [0, 1, 2].map(
      k => m.baseColor[k]! * map(m.baseMap, k) * (this.colors ? this.mix(this.colors, 3, t, u, v, k) : 1),
    ) as Direction
    return {
      point,
      normal,
      geometric,
      tangent,
      side,
      baseColor,
      metalness: m.metalness * map(m.roughMap, 2),
      roughness: m.roughness * map(m.roughMap, 1),
      emission: [0, 1, 2].map(k => m.emission[k]! * map(m.emissionMap, k)) as Direction,
      opacity: m.clear ? m.baseColor[3] * (m.baseMap && m.baseMap.channels === 4 ? look(m.baseMap, s, q, 3) : 1) : 1,
    }
  }
}

/** The textures of a material that are traced. */
const texturesRead = (m: FileMaterial): Texture[] =>
  [m.getBaseColorTexture(), m.getMetallicRoughnessTexture(), m.getNormalTexture(), m.getEmissiveTexture()].filter(
    t => t !== null,
  )

async function decodeTextures(
  textures: ReadonlySet<Texture>,
  webp?: (bytes: Uint8Array) => Promise<DecodedPicture>,
): Promise<Map<Texture, DecodedPicture>> {
  const found = new Map<Texture, DecodedPicture>()
  for (const texture of textures) {
    const bytes = texture.getImage()
    if (!bytes) continue
    const type = texture.getMimeType()
    if (type === 'image/png') found.set(texture, decode(bytes))
    else if (type === 'image/webp' && webp) found.set(texture, await webp(bytes))
    else
      throw new SceneError(`The picture ${texture.getName()} is neither PNG nor WebP, which is all that is read here.`)
  }
  return found
}

/** All materials of a file in their order, and behind them the one of what has none. */
function readMaterials(root: Root, decoded: ReadonlyMap<Texture, DecodedPicture>): Material[] {
  const pictures = new Map<string, Picture>()
  const picture = (texture: Texture | null, color: boolean): Picture | undefined => {
    const raw = texture && decoded.get(texture)
    if (!raw) return undefined
    const key = `${root.listTextures().indexOf(texture)} ${color}`
    const made = pictures.get(key) ?? linearPicture(raw, color)
    pictures.set(key, made)
    return made
  }
  const none: Material = { baseColor: [1, 1, 1, 1], metalness: 1, roughness: 1, emission: [0, 0, 0], clear: false }
  return [...root.listMaterials().map(m => readMaterial(m, picture)), none]
}

function readMaterial(
  m: FileMaterial,
  picture: (texture: Texture | null, color: boolean) => Picture | undefined,
): Material {
  const strength = m.getExtension<EmissiveStrength>('KHR_materials_emissive_strength')?.getEmissiveStrength() ?? 1
  const baseMap = picture(m.getBaseColorTexture(), true)
  const roughMap = picture(m.getMetallicRoughnessTexture(), false)
  const normalMap = picture(m.getNormalTexture(), false)
  const emissionMap = picture(m.getEmissiveTexture(), true)
  return {
    baseColor: m.getBaseColorFactor(),
    metalness: m.getMetallicFactor(),
    roughness: m.getRoughnessFactor(),
    emission: m.getEmissiveFactor().map(x => x * strength) as Direction,
    clear: m.getAlphaMode() === 'BLEND',
    ...(baseMap && { baseMap }),
    ...(roughMap && { roughMap }),
    ...(normalMap && { normalMap }),
    ...(emissionMap && { emissionMap }),
  }
}

/** @param color whether its numbers are sRGB; a fourth channel never is */
function linearPicture({ width, height, channels, depth, data }: DecodedPicture, color: boolean): Picture {
  const top = 2 ** depth - 1
  const table = Float32Array.from({ length: top + 1 }, (_, i) => (color ? decodeSrgb(i / top) : i / top))
  const isAlpha = (i: number): boolean => color && channels === 4 && i % 4 === 3
  return {
    width,
    height,
    channels,
    data: Float32Array.from(data, (x, i) => (isAlpha(i) ? Number(x) / top : table[Number(x)]!)),
  }
}

/** A primitive where a node puts it: a matrix of 4 by 4, column by column. */
interface Piece {
  m: readonly number[]
  primitive: Primitive
}

/** All pieces end to end, in world space. */
interface LaidOut {
  positions: Float32Array
  normals: Float32Array
  uvs: Float32Array
  tangents: Float32Array
  colors: Float32Array | undefined
  indices: Uint32Array
  materialOf: Uint16Array
}

/** @throws SceneError where there is no triangle */
function layOut(pieces: readonly Piece[], materialOf: (primitive: Primitive) => number): LaidOut {
  const verticesOf = ({ primitive }: Piece): number => primitive.getAttribute('POSITION')!.getCount()
  const vertices = pieces.reduce((n, p) => n + verticesOf(p), 0)
  const corners = pieces.reduce((n, p) => n + (p.primitive.getIndices()?.getCount() ?? verticesOf(p)), 0)
  if (!corners) throw new SceneError('The GLB has no triangles.')
  const laid: LaidOut = {
    positions: new Float32Array(vertices * 3),
    normals: new Float32Array(vertices * 3),
    uvs: new Float32Array(vertices * 2),
    tangents: new Float32Array(vertices * 4),
    colors: pieces.some(p => p.primitive.getAttribute('COLOR_0')) ? new Float32Array(vertices * 3).fill(1) : undefined,
    indices: new Uint32Array(corners),
    materialOf: new Uint16Array(corners / 3),
  }
  let firstVertex = 0
  let firstCorner = 0
  for (const piece of pieces) {
    const { primitive } = piece
    const count = verticesOf(piece)
    placeVertices(laid, piece, firstVertex)
    const list = primitive.getIndices()?.getArray()
    const n = list?.length ?? count
    // A mirrored triangle turns the other way around.
    const order = cofactorsOf(piece.m).mirrored ? [0, 1, -1] : [0, 0, 0]
    for (let i = 0; i < n; i++) {
      const at = i + order[i % 3]!
      laid.indices[firstCorner + i] = firstVertex + (list ? list[at]! : at)
    }
    laid.materialOf.fill(materialOf(primitive), firstCorner / 3, (firstCorner + n) / 3)
    firstVertex += count
    firstCorner += n
  }
  return laid
}

function placeVertices(laid: LaidOut, { m, primitive }: Piece, first: number): void {
  const position = primitive.getAttribute('POSITION')!
  const e: number[] = []
  for (let v = 0; v < position.getCount(); v++) {
    position.getElement(v, e)
    for (let k = 0; k < 3; k++)
      laid.positions[(first + v) * 3 + k] = m[k]! * e[0]! + m[4 + k]! * e[1]! + m[8 + k]! * e[2]! + m[12 + k]!
  }
  const { cofactors, mirrored } = cofactorsOf(m)
  const outward = mirrored ? cofactors.map(x => -x) : cofactors
  placeDirections(primitive.getAttribute('NORMAL'), outward, laid.normals, first, 3)
  placeDirections(primitive.getAttribute('TANGENT'), linear(m), laid.tangents, first, 4)
  copyInto(primitive.getAttribute('TEXCOORD_0'), laid.uvs, first, 2)
  if (laid.colors) copyInto(primitive.getAttribute('COLOR_0'), laid.colors, first, 3)
}

/** The part of a matrix that turns and scales: nine numbers, column by column. */
const linear = (m: readonly number[]): number[] => [m[0]!, m[1]!, m[2]!, m[4]!, m[5]!, m[6]!, m[8]!, m[9]!, m[10]!]
/** @param by nine numbers, column by column */
function placeDirections(
  from: Accessor | null,
  by: readonly number[],
  into: Float32Array,
  first: number,
  size: 3 | 4,
): void {
  const e: number[] = []
  for (let v = 0; v < (from?.getCount() ?? 0); v++) {
    from!.getElement(v, e)
    const turned = [0, 1, 2].map(k => by[k]! * e[0]! + by[3 + k]! * e[1]! + by[6 + k]! * e[2]!)
    const length = Math.hypot(...turned) || 1
    for (let k = 0; k < 3; k++) into[(first + v) * size + k] = turned[k]! / length
    if (size === 4) into[(first + v) * 4 + 3] = e[3]!
  }
}

function copyInto(from: Accessor | null, into: Float32Array, first: number, size: number): void {
  const e: number[] = []
  for (let v = 0; v < (from?.getCount() ?? 0); v++) {
    from!.getElement(v, e)
    into.set(e.slice(0, size), (first + v) * size)
  }
}

/** A picture between its four nearest texels, repeated. */
function look({ width, height, channels, data }: Picture, u: number, v: number, k: number): number {
  const x = u * width - 0.5
  const y = v * height - 0.5
  const x0 = Math.floor(x)
  const y0 = Math.floor(y)
  const fx = x - x0
  const fy = y - y0
  const lane = Math.min(k, channels - 1)
  const at = (i: number, j: number) =>
    data[((((j % height) + height) % height) * width + (((i % width) + width) % width)) * channels + lane]!
  return (
    (at(x0, y0) * (1 - fx) + at(x0 + 1, y0) * fx) * (1 - fy) +
    (at(x0, y0 + 1) * (1 - fx) + at(x0 + 1, y0 + 1) * fx) * fy
  )
}
/** What of a is at right angles to n. */
function minus(a: Direction, n: Direction): Direction {
  const d = a[0] * n[0] + a[1] * n[1] + a[2] * n[2]
  return [a[0] - n[0] * d, a[1] - n[1] * d, a[2] - n[2] * d]
}
function unit(a: Direction): Direction | undefined {
  const length = Math.hypot(a[0], a[1], a[2])
  return length > 1e-9 ? [a[0] / length, a[1] / length, a[2] / length] : undefined
}
