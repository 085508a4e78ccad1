import type { Mesh, VertexMap } from '../mesh/mesh'
import { plainName } from './names'
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
  /** The first vertex in each place. */
  first: number[]
  /** The point of each vertex of the object. */
  ofVertex: Uint32Array
}
type ObjectOf = Mesh['objects'][number]

function pointsOf(mesh: Mesh, { firstVertex, vertices }: ObjectOf): Points {
  const places = new Map<string, number>()
  const ofVertex = new Uint32Array(vertices)
  const positions: number[] = []
  const first: number[] = []
  for (let v = 0; v < vertices; v++) {
    const at = (firstVertex + v) * 3
    const p = [mesh.positions[at]!, mesh.positions[at + 1]!, mesh.positions[at + 2]!]
    const key = p.join(' ')
    let to = places.get(key)
    if (to === undefined) {
      places.set(key, (to = first.push(firstVertex + v) - 1))
      positions.push(...p)
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

/** The values at some vertices, `size` numbers each. */
function picked(
  values: ArrayLike<number>,
  size: number,
  vertices: ArrayLike<number>,
  change = (x: number, _k: number) => x,
): Float32Array {
  const out = new Float32Array(vertices.length * size)
  for (let i = 0; i < vertices.length; i++)
    for (let k = 0; k < size; k++) out[i * size + k] = change(values[vertices[i]! * size + k]!, k)
  return out
}

const array = (type: string, name: string, values: string, interpolation: string): string[] => [
  `${type}[] ${name} = ${values} (`,
  `    interpolation = "${interpolation}"`,
  ')',
]

/** An object of a mesh as lines of a Mesh prim. */
export function usdMesh(mesh: Mesh, object: ObjectOf, values: MeshValues): string[] {
  const { name, firstTriangle, triangles, firstVertex } = object
  const points = pointsOf(mesh, object)
  const corners = mesh.indices.subarray(firstTriangle * 3, (firstTriangle + triangles) * 3)
  const taken = namer()
  taken('st')
  // USD's t runs upward.
  const st = mesh.uvs && picked(mesh.uvs, 2, corners, (x, k) => (k ? 1 - x : x))
  return [
    `float3[] extent = ${rows(extentOf(points.positions), 3)}`,
    `int[] faceVertexCounts = [${Array.from({ length: triangles }, () => 3).join(', ')}]`,
    `int[] faceVertexIndices = [${Array.from(corners, v => points.ofVertex[v - firstVertex]!).join(', ')}]`,
    `point3f[] points = ${rows(points.positions, 3)}`,
    ...array('normal3f', 'normals', rows(picked(mesh.normals, 3, corners), 3), 'faceVarying'),
    'uniform token subdivisionScheme = "none"',
    ...(st ? array('texCoord2f', 'primvars:st', rows(st, 2), 'faceVarying') : []),
    ...values.primvars.flatMap(p => primvarLines(p, taken(p.name), object, corners, points, values.partOfTriangle)),
    ...keyLines(object, values, taken),
    ...subsetLines(object, values),
    ...(name !== plainName(name) ? [`custom string ubblet:name = ${quoted(name)}`] : []),
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
    for (let k = 0; k < size; k++) if (values[v * size + k] !== values[w * size + k]) return false
    return true
  }
  const coarsest = (): [interpolation: string, vertices: ArrayLike<number>] => {
    if (corners.every(v => alike(v, corners[0]!))) return ['constant', [corners[0]!]]
    if (perPart && partOfTriangle && corners.every((v, i) => alike(v, corners[i - (i % 3)]!)))
      return ['uniform', Array.from({ length: triangles }, (_, t) => corners[t * 3]!)]
    if (corners.every(v => alike(v, first[ofVertex[v - firstVertex]!]!))) return ['vertex', first]
    return ['faceVarying', corners]
  }
  const [interpolation, vertices] = coarsest()
  const plain = whole ? 'int' : TYPES[size]!
  const type = color ? 'color3f' : plain
  return array(type, `primvars:${name}`, rows(picked(values, size, vertices), size), interpolation)
}

/** Which part each face belongs to, by its key. */
function keyLines(
  { firstTriangle, triangles }: ObjectOf,
  { primvars, partOfTriangle, keys }: MeshValues,
  taken: (name: string) => string,
): string[] {
  if (!partOfTriangle || !keys || !primvars.some(p => p.whole)) return []
  const numbers = new Map<number, number>()
  const indices = Array.from({ length: triangles }, (_, t) => {
    const part = partOfTriangle[firstTriangle + t]!
    if (!numbers.has(part)) numbers.set(part, numbers.size)
    return numbers.get(part)!
  })
  const listed = [...numbers.keys()].map(p => quoted(keys[p]!)).join(', ')
  const name = taken('part_key')
  return [
    ...array('string', `primvars:${name}`, `[${listed}]`, 'uniform'),
    `int[] primvars:${name}:indices = [${indices.join(', ')}]`,
  ]
}

/** The faces of each part set that has some here. */
function subsetLines({ firstTriangle, triangles }: ObjectOf, { partOfTriangle, sets }: MeshValues): string[] {
  if (!partOfTriangle) return []
  const free = namer()
  const all = Array.from({ length: triangles }, (_, t) => t)
  return sets.flatMap(set => {
    const faces = all.filter(t => set.members[partOfTriangle[firstTriangle + t]!])
    if (!faces.length) return []
    return [
      `def GeomSubset "${free(set.name)}"`,
      '{',
      '    uniform token elementType = "face"',
      '    uniform token familyName = "partSets"',
      `    int[] indices = [${faces.join(', ')}]`,
      '}',
    ]
  })
}
