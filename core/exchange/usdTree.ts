import type { Extras, Mesh, MeshNode } from '../mesh/mesh'
import { IDENTITY } from './meshFile'
import { plainName } from './names'
import { OwnSpaces, placed, worldsOf, type OwnGeometry, type Placed } from './ownSpace'
import { usdMesh, usdShape, type Block, type MeshValues, type UsdShape } from './usdMesh'
import { namer, quoted } from './usdText'

/** A Mesh prim that others of the same shape refer to. */
interface Prototype {
  path: string
  shape: UsdShape
  blocks: ReadonlyMap<string, string>
}

const isIdentity = (matrix: readonly number[]): boolean => matrix.every((x, i) => x === IDENTITY[i])
const indented = (lines: readonly string[]): string[] => lines.map(line => `    ${line}`)
const textOf = (lines: readonly string[]): string => lines.join('\n')

/** Where a prim stands: columns of ours are the rows of USD, whose points are multiplied from the left. */
function transform(matrix: readonly number[]): string[] {
  const row = (k: number): string => `(${matrix.slice(k * 4, k * 4 + 4).join(', ')})`
  return [
    `matrix4d xformOp:transform = ( ${[0, 1, 2, 3].map(row).join(', ')} )`,
    'uniform token[] xformOpOrder = ["xformOp:transform"]',
  ]
}

/** A prim with what is said of it in parentheses. */
function prim(type: string, name: string, said: readonly string[], lines: readonly string[]): string[] {
  const head = `def ${type} "${name}"`
  return [...(said.length ? [`${head} (`, ...indented(said), ')'] : [head]), '{', ...indented(lines), '}']
}
const extrasLines = (extras: Extras | undefined): string[] =>
  extras ? ['customData = {', `    string extras = ${quoted(JSON.stringify(extras))}`, '}'] : []

/**
 * The nodes of a mesh as prims: one with a mesh and nothing in it is a Mesh, all others are Xforms. What the file has
 * once and places several times is written once; where it stands again it refers to that, and says what is different.
 * @param at path of the prim that they stand in
 * @param taken names that are taken there
 */
export function treeLines(mesh: Mesh, values: MeshValues, at: string, taken: readonly string[]): string[] {
  const { nodes, objects } = placed(mesh)
  const tree = new Tree(mesh, values, nodes, objects)
  return tree.within(undefined, at, taken)
}

class Tree {
  private readonly spaces: OwnSpaces
  private readonly prototypes = new Map<number, Prototype>()
  /** What is said of each geometry: once, however often it stands somewhere. */
  private readonly shapes = new Map<OwnGeometry, UsdShape>()
  private readonly objectOf: ReadonlyMap<number, Placed>
  private readonly insideOf = new Map<number | undefined, number[]>()

  constructor(
    private readonly mesh: Mesh,
    private readonly values: MeshValues,
    private readonly nodes: readonly MeshNode[],
    objects: readonly Placed[],
  ) {
    const worlds = worldsOf(nodes)
    this.spaces = new OwnSpaces(mesh, objects, o => worlds[o.node]!)
    this.objectOf = new Map(objects.map(o => [o.node, o]))
    nodes.forEach(({ within }, i) => this.insideOf.set(within, [...(this.insideOf.get(within) ?? []), i]))
  }

  /** Prims for the nodes in a node, or at the top. */
  within(node: number | undefined, at: string, taken: readonly string[] = []): string[] {
    const free = namer()
    taken.forEach(free)
    return (this.insideOf.get(node) ?? []).flatMap(i => {
      const { name, matrix, extras } = this.nodes[i]!
      const object = this.objectOf.get(i)
      const called = free(name || object?.name || 'Node')
      const path = `${at}/${called}`
      const alone = object && !this.insideOf.has(i)
      if (alone) return this.meshPrim(object, called, path, matrix, extras)
      const own = object
        ? this.meshPrim(object, plainName(object.name), `${path}/${plainName(object.name)}`, IDENTITY)
        : []
      const inner = this.within(i, path, object ? [plainName(object.name)] : [])
      const place = isIdentity(matrix) ? [] : transform(matrix)
      return prim('Xform', called, extrasLines(extras), [...place, ...own, ...inner])
    })
  }

  private shapeOf(own: OwnGeometry): UsdShape {
    const shape = this.shapes.get(own) ?? usdShape(own)
    this.shapes.set(own, shape)
    return shape
  }

  private meshPrim(object: Placed, name: string, path: string, matrix: readonly number[], extras?: Extras): string[] {
    const shape = this.shapeOf(this.spaces.of(object))
    const known = object.shape === undefined ? undefined : this.prototypes.get(object.shape)
    const same = known?.shape === shape ? known : undefined
    const blocks = usdMesh(this.mesh, object, shape, this.values)
    const names = new Set(blocks.map(([block]) => block))
    if (!same || [...same.blocks.keys()].some(block => !names.has(block))) {
      if (object.shape !== undefined && !known)
        this.prototypes.set(object.shape, {
          path,
          shape,
          blocks: new Map(blocks.map(([b, lines]) => [b, textOf(lines)])),
        })
      const place = isIdentity(matrix) ? [] : transform(matrix)
      return prim('Mesh', name, extrasLines(extras), [...place, ...blocks.flatMap(([, lines]) => lines)])
    }
    const isOther = ([block, lines]: Block): boolean => same.blocks.get(block) !== textOf(lines)
    const said = [`prepend references = <${same.path}>`, ...extrasLines(extras)]
    return prim('Mesh', name, said, [...transform(matrix), ...blocks.filter(isOther).flatMap(([, lines]) => lines)])
  }
}
