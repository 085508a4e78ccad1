import type { MeshTables } from '../evaluate/tables'
import type { Mesh } from '../mesh/mesh'
import type { SurfacePoints } from '../mesh/sample'

/**
 * A triangle's edges from its first corner, `ab` and `ac` (three numbers each), and the length of `ab` and the height
 * of the third corner over it. The frame of the triangle is the direction of `ab`, and the one square to it toward the
 * third corner.
 */
class Frame {
  readonly ab = new Float64Array(3)
  readonly ac = new Float64Array(3)
  length = 0
  height = 0
  /** `ac` along `ab`, as a share of `ab`. */
  lean = 0

  constructor(private readonly mesh: Mesh) {}

  of(t: number): void {
    const {
      ab,
      ac,
      mesh: { positions, indices },
    } = this
    const a = indices[t * 3]! * 3
    const b = indices[t * 3 + 1]! * 3
    const c = indices[t * 3 + 2]! * 3
    let uu = 0
    let uv = 0
    let vv = 0
    for (let k = 0; k < 3; k++) {
      const x = (ab[k] = positions[b + k]! - positions[a + k]!)
      const y = (ac[k] = positions[c + k]! - positions[a + k]!)
      uu += x * x
      uv += x * y
      vv += y * y
    }
    this.length = Math.sqrt(uu)
    this.lean = uu ? uv / uu : 0
    this.height = Math.sqrt(Math.max(0, vv - uv * this.lean))
  }
}

/** How far apart the points behind a slope are, as a share of the mesh's size. */
const STEP = 2e-4

/**
 * The slope of a height in millimeters along the surface: rise over run along two directions in each point's triangle,
 * from differences over a small way there. 1 is 45 degrees.
 * @param here the height at the points
 * @param heightAt the height at points, whose weights may lie a little outside their triangles
 */
export function heightSlopes(
  tables: MeshTables,
  points: SurfacePoints,
  here: Float32Array,
  heightAt: (points: SurfacePoints) => Float32Array,
): [Float32Array, Float32Array] {
  const { sizeX, sizeY, sizeZ } = tables.whole
  const step = STEP * Math.hypot(sizeX, sizeY, sizeZ)
  const { count, triangle } = points
  const frame = new Frame(tables.mesh)
  const moved = [0, 1].map(() => ({ count, triangle, u: points.u.slice(), v: points.v.slice() })) as [
    SurfacePoints,
    SurfacePoints,
  ]
  for (let i = 0; i < count; ) {
    const t = triangle[i]!
    frame.of(t)
    // Along `ab` only its own weight grows; square to it, that of the third corner, and `ab` takes back how far that
    // leans.
    const u1 = frame.length ? step / frame.length : 0
    const v2 = frame.height ? step / frame.height : 0
    const u2 = -v2 * frame.lean
    for (; i < count && triangle[i] === t; i++) {
      moved[0].u[i]! += u1
      moved[1].u[i]! += u2
      moved[1].v[i]! += v2
    }
  }
  const slope = (there: Float32Array) => {
    for (let i = 0; i < count; i++) there[i] = ((there[i]! - here[i]!) * 0.001) / step
    return there
  }
  return [slope(heightAt(moved[0])), slope(heightAt(moved[1]))]
}

/**
 * Tangent-space normals of a height, as glTF 2.0 reads them: X to the right of the picture, Y up in it, Z out.
 * Components are written out: every texel of a normal picture comes by here.
 * @param tangents four numbers for each corner of each triangle, as the MikkTSpace algorithm finds them and a viewer
 * will; without them the tangent is the direction of growing u in each triangle. Either is made square to the
 * interpolated normal.
 * @param base which way the surface faces before the height lies on it, in world space, three columns; the mesh's own
 * normal where there is none. The two are joined by turning the one onto the other (reoriented normal mapping,
 * Barré-Brisebois and Hill 2012).
 * @returns columns of x, y and z, unit length
 */
export function tangentNormals(
  tables: MeshTables,
  points: SurfacePoints,
  [first, second]: readonly [Float32Array, Float32Array],
  tangents?: Float32Array,
  base?: readonly Float32Array[],
): [Float32Array, Float32Array, Float32Array] {
  const {
    mesh: { uvs, normals, indices },
  } = tables
  const frame = new Frame(tables.mesh)
  const { count, triangle, u, v } = points
  const x = new Float32Array(count)
  const y = new Float32Array(count)
  const z = new Float32Array(count)
  // For a triangle, x, y, z of normal and tangent: at the first corner, and what the second and third add.
  const n = new Float64Array(9)
  const along = new Float64Array(9)
  for (let i = 0; i < count; ) {
    const t = triangle[i]!
    const a = indices[t * 3]!
    const b = indices[t * 3 + 1]!
    const c = indices[t * 3 + 2]!
    frame.of(t)
    const { ab, ac, length, height, lean } = frame
    const by1 = length ? 1 / length : 0
    const by2 = height ? 1 / height : 0
    const e1x = ab[0]! * by1
    const e1y = ab[1]! * by1
    const e1z = ab[2]! * by1
    const e2x = (ac[0]! - ab[0]! * lean) * by2
    const e2y = (ac[1]! - ab[1]! * lean) * by2
    const e2z = (ac[2]! - ab[2]! * lean) * by2
    const du1 = uvs![b * 2]! - uvs![a * 2]!
    const dv1 = uvs![b * 2 + 1]! - uvs![a * 2 + 1]!
    const du2 = uvs![c * 2]! - uvs![a * 2]!
    const dv2 = uvs![c * 2 + 1]! - uvs![a * 2 + 1]!
    const det = du1 * dv2 - du2 * dv1 || 1
    // glTF's v runs down the picture.
    const upX = (ab[0]! * du2 - ac[0]! * du1) / det
    const upY = (ab[1]! * du2 - ac[1]! * du1) / det
    const upZ = (ab[2]! * du2 - ac[2]! * du1) / det
    for (let k = 0; k < 3; k++) {
      n[k] = normals[a * 3 + k]!
      n[3 + k] = normals[b * 3 + k]! - n[k]!
      n[6 + k] = normals[c * 3 + k]! - n[k]!
      along[k] = tangents ? tangents[t * 12 + k]! : (ab[k]! * dv2 - ac[k]! * dv1) / det
      along[3 + k] = tangents ? tangents[t * 12 + 4 + k]! - along[k]! : 0
      along[6 + k] = tangents ? tangents[t * 12 + 8 + k]! - along[k]! : 0
    }
    for (; i < count && triangle[i] === t; i++) {
      const p = u[i]!
      const q = v[i]!
      let nx = n[0]! + n[3]! * p + n[6]! * q
      let ny = n[1]! + n[4]! * p + n[7]! * q
      let nz = n[2]! + n[5]! * p + n[8]! * q
      const nl = 1 / (Math.sqrt(nx * nx + ny * ny + nz * nz) || 1)
      nx *= nl
      ny *= nl
      nz *= nl
      let tx = along[0]! + along[3]! * p + along[6]! * q
      let ty = along[1]! + along[4]! * p + along[7]! * q
      let tz = along[2]! + along[5]! * p + along[8]! * q
      const d = nx * tx + ny * ty + nz * tz
      tx -= nx * d
      ty -= ny * d
      tz -= nz * d
      const tl = 1 / (Math.sqrt(tx * tx + ty * ty + tz * tz) || 1)
      tx *= tl
      ty *= tl
      tz *= tl
      const bx = ny * tz - nz * ty
      const by = nz * tx - nx * tz
      const bz = nx * ty - ny * tx
      const side = (tangents ? tangents[t * 12 + 3]! < 0 : bx * upX + by * upY + bz * upZ < 0) ? -1 : 1
      const s1 = first[i]!
      const s2 = second[i]!
      const sx = e1x * s1 + e2x * s2
      const sy = e1y * s1 + e2y * s2
      const sz = e1z * s1 + e2z * s2
      const ox = -(sx * tx + sy * ty + sz * tz)
      const oy = -(sx * bx + sy * by + sz * bz) * side
      const ol = 1 / Math.sqrt(ox * ox + oy * oy + 1)
      if (!base) {
        x[i] = ox * ol
        y[i] = oy * ol
        z[i] = ol
        continue
      }
      const wx = base[0]![i]!
      const wy = base[1]![i]!
      const wz = base[2]![i]!
      const px = wx * tx + wy * ty + wz * tz
      const py = (wx * bx + wy * by + wz * bz) * side
      const pz = wx * nx + wy * ny + wz * nz + 1
      const dx = -ox * ol
      const dy = -oy * ol
      // Straight away from the surface there is no turn.
      const turn = pz > 1e-4 ? (px * dx + py * dy + pz * ol) / pz : 0
      const rx = px * turn - dx
      const ry = py * turn - dy
      const rz = pz * turn - ol
      const rl = 1 / (Math.sqrt(rx * rx + ry * ry + rz * rz) || 1)
      x[i] = rx * rl
      y[i] = ry * rl
      z[i] = rz * rl
    }
  }
  return [x, y, z]
}
