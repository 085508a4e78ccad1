import { rasterizeTile, type Tiling } from '../bake/raster'
import { RayScene } from '../geometry/rays'
import type { RayTree } from '../geometry/rayTree'
import type { Texels } from '../kernels/texels'
import { diagonalOf } from '../mesh/mesh'
import { findPartners, type Given, type MatchBy, type Parted, type Partners } from './partners'

/** How far outward of the light mesh rays begin, and how far inward of it they end, in meters. */
export interface Cage {
  outward: number
  inward: number
}

/** How detail is looked for. */
export interface CageSettings extends Cage {
  match: MatchBy
  /** Parts of the light mesh that have a cage of their own, by key. */
  cages?: Readonly<Record<string, Cage>>
  /** A vertex map of the light mesh, 0 to 1, that every cage is multiplied by; 1 everywhere where it is left out. */
  cageMap?: string
  /** See {@link findPartners}. */
  given?: Given
}

/** The cage of every part of the light mesh. */
export const cagesOf = ({ parts }: Parted, { outward, inward, cages = {} }: CageSettings): Cage[] =>
  parts.parts.map(p => cages[p.key] ?? { outward, inward })

/** How well the dense mesh was found, for each part of the light one. */
export interface Found {
  texels: Uint32Array
  /**
   * Texels whose ray met nothing: they have the nearest place of their partners, or of themselves where there are none.
   */
  missed: Uint32Array
  /** Texels whose ray met what belongs to another part. */
  wrong: Uint32Array
}

/**
 * Where the texels of a tile found the dense mesh. Vertices are the dense mesh's; without partners there is nothing to
 * be read, and the first vertex is {@link NOTHING}.
 */
export interface Hits {
  texel: Uint32Array
  /** The part of the light mesh. */
  part: Uint32Array
  /** Three vertices of the dense mesh for each texel, and the weights of the second and the third. */
  corners: Uint32Array
  u: Float32Array
  v: Float32Array
  /** How far outward of the light surface it was found, along its normal, in meters. */
  height: Float32Array
  /** Normal of the light surface there, three numbers, unit length. */
  normals: Float32Array
  /** The place on the light surface, three numbers, in meters. */
  places: Float32Array
  /** 1 where the ray met the dense mesh. */
  met: Uint8Array
}
export const NOTHING = 0xffffffff

/** Casts rays from a light mesh to a dense one, tile by tile. */
export class Transfer {
  readonly partners: Partners
  readonly found: Found
  private readonly scene: RayScene
  private readonly cages: readonly Cage[]
  private readonly widths: Float32Array | undefined

  /** @param light with UVs */
  constructor(
    private readonly light: Parted,
    private readonly dense: Parted,
    private readonly cage: CageSettings,
  ) {
    this.cages = cagesOf(light, cage)
    this.partners = findPartners(light, dense, reachOf(light, cage), cage.given)
    const count = light.parts.parts.length
    const owner = this.ownerOf()
    this.scene = new RayScene(
      dense.mesh.positions,
      dense.mesh.indices,
      Uint32Array.from(dense.parts.partOfTriangle, p => owner[p]!),
      cage.match === 'object' ? light.mesh.objects.length + 1 : count + 1,
    )
    this.widths = cage.cageMap === undefined ? undefined : widthsOf(light, cage.cageMap)
    this.found = {
      texels: new Uint32Array(count),
      missed: new Uint32Array(count),
      wrong: new Uint32Array(count),
    }
  }

  /** For each dense part the number under which its rays look for it; the last number is nobody's. */
  private ownerOf(): Uint32Array {
    const { parts, mesh } = this.light
    const byObject = this.cage.match === 'object'
    const nobody = byObject ? mesh.objects.length : parts.parts.length
    return Uint32Array.from(this.partners.partOf, p => {
      if (p < 0) return nobody
      return byObject ? parts.parts[p]!.object : p
    })
  }

  private treeFor(part: number): RayTree | undefined {
    if (this.cage.match === 'near') return this.scene.all()
    return this.scene.part(this.cage.match === 'object' ? this.light.parts.parts[part]!.object : part)
  }

  /**
   * Finds the dense mesh from some rows of a tile.
   * @param size texels along each side of the tile
   */
  rows(texels: Texels, tiling: Tiling, tile: number, size: number, from: number, to: number): Hits {
    const { texel, points } = rasterizeTile(texels, this.light.mesh, size, tile, tiling, from, to)
    const { count, triangle, u, v } = points
    const hits: Hits = {
      texel,
      part: new Uint32Array(count),
      corners: new Uint32Array(count * 3),
      u: new Float32Array(count),
      v: new Float32Array(count),
      height: new Float32Array(count),
      normals: new Float32Array(count * 3),
      places: new Float32Array(count * 3),
      met: new Uint8Array(count),
    }
    const { positions, normals, indices } = this.light.mesh
    for (let i = 0; i < count; i++) {
      const t = triangle[i]!
      const p = u[i]!
      const q = v[i]!
      const a = indices[t * 3]! * 3
      const b = indices[t * 3 + 1]! * 3
      const c = indices[t * 3 + 2]! * 3
      let length = 0
      for (let k = 0; k < 3; k++) {
        const n = normals[a + k]! * (1 - p - q) + normals[b + k]! * p + normals[c + k]! * q
        hits.normals[i * 3 + k] = n
        length += n * n
        hits.places[i * 3 + k] = positions[a + k]! * (1 - p - q) + positions[b + k]! * p + positions[c + k]! * q
      }
      length = Math.sqrt(length) || 1
      for (let k = 0; k < 3; k++) hits.normals[i * 3 + k]! /= length
      hits.part[i] = this.light.parts.partOfTriangle[t]!
      const w = this.widths
      this.cast(hits, i, w ? w[a / 3]! * (1 - p - q) + w[b / 3]! * p + w[c / 3]! * q : 1)
    }
    return hits
  }

  /** From outside straight in: the first surface that faces outward; where there is none, the nearest place. */
  private cast(hits: Hits, i: number, width: number): void {
    const { cage, cages, found } = this
    const part = hits.part[i]!
    found.texels[part]!++
    const tree = this.treeFor(part)
    if (!tree) {
      found.missed[part]!++
      hits.corners.fill(NOTHING, i * 3, i * 3 + 3)
      return
    }
    const n = hits.normals.subarray(i * 3, i * 3 + 3)
    const at = hits.places.subarray(i * 3, i * 3 + 3)
    const outward = cages[part]!.outward * width
    const inward = cages[part]!.inward * width
    const [x, y, z] = [0, 1, 2].map(k => at[k]! + n[k]! * outward) as [number, number, number]
    const met = tree.first(x, y, z, -n[0]!, -n[1]!, -n[2]!, outward + inward, true)
    if (met >= 0) {
      hits.met[i] = 1
      this.place(hits, i, tree, met, tree.place)
      const owner = this.partners.partOf[this.dense.parts.partOfVertex[tree.corner(met, 0)]!]
      if (owner !== part && cage.match !== 'object') found.wrong[part]!++
      return
    }
    found.missed[part]!++
    const near = tree.nearest(at[0]!, at[1]!, at[2]!)
    if (near >= 0) this.place(hits, i, tree, near, tree.place)
  }

  /** Notes a place on a triangle of the dense mesh. */
  private place(hits: Hits, i: number, tree: RayTree, triangle: number, point: ArrayLike<number>): void {
    const a = tree.corner(triangle, 0)
    const b = tree.corner(triangle, 1)
    const c = tree.corner(triangle, 2)
    hits.corners.set([a, b, c], i * 3)
    const p = this.dense.mesh.positions
    let uu = 0
    let uv = 0
    let vv = 0
    let pu = 0
    let pv = 0
    let height = 0
    for (let k = 0; k < 3; k++) {
      const o = p[a * 3 + k]!
      const u = p[b * 3 + k]! - o
      const v = p[c * 3 + k]! - o
      const x = point[k]!
      const d = x - o
      uu += u * u
      uv += u * v
      vv += v * v
      pu += d * u
      pv += d * v
      height += (x - hits.places[i * 3 + k]!) * hits.normals[i * 3 + k]!
    }
    const det = uu * vv - uv * uv || 1
    hits.u[i] = (vv * pu - uv * pv) / det
    hits.v[i] = (uu * pv - uv * pu) / det
    hits.height[i] = height
  }
}

/**
 * How far away a part of the dense mesh may be of the one that it belongs to, in meters. Wider than every cage: one
 * that lies farther off still belongs to somebody, and is counted as missed.
 */
export function reachOf(light: Parted, settings: CageSettings): number {
  const widest = Object.values(settings.cages ?? {}).reduce(
    (most, { outward, inward }) => Math.max(most, outward, inward),
    Math.max(settings.outward, settings.inward),
  )
  return widest * 4 + diagonalOf(light.mesh) * 0.01
}

/** @throws Error with a sentence where there is no such map of one number */
export function widthsOf({ mesh }: Parted, name: string): Float32Array {
  const map = mesh.maps.find(m => m.name === name && m.components === 1)
  if (!map) throw new Error(`The mesh has no vertex map "${name}" of one number for the cage.`)
  return map.values.map(x => Math.min(1, Math.max(0, x)))
}

/** Values per vertex of the dense mesh where texels found it. @param otherwise for texels without partners */
export function valuesAt(
  hits: Hits,
  values: Float32Array,
  size: number,
  lane: number,
  otherwise: number,
): Float32Array {
  const { corners, u, v } = hits
  return Float32Array.from(hits.texel, (_, i) => {
    const a = corners[i * 3]!
    if (a === NOTHING) return otherwise
    const at = (vertex: number): number => values[vertex * size + lane]!
    const first = at(a)
    return first + (at(corners[i * 3 + 1]!) - first) * u[i]! + (at(corners[i * 3 + 2]!) - first) * v[i]!
  })
}
