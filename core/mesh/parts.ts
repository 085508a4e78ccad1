import { boundsOf, triangleAreas, type Box, type Mesh } from './mesh'
import { UnionFind } from './unionFind'
import { weld, WELD_SHARE } from './weld'

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
  /** Unit direction in which the surface spreads most. */
  longestAxis: [number, number, number]
}

export interface Parts {
  parts: Part[]
  /** A set of parts that belong together; parts of an object without a group map belong together. */
  groups: { key: string, object: number }[]
  objectKeys: string[]
  /** Number of patches: pieces connected in UV space as well. */
  patches: number
  partOfTriangle: Uint32Array
  /** Vertices that no triangle uses belong to part 0. */
  partOfVertex: Uint32Array
}

/** The vertex map that names the group of every vertex, if a file carries one. */
export const GROUP_MAP = 'group'

/** 64 bits of text, as two words: FNV-1a, then two finalizers of MurmurHash3. */
export function hashText(text: string): [number, number] {
  let h = 0x811c9dc5
  for (let i = 0; i < text.length; i++) {
    h = Math.imul(h ^ text.charCodeAt(i), 0x01000193)
  }
  let g = 0x2545f491
  for (let i = text.length - 1; i >= 0; i--) g = Math.imul(g ^ text.charCodeAt(i), 0x01000193)
  const finish = (x: number) => {
    x = Math.imul(x ^ (x >>> 16), 0x85ebca6b)
    x = Math.imul(x ^ (x >>> 13), 0xc2b2ae35)
    return (x ^ (x >>> 16)) >>> 0
  }
  return [finish(h), finish(g)]
}

const hexOf = (words: [number, number]): string => words.map(w => w.toString(16).padStart(8, '0')).join('')
export const keyWords = (key: string): [number, number] => [parseInt(key.slice(0, 8), 16), parseInt(key.slice(8), 16)]

/**
 * What a key is made of: object name, center, size and area, each rounded to a step that depends on the part alone, so
 * that adding or removing other parts changes nothing. Areas are sums, whose last bits depend on the order of the
 * triangles: they are rounded on a logarithmic scale at an odd phase, away from round numbers.
 */
function identity(object: string, part: Pick<Part, 'center' | 'size' | 'area'>): string {
  const step = 2 ** (Math.floor(Math.log2(Math.max(1e-9, Math.hypot(...part.size)))) - 10)
  const round = (x: number) => Math.round(x / step + 0.2137)
  return JSON.stringify([object, part.center.map(round), part.size.map(round), Math.round(Math.log2(part.area + 1e-18) * 32 + 0.318)])
}

/** Direction of the largest eigenvalue of a symmetric 3x3 matrix (xx, xy, xz, yy, yz, zz), by power iteration on its square. */
function mainAxis([xx, xy, xz, yy, yz, zz]: number[]): [number, number, number] {
  let m = [[xx!, xy!, xz!], [xy!, yy!, yz!], [xz!, yz!, zz!]]
  for (let i = 0; i < 12; i++) {
    const scale = Math.max(1e-300, ...m.flat().map(Math.abs))
    const n = m.map(row => row.map(x => x / scale))
    m = n.map(row => [0, 1, 2].map(j => row[0]! * n[0]![j]! + row[1]! * n[1]![j]! + row[2]! * n[2]![j]!))
  }
  const columns = [0, 1, 2].map(j => m.map(row => row[j]!)).sort((a, b) => Math.hypot(...b) - Math.hypot(...a))
  const [x, y, z] = columns[0]!, length = Math.hypot(x!, y!, z!)
  return length > 0 ? [x! / length, y! / length, z! / length] : [1, 0, 0]
}

/**
 * Finds the parts of a mesh: pieces connected over welded vertices.
 * @param distance weld distance in meters; a millionth of the diagonal where none is given
 */
export function findParts(mesh: Mesh, distance?: number): Parts {
  const { positions, indices, objects } = mesh, triangleCount = indices.length / 3
  const box = boundsOf(positions)
  const reach = distance ?? WELD_SHARE * Math.hypot(...box.max.map((x, i) => x - box.min[i]!))

  // (1) Pieces over welded vertices, and over vertices welded with their UVs.
  const pieces = (rep: Uint32Array) => {
    const sets = new UnionFind(positions.length / 3)
    for (let i = 0; i < indices.length; i += 3) {
      const a = rep[indices[i]!]!
      sets.union(a, rep[indices[i + 1]!]!)
      sets.union(a, rep[indices[i + 2]!]!)
    }
    return sets
  }
  const rep = weld(mesh, reach), sets = pieces(rep)
  const uvRep = mesh.uvs ? weld(mesh, reach, mesh.uvs) : rep, uvSets = mesh.uvs ? pieces(uvRep) : sets

  // (2) Number the pieces and measure them.
  const number = new Int32Array(positions.length / 3).fill(-1), patchSeen = new Uint8Array(positions.length / 3)
  const partOfTriangle = new Uint32Array(triangleCount), partOfVertex = new Uint32Array(positions.length / 3)
  const areas = triangleAreas(mesh), objectOf: number[] = [], counts: number[] = [], sums: number[][] = [], boxes: Box[] = []
  let patches = 0
  objects.forEach((object, o) => {
    for (let t = object.firstTriangle; t < object.firstTriangle + object.triangles; t++) {
      const root = sets.find(rep[indices[t * 3]!]!)
      const patch = uvSets.find(uvRep[indices[t * 3]!]!)
      if (!patchSeen[patch]) {
        patchSeen[patch] = 1
        patches++
      }
      let n = number[root]!
      if (n < 0) {
        n = number[root] = counts.length
        objectOf.push(o)
        counts.push(0)
        sums.push(new Array<number>(10).fill(0))
        boxes.push({ min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] })
      }
      partOfTriangle[t] = n
      counts[n]!++
      const { min, max } = boxes[n]!, sum = sums[n]!, area = areas[t]!
      const mid = [0, 0, 0]
      for (let c = 0; c < 3; c++) {
        const v = indices[t * 3 + c]!
        partOfVertex[v] = n
        for (let k = 0; k < 3; k++) {
          const x = positions[v * 3 + k]!
          if (x < min[k]!) min[k] = x
          if (x > max[k]!) max[k] = x
          mid[k]! += x / 3
        }
      }
      sum[0]! += area
      for (let k = 0, q = 4; k < 3; k++) {
        sum[1 + k]! += area * mid[k]!
        for (let l = k; l < 3; l++) sum[q++]! += area * mid[k]! * mid[l]!
      }
    }
  })

  // (3) Order in space, so that numbers do not depend on the order in the file; keys; ties in space order.
  const found = objectOf.map((object, n): Part & { from: number } => {
    const { min, max } = boxes[n]!, [area, sx, sy, sz, xx, xy, xz, yy, yz, zz] = sums[n]! as [number, number, number, number, number, number, number, number, number, number]
    const w = Math.max(area, 1e-300)
    return {
      from: n, key: '', name: '', object, group: 0, triangles: counts[n]!, area, min,
      center: min.map((x, k) => (x + max[k]!) / 2) as Part['center'],
      size: min.map((x, k) => max[k]! - x) as Part['size'],
      longestAxis: mainAxis([xx - sx * sx / w, xy - sx * sy / w, xz - sx * sz / w, yy - sy * sy / w, yz - sy * sz / w, zz - sz * sz / w]),
    }
  })
  found.sort((a, b) => a.object - b.object || b.center[1] - a.center[1] || a.center[0] - b.center[0] || a.center[2] - b.center[2] || b.area - a.area)
  const seen = new Map<string, number>(), inObject = new Map<number, number>(), inFile = new Map<number, number>()
  for (const p of found) inFile.set(p.object, (inFile.get(p.object) ?? 0) + 1)
  const renumber = new Uint32Array(found.length)
  const parts = found.map(({ from, ...p }, i): Part => {
    renumber[from] = i
    const object = objects[p.object]!, text = identity(object.name, p), tie = seen.get(text) ?? 0
    seen.set(text, tie + 1)
    const nth = (inObject.get(p.object) ?? 0) + 1
    inObject.set(p.object, nth)
    return { ...p, key: hexOf(hashText(`${text}#${tie}`)), name: inFile.get(p.object) === 1 ? object.name : `${object.name}/${nth}` }
  })
  for (let t = 0; t < triangleCount; t++) partOfTriangle[t] = renumber[partOfTriangle[t]!]!
  for (let v = 0; v < partOfVertex.length; v++) partOfVertex[v] = renumber[partOfVertex[v]!]!

  // (4) Groups: by the file's group map where there is one, else one for each object.
  const map = mesh.maps.find(m => m.name === GROUP_MAP && m.components === 1)
  const groupNumbers = new Map<string, number>(), groups: Parts['groups'] = []
  const firstVertex = new Int32Array(parts.length).fill(-1)
  for (let v = 0; v < partOfVertex.length; v++) if (firstVertex[partOfVertex[v]!]! < 0) firstVertex[partOfVertex[v]!] = v
  parts.forEach((p, i) => {
    const id = map ? `${objects[p.object]!.name}|${map.values[firstVertex[i]!]}` : objects[p.object]!.name + (p.object ? `#${p.object}` : '')
    let n = groupNumbers.get(id)
    if (n === undefined) {
      n = groups.push({ key: hexOf(hashText(`group ${id}`)), object: p.object }) - 1
      groupNumbers.set(id, n)
    }
    p.group = n
  })
  const names = new Map<string, number>()
  const objectKeys = objects.map((o) => {
    const nth = names.get(o.name) ?? 0
    names.set(o.name, nth + 1)
    return hexOf(hashText(`object ${o.name}#${nth}`))
  })
  return { parts, groups, objectKeys, patches, partOfTriangle, partOfVertex }
}
