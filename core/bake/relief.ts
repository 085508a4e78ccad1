import type { MeshTables } from '../evaluate/tables'
import type { SurfacePoints } from '../mesh/sample'
import { cross, dot, minus, scaled, unit, type Vector } from '../mesh/vector'

/** Two directions at right angles in the plane of a triangle, and its edges from the first corner. */
function frame({ mesh }: MeshTables, t: number): { ab: Vector, ac: Vector, e1: Vector, e2: Vector } {
  const corner = (c: number): Vector => {
    const v = mesh.indices[t * 3 + c]! * 3
    return [mesh.positions[v]!, mesh.positions[v + 1]!, mesh.positions[v + 2]!]
  }
  const a = corner(0), ab = minus(corner(1), a), ac = minus(corner(2), a), e1 = unit(ab)
  return { ab, ac, e1, e2: unit(minus(ac, scaled(e1, dot(ac, e1)))) }
}

/** How far apart the points behind a slope are, as a share of the mesh's size. */
const STEP = 2e-4

/**
 * The slope of a height in millimeters along the surface: rise over run along two directions in each point's triangle,
 * from differences over a small way there. 1 is 45 degrees.
 * @param heightAt the height at points, whose weights may lie a little outside their triangles
 */
export function heightSlopes(tables: MeshTables, points: SurfacePoints, heightAt: (points: SurfacePoints) => Float32Array): [Float32Array, Float32Array] {
  const { sizeX, sizeY, sizeZ } = tables.whole, step = STEP * Math.hypot(sizeX, sizeY, sizeZ), { count, triangle } = points
  const moved = [0, 1].map(() => ({ count, triangle, u: points.u.slice(), v: points.v.slice() }))
  let last = -1, known = frame(tables, 0)
  for (let i = 0; i < count; i++) {
    if (triangle[i] !== last) known = frame(tables, last = triangle[i]!)
    const { ab, ac, e1, e2 } = known, uu = dot(ab, ab), uv = dot(ab, ac), vv = dot(ac, ac), det = uu * vv - uv * uv || 1
    for (let k = 0; k < 2; k++) {
      const e = k ? e2 : e1, p = dot(e, ab), q = dot(e, ac)
      moved[k]!.u[i]! += step * (vv * p - uv * q) / det
      moved[k]!.v[i]! += step * (uu * q - uv * p) / det
    }
  }
  const here = heightAt(points), toward = moved.map(heightAt)
  return toward.map(there => there.map((h, i) => (h - here[i]!) * 0.001 / step)) as [Float32Array, Float32Array]
}

/**
 * Tangent-space normals of a height, as glTF 2.0 reads them: X to the right of the picture, Y up in it, Z out.
 * @param tangents four numbers for each corner of each triangle, as the MikkTSpace algorithm finds them and a viewer will;
 *   without them the tangent is the direction of growing u in each triangle. Either is made square to the interpolated normal.
 * @returns x, y, z of each point, unit length
 */
export function tangentNormals(tables: MeshTables, points: SurfacePoints, [first, second]: readonly [Float32Array, Float32Array], tangents?: Float32Array): Float32Array {
  const { mesh } = tables, uvs = mesh.uvs!, out = new Float32Array(points.count * 3)
  let last = -1, known = frame(tables, 0), alongU: Vector = [1, 0, 0], alongV: Vector = [0, 1, 0]
  for (let i = 0; i < points.count; i++) {
    const t = points.triangle[i]!
    if (t !== last) {
      known = frame(tables, last = t)
      const [a, b, c] = [0, 1, 2].map(k => mesh.indices[t * 3 + k]! * 2) as [number, number, number]
      const u1 = uvs[b]! - uvs[a]!, v1 = uvs[b + 1]! - uvs[a + 1]!, u2 = uvs[c]! - uvs[a]!, v2 = uvs[c + 1]! - uvs[a + 1]!, det = u1 * v2 - u2 * v1 || 1
      alongU = scaled(minus(scaled(known.ab, v2), scaled(known.ac, v1)), 1 / det)
      // glTF's v runs down the picture.
      alongV = scaled(minus(scaled(known.ab, u2), scaled(known.ac, u1)), 1 / det)
    }
    const n = unit([0, 1, 2].map((k) => {
      const at = (c: number) => mesh.normals[mesh.indices[t * 3 + c]! * 3 + k]!
      return at(0) + (at(1) - at(0)) * points.u[i]! + (at(2) - at(0)) * points.v[i]!
    }) as Vector)
    const along = tangents ? [0, 1, 2].map((k) => {
      const at = (c: number) => tangents[(t * 3 + c) * 4 + k]!
      return at(0) + (at(1) - at(0)) * points.u[i]! + (at(2) - at(0)) * points.v[i]!
    }) as Vector : alongU
    const tangent = unit(minus(along, scaled(n, dot(n, along)))), side = cross(n, tangent)
    const up = (tangents ? tangents[t * 12 + 3]! < 0 : dot(side, alongV) < 0) ? scaled(side, -1) : side
    const slope: Vector = [0, 1, 2].map(k => known.e1[k]! * first[i]! + known.e2[k]! * second[i]!) as Vector
    out.set(unit([-dot(slope, tangent), -dot(slope, up), 1]), i * 3)
  }
  return out
}
