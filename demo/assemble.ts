import type { Mesh, Surface } from '../core/mesh/mesh'
import type { Point, Shape } from './shapes'

/** Where a shape goes: `x`, `y`, `z` are the directions of its own axes in the world (right-handed, unit length). */
export interface Placement {
  at: Point
  x?: Point
  y?: Point
  z?: Point
}

export interface DemoPart {
  object: string
  material: string
  shape: Shape
  place: Placement
  /** Texture tile, counted from UDIM 1001; 0 where none is given. */
  tile?: number
  /** Numbers for every vertex of the part, from its position and normal in the world. */
  maps: Record<string, (position: Point, normal: Point) => number>
}

/**
 * What the materials of the ferry pier look like before anything varies them: linear base color, metalness, roughness.
 */
const SURFACES: Record<string, [[number, number, number], number, number]> = {
  glass: [[0.09, 0.3, 0.27], 0, 0.15],
  rope: [[0.33, 0.25, 0.14], 0, 0.9],
  steel: [[0.42, 0.43, 0.44], 1, 0.4],
  iron: [[0.18, 0.17, 0.17], 1, 0.6],
  paint: [[0.05, 0.14, 0.25], 0, 0.45],
  ceramic: [[0.06, 0.26, 0.28], 0, 0.3],
  wood: [[0.22, 0.14, 0.08], 0, 0.8],
  copper: [[0.75, 0.35, 0.2], 1, 0.4],
}

/** Gap around each part's rectangle in the UV square, as a share of its side. */
const GAP = 0.004

interface Rect {
  x: number
  y: number
  width: number
  height: number
}

/** Places rectangles on shelves in the unit square, all at one scale: the largest that fits, to 1 in 1,000. */
export function packRects(sizes: readonly { width: number; height: number }[]): Rect[] {
  const order = sizes.map((_, i) => i).sort((a, b) => sizes[b]!.height - sizes[a]!.height || a - b)
  const attempt = (scale: number): Rect[] | null => {
    const rects: Rect[] = []
    let x = GAP
    let y = GAP
    let shelf = 0
    for (const i of order) {
      const width = sizes[i]!.width * scale
      const height = sizes[i]!.height * scale
      if (width + 2 * GAP > 1) return null
      if (x + width + GAP > 1) {
        x = GAP
        y += shelf + GAP
        shelf = 0
      }
      if (y + height + GAP > 1) return null
      rects[i] = { x, y, width, height }
      x += width + GAP
      shelf = Math.max(shelf, height)
    }
    return rects
  }
  let low = 0
  let high = 1
  while (attempt(high)) high *= 2
  while (high - low > low * 1e-3) {
    const middle = (low + high) / 2
    if (attempt(middle)) low = middle
    else high = middle
  }
  return attempt(low)!
}

/** Numbers of a mesh that grows part by part. */
interface Growing {
  positions: number[]
  normals: number[]
  uvs: number[]
  indices: number[]
  maps: Map<string, number[]>
}
/** The longest side of a strip, in sides of a square as large as all shapes together. */
const LONGEST = 0.4

/** What of a shape lies between two of the lines of its grid, across its longer side; shares of that side. */
interface Strip {
  from: number
  to: number
}
/** Where a strip lies in the UV square; those that are higher than wide lie down. */
interface Lie extends Rect, Strip {
  lying: boolean
}

const isUpright = (shape: Shape): boolean => shape.height > shape.width
/** Where a vertex lies along the longer side of its shape. */
const along = (shape: Shape, v: number): number => shape.uvs[v * 2 + Number(isUpright(shape))]!

/** Cuts a shape that is long, a rope or a rail, at lines of its grid into strips of about the same length. */
function stripsOf(shape: Shape, longest: number): Strip[] {
  const count = Math.ceil(Math.max(shape.width, shape.height) / longest)
  if (count === 1) return [{ from: 0, to: 1 }]
  const lines = [...new Set(Array.from({ length: shape.uvs.length / 2 }, (_, v) => along(shape, v)))]
  const nearest = (at: number): number => lines.reduce((a, b) => (Math.abs(b - at) < Math.abs(a - at) ? b : a))
  const cuts = [...new Set(Array.from({ length: count + 1 }, (_, k) => nearest(k / count)))]
  return cuts.slice(1).map((to, k) => ({ from: cuts[k]!, to }))
}

/** A rectangle of its own for each strip of each part, those of a tile packed together. */
function packParts(parts: readonly DemoPart[]): Lie[][] {
  const lies = parts.map((): Lie[] => [])
  for (const tile of new Set(parts.map(p => p.tile ?? 0))) {
    const own = [...parts.keys()].filter(i => (parts[i]!.tile ?? 0) === tile)
    const area = own.reduce((sum, i) => sum + parts[i]!.shape.width * parts[i]!.shape.height, 0)
    const strips = own.flatMap(i => stripsOf(parts[i]!.shape, LONGEST * Math.sqrt(area)).map(s => ({ ...s, part: i })))
    const sides = strips.map(({ part, from, to }) => {
      const { shape } = parts[part]!
      const { width, height } = shape
      const cut = (to - from) * Math.max(width, height)
      return isUpright(shape) ? [width, cut] : [cut, height]
    })
    const packed = packRects(sides.map(([w, h]) => ({ width: Math.max(w!, h!), height: Math.min(w!, h!) })))
    strips.forEach(({ part, from, to }, k) => {
      const [width, height] = sides[k]!
      lies[part]!.push({ ...packed[k]!, x: packed[k]!.x + tile, from, to, lying: height! > width! })
    })
  }
  return lies
}

/** The corners of a shape's triangles that lie in a strip: three vertices each. */
function cornersIn(shape: Shape, { from, to }: Strip): number[] {
  const { indices } = shape
  const middle = (t: number): number =>
    (along(shape, indices[t]!) + along(shape, indices[t + 1]!) + along(shape, indices[t + 2]!)) / 3
  const inside: number[] = []
  for (let t = 0; t < indices.length; t += 3) {
    const at = middle(t)
    if (at >= from && at < to) inside.push(indices[t]!, indices[t + 1]!, indices[t + 2]!)
  }
  return inside
}

function append(to: Growing, { shape, place, maps }: DemoPart, lie: Lie): void {
  const x = place.x ?? [1, 0, 0]
  const y = place.y ?? [0, 1, 0]
  const z = place.z ?? [0, 0, 1]
  /** Along one of the world's axes, what three numbers are along the shape's own. */
  const turned = (list: readonly number[], at: number, k: number): number =>
    x[k]! * list[at]! + y[k]! * list[at + 1]! + z[k]! * list[at + 2]!
  const placed = (v: number, k: number): number => Math.fround(turned(shape.positions, v * 3, k) + place.at[k]!)
  const corners = cornersIn(shape, lie)
  const upright = isUpright(shape)
  const inStrip = (share: number): number => (share - lie.from) / (lie.to - lie.from)
  /** The number of each vertex in the mesh, where it is one of the strip's. */
  const numbers = new Int32Array(shape.positions.length / 3).fill(-1)
  for (const v of corners) numbers[v] = 0
  for (let v = 0; v < numbers.length; v++) {
    if (numbers[v]! < 0) continue
    numbers[v] = to.positions.length / 3
    const position: Point = [placed(v, 0), placed(v, 1), placed(v, 2)]
    const { normals } = shape
    const normal: Point = [turned(normals, v * 3, 0), turned(normals, v * 3, 1), turned(normals, v * 3, 2)]
    to.positions.push(...position)
    to.normals.push(...normal)
    const u = upright ? shape.uvs[v * 2]! : inStrip(shape.uvs[v * 2]!)
    const w = upright ? inStrip(shape.uvs[v * 2 + 1]!) : shape.uvs[v * 2 + 1]!
    const across = lie.lying ? w : u
    const down = lie.lying ? 1 - u : w
    to.uvs.push(lie.x + across * lie.width, lie.y + down * lie.height)
    for (const [name, values] of to.maps) values.push(maps[name]?.(position, normal) ?? 0)
  }
  for (const v of corners) to.indices.push(numbers[v]!)
}

/** Joins parts into one mesh, objects in the order in which they first appear; `patches` counts its pieces in UVs. */
export function assemble(parts: readonly DemoPart[]): { mesh: Mesh; patches: number } {
  const lies = packParts(parts)
  const mapNames = [...new Set(parts.flatMap(p => Object.keys(p.maps)))]
  const all: Growing = { positions: [], normals: [], uvs: [], indices: [], maps: new Map(mapNames.map(n => [n, []])) }
  const objects: Mesh['objects'] = []
  const materials: Mesh['materials'] = []
  for (const name of new Set(parts.map(p => p.object))) {
    const firstVertex = all.positions.length / 3
    const firstTriangle = all.indices.length / 3
    // By material, so that an object has one run of triangles for each.
    const own = [...parts.keys()].filter(i => parts[i]!.object === name)
    const order = (a: string, b: string): number => Number(a > b) - Number(a < b)
    own.sort((a, b) => order(parts[a]!.material, parts[b]!.material) || a - b)
    for (const i of own) {
      const before = all.indices.length / 3
      for (const lie of lies[i]!) append(all, parts[i]!, lie)
      const triangles = all.indices.length / 3 - before
      const run = materials.at(-1)
      if (run?.name === parts[i]!.material && before > firstTriangle) run.triangles += triangles
      else materials.push({ name: parts[i]!.material, firstTriangle: before, triangles })
    }
    const vertices = all.positions.length / 3 - firstVertex
    objects.push({ name, firstVertex, vertices, firstTriangle, triangles: all.indices.length / 3 - firstTriangle })
  }
  const mesh: Mesh = {
    objects,
    materials,
    warnings: [],
    surfaces: [...new Set(materials.map(m => m.name))].map((name): Surface => {
      const [baseColor, metalness, roughness] = SURFACES[name] ?? [[0.5, 0.5, 0.5], 0, 0.5]
      return { name, baseColor, metalness, roughness, textures: [] }
    }),
    positions: Float32Array.from(all.positions),
    normals: Float32Array.from(all.normals),
    uvs: Float32Array.from(all.uvs),
    indices: Uint32Array.from(all.indices),
    maps: [...all.maps].map(([name, values]) => ({ name, components: 1, values: Float32Array.from(values) })),
  }
  return { mesh, patches: lies.flat().length }
}
