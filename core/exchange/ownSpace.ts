import { Matrix3, Matrix4, Vector3 } from 'three'
import type { Mesh, MeshNode, MeshObject } from '../mesh/mesh'

/** A determinant, over the cube of the largest entry, below which there is no way back from the world. */
const FLAT = 1e-12
/** Half a step of a 32-bit float, of numbers about 1. */
const HALF_STEP = 2 ** -24
/** Places that are no farther apart than so many of those, of the largest number that there is, are the same. */
const FEW_STEPS = 8
/** How much a direction may change on the way to the world and back. */
const DIRECTION_SLACK = 1e-5

/** From the space of each node to the world. */
export function worldsOf(nodes: readonly MeshNode[]): Matrix4[] {
  const worlds: Matrix4[] = []
  const worldOf = (i: number): Matrix4 => {
    const known = worlds[i]
    if (known) return known
    const { matrix, within } = nodes[i]!
    const own = new Matrix4().fromArray([...matrix])
    worlds[i] = within === undefined ? own : own.premultiply(worldOf(within))
    return worlds[i]
  }
  nodes.forEach((_, i) => worldOf(i))
  return worlds
}

/** Whether what stands in a space can be told from where it is in the world. */
function hasWayBack(world: Matrix4): boolean {
  const linear = new Matrix3().setFromMatrix4(world)
  const largest = Math.max(...linear.elements.map(Math.abs))
  return Math.abs(linear.determinant()) > FLAT * largest ** 3
}

/** An object in a node of its own. */
export type Placed = MeshObject & { node: number }

/**
 * The nodes of a mesh with every object in one: in its own, in one at the top where its own squashes it flat, and,
 * where a file has none, in one inside of nodes by the names of its parents.
 */
export function placed(mesh: Mesh): { nodes: MeshNode[]; objects: Placed[] } {
  const nodes = [...(mesh.nodes ?? [])]
  const worlds = worldsOf(nodes)
  const folders = new Map<string, number>()
  const matrix = new Matrix4().elements
  const add = (name: string, within?: number): number =>
    nodes.push({ name, matrix, ...(within !== undefined && { within }) }) - 1
  const folder = (path: readonly string[]): number | undefined => {
    if (!path.length) return undefined
    const key = JSON.stringify(path)
    if (!folders.has(key)) folders.set(key, add(path.at(-1)!, folder(path.slice(0, -1))))
    return folders.get(key)!
  }
  const objects = mesh.objects.map((object): Placed => {
    const { node, name, parents = [] } = object
    if (node === undefined) return { ...object, node: add(name, folder(parents)) }
    return { ...object, node: hasWayBack(worlds[node]!) ? node : add(name) }
  })
  return { nodes, objects }
}

/** The geometry of one object in the space of its node. */
export interface OwnGeometry {
  positions: Float32Array
  normals: Float32Array
  /** Four numbers a vertex; the sign is that of the world, where shaders make the bitangent. */
  tangents?: Float32Array
  /** Three for each of its triangles, from its own first vertex. */
  indices: Uint32Array
}

/**
 * The objects of a mesh, each in the space of its node. Where a file has one thing in several places, it comes back
 * from each of them a little otherwise rounded: all that are the same but for that get the numbers of the finest.
 */
export class OwnSpaces {
  private readonly finest = new Map<number, Placed>()
  private readonly known = new Map<Placed, OwnGeometry>()

  /**
   * @param worldOf from the space of an object's node to the world
   * @param tangents of the whole mesh
   */
  constructor(
    private readonly mesh: Mesh,
    objects: readonly Placed[],
    private readonly worldOf: (object: Placed) => Matrix4,
    private readonly tangents?: Float32Array,
  ) {
    const slacks = new Map<number, number>()
    for (const object of objects) {
      if (object.shape === undefined) continue
      const slack = slackOf(mesh, object, worldOf(object))
      if (slack >= (slacks.get(object.shape) ?? Infinity)) continue
      slacks.set(object.shape, slack)
      this.finest.set(object.shape, object)
    }
  }

  of(object: Placed): OwnGeometry {
    const { mesh, worldOf } = this
    const finest = object.shape === undefined ? undefined : this.finest.get(object.shape)
    if (!finest || finest === object) return this.own(object)
    const best = this.own(finest)
    const own = ownGeometry(mesh, object, worldOf(object), this.tangents)
    const standsThere = isWhere(best.positions, worldOf(object), mesh, object)
    if (!standsThere || !isAlike(best.indices, own.indices, 0) || !isAlike(best.normals, own.normals, DIRECTION_SLACK))
      return own
    const alike = isAlike(best.tangents ?? [], own.tangents ?? [], DIRECTION_SLACK)
    return alike ? best : { ...best, tangents: own.tangents! }
  }

  /** Of an object that others may get the numbers of: the same each time. */
  private own(object: Placed): OwnGeometry {
    const made = this.known.get(object) ?? ownGeometry(this.mesh, object, this.worldOf(object), this.tangents)
    if (object.shape !== undefined) this.known.set(object, made)
    return made
  }
}

const largestOf = ({ positions }: Mesh, { firstVertex, vertices }: MeshObject): number => {
  let largest = 0
  for (let i = firstVertex * 3; i < (firstVertex + vertices) * 3; i++)
    largest = Math.max(largest, Math.abs(positions[i]!))
  return largest
}

/** How much of an object's places may have been lost to rounding in the world, in its own space. */
function slackOf(mesh: Mesh, object: MeshObject, world: Matrix4): number {
  const back = new Matrix3().setFromMatrix4(world.clone().invert())
  return HALF_STEP * largestOf(mesh, object) * Math.max(...back.elements.map(Math.abs))
}

/** Whether places, brought into the world, are those of an object but for what 32 bits round there. */
function isWhere(positions: Float32Array, world: Matrix4, mesh: Mesh, object: MeshObject): boolean {
  const { firstVertex, vertices } = object
  if (positions.length !== vertices * 3) return false
  const slack = FEW_STEPS * HALF_STEP * largestOf(mesh, object)
  const at = new Vector3()
  const there = new Vector3()
  for (let v = 0; v < vertices; v++) {
    at.fromArray(positions, v * 3).applyMatrix4(world)
    there.fromArray(mesh.positions, (firstVertex + v) * 3).sub(at)
    if (!(Math.max(Math.abs(there.x), Math.abs(there.y), Math.abs(there.z)) <= slack)) return false
  }
  return true
}

/**
 * An object as it is in the space of its node. Where that mirrors, triangles turn the other way around, as they did
 * before they were brought into the world.
 */
function ownGeometry(mesh: Mesh, object: MeshObject, world: Matrix4, tangents?: Float32Array): OwnGeometry {
  const { firstVertex, vertices, firstTriangle, triangles } = object
  const run = (values: Float32Array, size: number): Float32Array =>
    values.slice(firstVertex * size, (firstVertex + vertices) * size)
  const indices = mesh.indices.slice(firstTriangle * 3, (firstTriangle + triangles) * 3)
  for (let i = 0; i < indices.length; i++) indices[i]! -= firstVertex
  const own: OwnGeometry = {
    positions: run(mesh.positions, 3),
    normals: run(mesh.normals, 3),
    ...(tangents && { tangents: run(tangents, 4) }),
    indices,
  }
  if (world.equals(new Matrix4())) return own
  const back = world.clone().invert()
  const linear = new Matrix3().setFromMatrix4(world)
  // Normals came by the inverse transposed, so they go back by the transposed.
  const turned = linear.clone().transpose()
  const at = new Vector3()
  for (let v = 0; v < vertices; v++) {
    at.fromArray(own.positions, v * 3)
      .applyMatrix4(back)
      .toArray(own.positions, v * 3)
    at.fromArray(own.normals, v * 3)
      .applyMatrix3(turned)
      .normalize()
      .toArray(own.normals, v * 3)
    if (own.tangents)
      at.fromArray(own.tangents, v * 4)
        .transformDirection(back)
        .toArray(own.tangents, v * 4)
  }
  if (linear.determinant() < 0)
    for (let i = 0; i < indices.length; i += 3) {
      const second = indices[i + 1]!
      indices[i + 1] = indices[i + 2]!
      indices[i + 2] = second
    }
  return own
}

/** Whether numbers are the same but for some slack. */
export function isAlike(a: ArrayLike<number>, b: ArrayLike<number>, slack: number): boolean {
  if (a === b) return true
  if (a.length !== b.length) return false
  for (let i = 0; i < a.length; i++) if (!(Math.abs(a[i]! - b[i]!) <= slack)) return false
  return true
}
