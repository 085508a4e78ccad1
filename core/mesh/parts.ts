import { eigen3 } from './eigen'
import { baseGroups, type Group, type Groups } from './groups'
import { keyOf } from './hash'
import { boundsOf, type Mesh } from './mesh'
import { findPatches, type PatchSettings } from './patches'
import { connect, welded, WELD_SHARE } from './weld'

/** A connected piece of one object. Lengths in meters, areas in square meters. */
export interface Part {
  /** 16 hexadecimal digits, the same whenever the same piece is exported again. */
  key: string
  name: string
  object: number
  group: number
  triangles: number
  area: number
  /** Middle of the bounding box: exact, whatever the order of the vertices. */
  center: [number, number, number]
  /** Sides of the bounding box. */
  size: [number, number, number]
  min: [number, number, number]
  /** Where the surface balances. */
  centroid: [number, number, number]
  /** Unit direction in which the surface spreads most. */
  longestAxis: [number, number, number]
  /**
   * Root of the mean square distance from the centroid along the three own axes, largest first: turns with the part.
   */
  spread: [number, number, number]
}

export interface Parts extends Groups {
  parts: Part[]
  /** For parts of a file without groups: the group that each had in an earlier export. */
  known?: readonly (Pick<Group, 'key' | 'name'> | undefined)[]
  objectKeys: string[]
  /** Number of patches. */
  patches: number
  patchOfTriangle: Uint32Array
  partOfTriangle: Uint32Array
  /** Vertices that no triangle uses belong to part 0. */
  partOfVertex: Uint32Array
  /** The distance within which vertices were welded, in meters. */
  weldDistance: number
}

export interface PartSettings {
  /** Weld distance in meters; a millionth of the diagonal where none is given. */
  weld?: number
  patches?: PatchSettings
}

/**
 * What a key is made of: object name, center, size and area, each rounded to a step that depends on the part alone, so
 * that adding or removing other parts changes nothing. Areas are sums, whose last bits depend on the order of the
 * triangles: they are rounded on a logarithmic scale at an odd phase, away from round numbers.
 */
function identity(object: string, part: Pick<Part, 'center' | 'size' | 'area'>): string {
  const step = 2 ** (Math.floor(Math.log2(Math.max(1e-9, Math.hypot(...part.size)))) - 10)
  const round = (x: number) => Math.round(x / step + 0.2137)
  return JSON.stringify([
    object,
    part.center.map(round),
    part.size.map(round),
    Math.round(Math.log2(part.area + 1e-18) * 32 + 0.318),
  ])
}

/** Sums over the triangles of a piece, ten numbers: area, first moments, second moments. */
const SUMS = 10
/** The piece of a vertex that no triangle uses, while pieces are measured. */
const UNUSED = 0xffffffff

/** The connected pieces of a mesh, numbered in the order of their first triangle. */
interface Pieces {
  objectOf: number[]
  partOfTriangle: Uint32Array
}
/** What is summed up of each piece. */
interface Sums {
  counts: Uint32Array
  /** `SUMS` numbers each. */
  sums: Float64Array
  /** Lowest and highest corner: six numbers each. */
  boxes: Float64Array
  partOfVertex: Uint32Array
}
/** A part before it has its place among the others; `from` is the number of its piece. */
type Measured = Part & { from: number }

/** Finds the parts of a mesh: pieces connected over welded vertices. */
export function findParts(mesh: Mesh, settings: PartSettings = {}): Parts {
  const { positions, objects } = mesh
  const box = boundsOf(positions)
  const reach = settings.weld ?? WELD_SHARE * Math.hypot(...box.max.map((x, i) => x - box.min[i]!))
  const rep = welded(mesh, reach)
  const { objectOf, partOfTriangle } = piecesOf(mesh, rep)
  const summed = sumUp(mesh, partOfTriangle, objectOf.length)
  const { parts, renumber } = inPlace(
    objectOf.map((object, from) => measured(summed, object, from)),
    mesh,
  )
  const { partOfVertex } = summed
  const isEmpty = !parts.length
  for (let t = 0; t < partOfTriangle.length; t++) partOfTriangle[t] = renumber[partOfTriangle[t]!]!
  for (let v = 0; v < partOfVertex.length; v++) partOfVertex[v] = isEmpty ? 0 : renumber[partOfVertex[v]!]!
  const names = new Map<string, number>()
  const objectKeys = objects.map(o => {
    const nth = names.get(o.name) ?? 0
    names.set(o.name, nth + 1)
    return keyOf(`object ${o.name}#${nth}`)
  })
  return {
    parts,
    ...baseGroups(mesh, parts, partOfTriangle),
    objectKeys,
    ...findPatches(mesh, settings.patches ?? { by: 'uv' }, reach, rep, { parts, partOfTriangle }),
    partOfTriangle,
    partOfVertex,
    weldDistance: reach,
  }
}

/** @param rep for each vertex the one that it is welded to */
function piecesOf(mesh: Mesh, rep: Uint32Array): Pieces {
  const { positions, indices, objects } = mesh
  const sets = connect(mesh, rep)
  const number = new Int32Array(positions.length / 3).fill(-1)
  const objectOf: number[] = []
  const partOfTriangle = new Uint32Array(indices.length / 3)
  objects.forEach((object, o) => {
    for (let t = object.firstTriangle; t < object.firstTriangle + object.triangles; t++) {
      const root = sets.find(rep[indices[t * 3]!]!)
      if (number[root]! < 0) number[root] = objectOf.push(o) - 1
      partOfTriangle[t] = number[root]!
    }
  })
  return { objectOf, partOfTriangle }
}

function sumUp({ positions, indices }: Mesh, partOfTriangle: Uint32Array, count: number): Sums {
  const partOfVertex = new Uint32Array(positions.length / 3).fill(UNUSED)
  const counts = new Uint32Array(count)
  const sums = new Float64Array(count * SUMS)
  const boxes = new Float64Array(count * 6)
  for (let n = 0; n < count; n++) boxes.fill(Infinity, n * 6, n * 6 + 3).fill(-Infinity, n * 6 + 3, n * 6 + 6)
  for (let t = 0; t < partOfTriangle.length; t++) {
    const n = partOfTriangle[t]!
    const i = indices[t * 3]!
    const j = indices[t * 3 + 1]!
    const k = indices[t * 3 + 2]!
    partOfVertex[i] = n
    partOfVertex[j] = n
    partOfVertex[k] = n
    const a = i * 3
    const b = j * 3
    const c = k * 3
    const ax = positions[a]!
    const ay = positions[a + 1]!
    const az = positions[a + 2]!
    const bx = positions[b]!
    const by = positions[b + 1]!
    const bz = positions[b + 2]!
    const cx = positions[c]!
    const cy = positions[c + 1]!
    const cz = positions[c + 2]!
    const ux = bx - ax
    const uy = by - ay
    const uz = bz - az
    const vx = cx - ax
    const vy = cy - ay
    const vz = cz - az
    const nx = uy * vz - uz * vy
    const ny = uz * vx - ux * vz
    const nz = ux * vy - uy * vx
    const area = Math.sqrt(nx * nx + ny * ny + nz * nz) / 2
    counts[n]!++
    addMoments(sums, n * SUMS, area, (ax + bx + cx) / 3, (ay + by + cy) / 3, (az + bz + cz) / 3)
  }
  growBoxes(boxes, positions, partOfVertex)
  return { counts, sums, boxes, partOfVertex }
}

/**
 * Lets the box of each part grow over its vertices: each once, however many triangles use it. Those that none uses go
 * to the first piece.
 */
function growBoxes(boxes: Float64Array, positions: Float32Array, partOfVertex: Uint32Array): void {
  for (let v = 0; v < partOfVertex.length; v++) {
    const n = partOfVertex[v]!
    if (n === UNUSED) {
      partOfVertex[v] = 0
      continue
    }
    const low = n * 6
    for (let k = 0; k < 3; k++) {
      const x = positions[v * 3 + k]!
      if (x < boxes[low + k]!) boxes[low + k] = x
      if (x > boxes[low + 3 + k]!) boxes[low + 3 + k] = x
    }
  }
}

/** Adds the area of a triangle, and its moments as if it lay in its middle, to the sums that begin at `s`. */
function addMoments(sums: Float64Array, s: number, area: number, x: number, y: number, z: number): void {
  sums[s]! += area
  sums[s + 1]! += area * x
  sums[s + 2]! += area * y
  sums[s + 3]! += area * z
  sums[s + 4]! += area * x * x
  sums[s + 5]! += area * x * y
  sums[s + 6]! += area * x * z
  sums[s + 7]! += area * y * y
  sums[s + 8]! += area * y * z
  sums[s + 9]! += area * z * z
}

/** A piece as a part, without key and name. */
function measured({ counts, sums, boxes }: Sums, object: number, from: number): Measured {
  const s = from * SUMS
  const area = sums[s]!
  const w = Math.max(area, 1e-300)
  const min = Array.from(boxes.subarray(from * 6, from * 6 + 3)) as Part['min']
  const max = boxes.subarray(from * 6 + 3, from * 6 + 6)
  const centroid = [sums[s + 1]! / w, sums[s + 2]! / w, sums[s + 3]! / w] as Part['centroid']
  const [x, y, z] = centroid
  const { values, vectors } = eigen3([
    sums[s + 4]! / w - x * x,
    sums[s + 5]! / w - x * y,
    sums[s + 6]! / w - x * z,
    sums[s + 7]! / w - y * y,
    sums[s + 8]! / w - y * z,
    sums[s + 9]! / w - z * z,
  ])
  return {
    from,
    key: '',
    name: '',
    object,
    group: 0,
    triangles: counts[from]!,
    area,
    min,
    centroid,
    center: min.map((q, k) => (q + max[k]!) / 2) as Part['center'],
    size: min.map((q, k) => max[k]! - q) as Part['size'],
    longestAxis: vectors[0]!,
    spread: values.map(q => Math.sqrt(Math.max(0, q))) as Part['spread'],
  }
}

/**
 * Parts in the order of space, so that their numbers do not depend on the order in the file, with names and keys; ties
 * between keys go by that order.
 * @returns `renumber` gives the new number of each piece
 */
function inPlace(found: Measured[], { objects }: Mesh): { parts: Part[]; renumber: Uint32Array } {
  found.sort(
    (a, b) =>
      a.object - b.object ||
      b.center[1] - a.center[1] ||
      a.center[0] - b.center[0] ||
      a.center[2] - b.center[2] ||
      b.area - a.area,
  )
  const seen = new Map<string, number>()
  const inObject = new Map<number, number>()
  const inFile = new Map<number, number>()
  for (const p of found) inFile.set(p.object, (inFile.get(p.object) ?? 0) + 1)
  const renumber = new Uint32Array(found.length)
  const parts = found.map(({ from, ...p }, i): Part => {
    renumber[from] = i
    const object = objects[p.object]!
    const text = identity(object.name, p)
    const tie = seen.get(text) ?? 0
    seen.set(text, tie + 1)
    const nth = (inObject.get(p.object) ?? 0) + 1
    inObject.set(p.object, nth)
    return {
      ...p,
      key: keyOf(`${text}#${tie}`),
      name: inFile.get(p.object) === 1 ? object.name : `${object.name}/${nth}`,
    }
  })
  return { parts, renumber }
}
