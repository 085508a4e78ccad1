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
  const moved = [0, 1].map(() => ({ ...points, u: points.u.slice(), v: points.v.slice() })) as [
    SurfacePoints,
    SurfacePoints,
  ]
  for (let i = 0; i < count;) {
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
  const { count, triangle, u, v } = points
  const axes = new Axes(tables.mesh, tangents)
  const x = new Float32Array(count)
  const y = new Float32Array(count)
  const z = new Float32Array(count)
  for (let i = 0; i < count;) {
    const t = triangle[i]!
    axes.ofTriangle(t)
    for (; i < count && triangle[i] === t; i++) {
      axes.at(u[i]!, v[i]!)
      axes.slope(first[i]!, second[i]!)
      if (base) axes.turnOnto(base[0]![i]!, base[1]![i]!, base[2]![i]!)
      x[i] = axes.x
      y[i] = axes.y
      z[i] = axes.z
    }
  }
  return [x, y, z]
}

/**
 * The axes of tangent space at one point after the other, and the normal that is found in them. Components are written
 * out, and nothing is made on the way: every texel of a normal picture comes by here.
 */
class Axes {
  /** The normal in tangent space. */
  x = 0
  y = 0
  z = 1

  private readonly frame: Frame
  /** For a triangle, x, y, z of normal and tangent: at the first corner, and what the second and third add. */
  private readonly n = new Float64Array(9)
  private readonly along = new Float64Array(9)
  /** The two directions of slopes, in the triangle. */
  private readonly e1 = new Float64Array(3)
  private readonly e2 = new Float64Array(3)
  /** Where the picture's upward direction goes. */
  private readonly up = new Float64Array(3)
  /** Less than 0 where the tangents say that the UVs are mirrored; undefined where `up` has to tell. */
  private handed: number | undefined
  private nx = 0
  private ny = 0
  private nz = 0
  private tx = 0
  private ty = 0
  private tz = 0
  private bx = 0
  private by = 0
  private bz = 0
  private side = 1

  constructor(
    private readonly mesh: Mesh,
    private readonly tangents?: Float32Array,
  ) {
    this.frame = new Frame(mesh)
  }

  ofTriangle(t: number): void {
    const { frame, n, along, e1, e2, up, tangents } = this
    const { indices, normals } = this.mesh
    const uvs = this.mesh.uvs!
    const a = indices[t * 3]!
    const b = indices[t * 3 + 1]!
    const c = indices[t * 3 + 2]!
    frame.of(t)
    const { ab, ac, length, height, lean } = frame
    const by1 = length ? 1 / length : 0
    const by2 = height ? 1 / height : 0
    const du1 = uvs[b * 2]! - uvs[a * 2]!
    const dv1 = uvs[b * 2 + 1]! - uvs[a * 2 + 1]!
    const du2 = uvs[c * 2]! - uvs[a * 2]!
    const dv2 = uvs[c * 2 + 1]! - uvs[a * 2 + 1]!
    const det = du1 * dv2 - du2 * dv1 || 1
    this.handed = tangents?.[t * 12 + 3]
    for (let k = 0; k < 3; k++) {
      e1[k] = ab[k]! * by1
      e2[k] = (ac[k]! - ab[k]! * lean) * by2
      // glTF's v runs down the picture.
      up[k] = (ab[k]! * du2 - ac[k]! * du1) / det
      n[k] = normals[a * 3 + k]!
      n[3 + k] = normals[b * 3 + k]! - n[k]!
      n[6 + k] = normals[c * 3 + k]! - n[k]!
      along[k] = tangents ? tangents[t * 12 + k]! : (ab[k]! * dv2 - ac[k]! * dv1) / det
      along[3 + k] = tangents ? tangents[t * 12 + 4 + k]! - along[k]! : 0
      along[6 + k] = tangents ? tangents[t * 12 + 8 + k]! - along[k]! : 0
    }
  }

  /** Normal, tangent and bitangent at a point of the triangle, by the weights of its second and third corner. */
  at(p: number, q: number): void {
    const { n, along, up, handed } = this
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
    this.side = (handed ?? bx * up[0]! + by * up[1]! + bz * up[2]!) < 0 ? -1 : 1
    this.nx = nx
    this.ny = ny
    this.nz = nz
    this.tx = tx
    this.ty = ty
    this.tz = tz
    this.bx = bx
    this.by = by
    this.bz = bz
  }

  /** The normal of a height that rises by two slopes. */
  slope(s1: number, s2: number): void {
    const { e1, e2 } = this
    const sx = e1[0]! * s1 + e2[0]! * s2
    const sy = e1[1]! * s1 + e2[1]! * s2
    const sz = e1[2]! * s1 + e2[2]! * s2
    const ox = -(sx * this.tx + sy * this.ty + sz * this.tz)
    const oy = -(sx * this.bx + sy * this.by + sz * this.bz) * this.side
    const ol = 1 / Math.sqrt(ox * ox + oy * oy + 1)
    this.x = ox * ol
    this.y = oy * ol
    this.z = ol
  }

  /** Turns what was found onto a surface that faces another way, which is given in world space. */
  turnOnto(wx: number, wy: number, wz: number): void {
    const px = wx * this.tx + wy * this.ty + wz * this.tz
    const py = (wx * this.bx + wy * this.by + wz * this.bz) * this.side
    const pz = wx * this.nx + wy * this.ny + wz * this.nz + 1
    const dx = -this.x
    const dy = -this.y
    // Straight away from the surface there is no turn.
    const turn = pz > 1e-4 ? (px * dx + py * dy + pz * this.z) / pz : 0
    const rx = px * turn - dx
    const ry = py * turn - dy
    const rz = pz * turn - this.z
    const rl = 1 / (Math.sqrt(rx * rx + ry * ry + rz * rz) || 1)
    this.x = rx * rl
    this.y = ry * rl
    this.z = rz * rl
  }
}
