import type { Mesh, VertexMap } from '../mesh/mesh'
import { plainName } from './names'
import type { OwnGeometry } from './ownSpace'
import { namer, quoted, rows } from './usdText'

/** A named value for the mesh. `perPart` values are the same all over a part. */
export interface Primvar extends VertexMap {
  perPart?: boolean
  /** Whether the values are whole numbers. */
  whole?: boolean
  color?: boolean
}

/** What is said of a mesh besides its shape. */
export interface MeshValues {
  primvars: readonly Primvar[]
  partOfTriangle: ArrayLike<number> | undefined
  /** The key of each part: written with the whole numbers of {@link Primvar}. */
  keys: readonly string[] | undefined
  /** Part sets: each is a subset of the faces of every mesh that has some of it. */
  sets: readonly { name: string; members: ArrayLike<number> }[]
}

const TYPES: Record<number, string> = { 1: 'float', 2: 'float2', 3: 'float3', 4: 'float4' }

/** The points of an object: vertices in the same place are one. */
interface Points {
  /** Three coordinates each. */
  positions: number[]
  /** The object's first vertex in each place. */
  first: number[]
  /** The point of each vertex of the object. */
  ofVertex: Uint32Array
}
type ObjectOf = Mesh['objects'][number]

function pointsOf({ positions: p }: OwnGeometry): Points {
  const vertices = p.length / 3
  const places = new Map<string, number>()
  const ofVertex = new Uint32Array(vertices)
  const positions: number[] = []
  const first: number[] = []
  for (let v = 0; v < vertices; v++) {
    const at = [p[v * 3]!, p[v * 3 + 1]!, p[v * 3 + 2]!]
    const key = at.join(' ')
    let to = places.get(key)
    if (to === undefined) {
      places.set(key, (to = first.push(v) - 1))
      positions.push(...at)
    }
    ofVertex[v] = to
  }
  return { positions, first, ofVertex }
}

function extentOf(positions: readonly number[]): number[] {
  const low = [Infinity, Infinity, Infinity]
  const high = [-Infinity, -Infinity, -Infinity]
  positions.forEach((x, i) => {
    low[i % 3] = Math.min(low[i % 3]!, x)
    high[i % 3] = Math.max(high[i % 3]!, x)
  })
  return [...low, ...high]
}

/** The values at some vertices, which are counted from `from` on; `size` numbers each. */
function picked(values: ArrayLike<number>, size: number, vertices: ArrayLike<number>, from = 0): Float32Array {
  const out = new Float32Array(vertices.length * size)
  for (let i = 0; i < vertices.length; i++)
    for (let k = 0; k < size; k++) out[i * size + k] = values[(from + vertices[i]!) * size + k]!
  return out
}

const array = (type: string, name: string, values: string, interpolation: string): string[] => [
  `${type}[] ${name} = ${values} (`,
  `    interpolation = "${interpolation}"`,
  ')',
]

/** A property of a prim, or a prim in it, by its name. */
export type Block = readonly [name: string, lines: readonly string[]]

/** What a Mesh prim says of a shape alone, which may stand in several places. */
export interface UsdShape {
  points: Points
  corners: Uint32Array
  blocks: readonly Block[]
}
/** @param own the geometry in the space of the prim */
export function usdShape(own: OwnGeometry): UsdShape {
  const points = pointsOf(own)
  const corners = own.indices
  const triangles = corners.length / 3
  const normals = rows(picked(own.normals, 3, corners), 3)
  return {
    points,
    corners,
    blocks: [
      ['extent', [`float3[] extent = ${rows(extentOf(points.positions), 3)}`]],
      ['counts', [`int[] faceVertexCounts = [${Array.from({ length: triangles }, () => 3).join(', ')}]`]],
      ['indices', [`int[] faceVertexIndices = [${Array.from(corners, v => points.ofVertex[v]!).join(', ')}]`]],
      ['points', [`point3f[] points = ${rows(points.positions, 3)}`]],
      ['normals', array('normal3f', 'normals', normals, 'faceVarying')],
      ['scheme', ['uniform token subdivisionScheme = "none"']],
      // As on the stage, a surface is seen from both sides.
      ['sides', ['uniform bool doubleSided = 1']],
    ],
  }
}

/** An object of a mesh as what stands in a Mesh prim of its shape. */
export function usdMesh(mesh: Mesh, object: ObjectOf, shape: UsdShape, values: MeshValues): Block[] {
  const { name, firstVertex } = object
  const { points, corners } = shape
  const free = namer()
  free('st')
  const st = mesh.uvs && picked(mesh.uvs, 2, corners, firstVertex).map((x, i) => (i % 2 ? 1 - x : x))
  return [
    ...shape.blocks,
    // USD's t runs upward.
    ...(st ? [['st', array('texCoord2f', 'primvars:st', rows(st, 2), 'faceVarying')] as const] : []),
    ...values.primvars.map((p): Block => {
      const called = free(p.name)
      return [called, primvarLines(p, called, object, corners, points, values.partOfTriangle)]
    }),
    ...keyLines(object, values, free),
    ...subsetLines(object, values),
    ...(name !== plainName(name) ? [['name', [`custom string ubblet:name = ${quoted(name)}`]] as const] : []),
  ]
}

/** A primvar, as coarse as it can be. */
function primvarLines(
  { components: size, values, perPart, whole, color }: Primvar,
  name: string,
  { firstVertex, triangles }: ObjectOf,
  corners: Uint32Array,
  { first, ofVertex }: Points,
  partOfTriangle: ArrayLike<number> | undefined,
): string[] {
  const alike = (v: number, w: number): boolean => {
    for (let k = 0; k < size; k++)
      if (values[(firstVertex + v) * size + k] !== values[(firstVertex + w) * size + k]) return false
    return true
  }
  const coarsest = (): [interpolation: string, vertices: ArrayLike<number>] => {
    if (corners.every(v => alike(v, corners[0]!))) return ['constant', [corners[0]!]]
    if (perPart && partOfTriangle && corners.every((v, i) => alike(v, corners[i - (i % 3)]!)))
      return ['uniform', Array.from({ length: triangles }, (_, t) => corners[t * 3]!)]
    if (corners.every(v => alike(v, first[ofVertex[v]!]!))) return ['vertex', first]
    return ['faceVarying', corners]
  }
  const [interpolation, vertices] = coarsest()
  const plain = whole ? 'int' : TYPES[size]!
  const type = color ? 'color3f' : plain
  return array(type, `primvars:${name}`, rows(picked(values, size, vertices, firstVertex), size), interpolation)
}

/** Which part each face belongs to, by its key. */
function keyLines(
  { firstTriangle, triangles }: ObjectOf,
  { primvars, partOfTriangle, keys }: MeshValues,
  free: (name: string) => string,
): Block[] {
  if (!partOfTriangle || !keys || !primvars.some(p => p.whole)) return []
  const numbers = new Map<number, number>()
  const indices = Array.from({ length: triangles }, (_, t) => {
    const part = partOfTriangle[firstTriangle + t]!
    if (!numbers.has(part)) numbers.set(part, numbers.size)
    return numbers.get(part)!
  })
  const listed = [...numbers.keys()].map(p => quoted(keys[p]!)).join(', ')
  const name = free('part_key')
  const listing = array('string', `primvars:${name}`, `[${listed}]`, 'uniform')
  return [[name, [...listing, `int[] primvars:${name}:indices = [${indices.join(', ')}]`]]]
}

/** The faces of each part set that has some here. */
function subsetLines({ firstTriangle, triangles }: ObjectOf, { partOfTriangle, sets }: MeshValues): Block[] {
  if (!partOfTriangle) return []
  const free = namer()
  const all = Array.from({ length: triangles }, (_, t) => t)
  return sets.flatMap((set): Block[] => {
    const faces = all.filter(t => set.members[partOfTriangle[firstTriangle + t]!])
    if (!faces.length) return []
    const lines = [
      `def GeomSubset "${free(set.name)}"`,
      '{',
      '    uniform token elementType = "face"',
      '    uniform token familyName = "partSets"',
      `    int[] indices = [${faces.join(', ')}]`,
      '}',
    ]
    return [[`subset ${set.name}`, lines]]
  })
}
