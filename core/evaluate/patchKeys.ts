import { drawOf, keyOf } from '../mesh/hash'
import { triangleAreas } from '../mesh/mesh'
import type { MeshTables } from './tables'

const known = new WeakMap<Uint32Array, string[]>()

/**
 * A key for each patch, from what does not change when a mesh is exported again: its part's key and where its middle is
 * in the part's box, in fiftieths; ties in the order of their triangles.
 */
export function patchKeys({ mesh, parts }: MeshTables): string[] {
  const found = known.get(parts.patchOfTriangle)
  if (found) return found
  const { positions, indices } = mesh
  const areas = triangleAreas(mesh)
  const sums = new Float64Array(parts.patches * 4)
  const partOf = new Uint32Array(parts.patches)
  for (let t = 0; t < indices.length / 3; t++) {
    const s = parts.patchOfTriangle[t]! * 4
    const [a, b, c] = [0, 1, 2].map(k => indices[t * 3 + k]! * 3) as [number, number, number]
    const area = areas[t]!
    partOf[s / 4] = parts.partOfTriangle[t]!
    sums[s + 3]! += area
    for (let k = 0; k < 3; k++) sums[s + k]! += (area * (positions[a + k]! + positions[b + k]! + positions[c + k]!)) / 3
  }
  const seen = new Map<string, number>()
  const keys = Array.from(partOf, (p, i) => {
    const part = parts.parts[p]!
    const size = Math.max(...part.size, 1e-9)
    const text = `${part.key} ${[0, 1, 2].map(k => Math.round(((sums[i * 4 + k]! / (sums[i * 4 + 3]! || 1) - part.min[k]!) / size) * 50)).join()}`
    const tie = seen.get(text) ?? 0
    seen.set(text, tie + 1)
    return keyOf(`patch ${text}#${tie}`)
  })
  known.set(parts.patchOfTriangle, keys)
  return keys
}

/**
 * A draw per patch, at every vertex. Where patches share vertices, as between creases of a smooth surface, they run
 * into one another over a triangle.
 */
export function patchDraws(tables: MeshTables, seed: number, stream: number): Float32Array {
  const {
    mesh: { indices, positions },
    parts,
  } = tables
  const draws = patchKeys(tables).map(key => drawOf(key, seed * 16 + stream))
  const out = new Float32Array(positions.length / 3)
  for (let i = 0; i < indices.length; i++) out[indices[i]!] = draws[parts.patchOfTriangle[(i / 3) | 0]!]!
  return out
}
