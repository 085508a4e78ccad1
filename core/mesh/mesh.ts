/**
 * The mesh as everything here reads it: one list of vertices and one of triangles, all objects in world space, meters,
 * Y up (glTF's convention). Vertices are split where normals or UVs are; topology comes from welding them.
 */
export interface Mesh {
  /** x, y, z per vertex. */
  positions: Float32Array
  /** Unit length, three per vertex. */
  normals: Float32Array
  /** First UV set, two per vertex, v downward as in glTF; absent if an object has none. */
  uvs?: Float32Array
  /** Three vertices per triangle, counter-clockwise seen from outside. */
  indices: Uint32Array
  objects: MeshObject[]
  /** The nodes of the file, with those that have no triangles; absent where a format has none. */
  nodes?: MeshNode[]
  /** What the file says of the scene besides, as it came. */
  extras?: Extras
  materials: MeshMaterial[]
  /** Vertex maps: those that came with the file, and geometry maps that were added to it. */
  maps: VertexMap[]
  /** A picture of normals that looks lie on where they name no other; see `normalsOf`. */
  ownNormals?: string
  /** What the file says of its materials. */
  surfaces?: Surface[]
  /** What was odd about the file, one sentence each. */
  warnings: string[]
}

/** An object: a node of the file. Its triangles and vertices are runs of the mesh's. */
export interface MeshObject {
  name: string
  /** Names of the nodes above it, the outermost first. */
  parents?: string[]
  /** The number of its node. */
  node?: number
  /** What the file has once for all objects with the same number, each of which stands elsewhere. */
  shape?: number
  /** What the file says of that besides, as it came. */
  extras?: Extras
  firstTriangle: number
  triangles: number
  firstVertex: number
  vertices: number
}

/** What a pipeline has written into a file: values of JSON by name. */
export type Extras = Readonly<Record<string, unknown>>

/** A node of the file: where it stands, and in what. */
export interface MeshNode {
  /** As the file has it, which may be nothing. */
  name: string
  /** The number of the node that it stands in; absent at the top. */
  within?: number
  /** From its own space to that one: 4 by 4, column by column, moved by meters. */
  matrix: readonly number[]
  /** What the file says of it besides, as it came. */
  extras?: Extras
}

export interface MeshMaterial {
  name: string
  firstTriangle: number
  triangles: number
}

/** What lies beyond the edge of a picture: the picture again, its mirror image, or its outermost texels. */
export type Beyond = 'repeat' | 'mirror' | 'edge'

/** What a picture of a material is for. */
export type SurfaceUse =
  | 'base color'
  | 'metalness and roughness'
  | 'metalness'
  | 'roughness'
  | 'normal'
  | 'bump'
  | 'occlusion'
  | 'emission'
  | 'opacity'

/** A picture of a material of the file, and how it lies. */
export interface SurfacePicture {
  use: SurfaceUse
  /** The media type. */
  type: string
  bytes: Uint8Array
  /** The UV set, from 0 on; the first where it is absent. */
  uvSet?: number
  /**
   * From the UVs (v downward) to the picture: scaled, then turned counterclockwise by radians, then moved
   * (KHR_texture_transform).
   */
  placed?: { move: [number, number]; turn: number; scale: [number, number] }
  beyond?: [across: Beyond, down: Beyond]
  nearest?: true
  /** How strong a picture of normals is: what its slopes are multiplied by. */
  strength?: number
}

/** A material of the file, as the file describes it: linear factors, by which pictures are multiplied, and pictures. */
export interface Surface {
  name: string
  baseColor: [number, number, number]
  metalness: number
  roughness: number
  /** Linear, with its strength; black where it is absent. */
  emission?: [number, number, number]
  /** 0 is not there. Absent: solid, whatever the alpha of pictures says. */
  opacity?: number
  /** Where the opacity is below it, nothing is there, and all is elsewhere. */
  cutoff?: number
  /** The vertex map that the base color is multiplied by. */
  vertexColor?: string
  textures: SurfacePicture[]
  /** What the file says of the material that has no place here, in the file's own words. */
  lost?: string[]
}

/** Named values per vertex, 1 to 4 numbers each. Colors are linear. */
export interface VertexMap {
  name: string
  components: number
  values: Float32Array
}

/** Whether a map has a value for each vertex of a mesh. */
export const fitsMesh = ({ positions }: Pick<Mesh, 'positions'>, { values, components }: VertexMap): boolean =>
  values.length === (positions.length / 3) * components

/** A mesh with computed maps beside those of the file; a computed one takes precedence over one of the same name. */
export function withMaps(mesh: Mesh, computed: readonly VertexMap[]): Mesh {
  const names = new Set(computed.map(m => m.name))
  return { ...mesh, maps: [...computed, ...mesh.maps.filter(m => !names.has(m.name))] }
}

/** The vertex map that names the group of every vertex, if a file carries one. */
export const GROUP_MAP = 'group'

export interface Box {
  min: [number, number, number]
  max: [number, number, number]
}

export function boundsOf(positions: Float32Array, indices?: ArrayLike<number>): Box {
  const count = indices ? indices.length : positions.length / 3
  let [x0, y0, z0] = [Infinity, Infinity, Infinity]
  let [x1, y1, z1] = [-Infinity, -Infinity, -Infinity]
  for (let i = 0; i < count; i++) {
    const v = (indices ? indices[i]! : i) * 3
    const x = positions[v]!
    const y = positions[v + 1]!
    const z = positions[v + 2]!
    if (x < x0) x0 = x
    if (x > x1) x1 = x
    if (y < y0) y0 = y
    if (y > y1) y1 = y
    if (z < z0) z0 = z
    if (z > z1) z1 = z
  }
  return { min: [x0, y0, z0], max: [x1, y1, z1] }
}

/** How far the corners of a mesh's box are from one another, in meters. */
export function diagonalOf(mesh: Pick<Mesh, 'positions' | 'indices'>): number {
  const { min, max } = boundsOf(mesh.positions, mesh.indices)
  return Math.hypot(...max.map((x, k) => x - min[k]!))
}

/** Twice the area's vector of triangle `t`: the cross product of two of its edges. */
export function triangleCross(
  mesh: { positions: ArrayLike<number>; indices: ArrayLike<number> },
  t: number,
  out: [number, number, number],
): void {
  const p = mesh.positions
  const a = mesh.indices[t * 3]! * 3
  const b = mesh.indices[t * 3 + 1]! * 3
  const c = mesh.indices[t * 3 + 2]! * 3
  const ux = p[b]! - p[a]!
  const uy = p[b + 1]! - p[a + 1]!
  const uz = p[b + 2]! - p[a + 2]!
  const vx = p[c]! - p[a]!
  const vy = p[c + 1]! - p[a + 1]!
  const vz = p[c + 2]! - p[a + 2]!
  out[0] = uy * vz - uz * vy
  out[1] = uz * vx - ux * vz
  out[2] = ux * vy - uy * vx
}

/** Area of every triangle, in square meters. */
export function triangleAreas(mesh: Pick<Mesh, 'positions' | 'indices'>): Float64Array {
  const areas = new Float64Array(mesh.indices.length / 3)
  const cross: [number, number, number] = [0, 0, 0]
  for (let t = 0; t < areas.length; t++) {
    triangleCross(mesh, t, cross)
    // Not `Math.hypot`, which takes several times as long.
    areas[t] = Math.sqrt(cross[0] * cross[0] + cross[1] * cross[1] + cross[2] * cross[2]) / 2
  }
  return areas
}
