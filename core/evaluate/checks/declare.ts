import { kindFor, paramOf } from '../../graph/kinds'
import type { Finding } from '../../graph/check'
import type { Look, LookNode } from '../../graph/look'
import type { Kernels } from '../../kernels/kernels'
import { samplePoints, type SurfacePoints } from '../../mesh/sample'
import { RESULT } from '../../nodes'
import type { FinishRefs, Lowered } from '../../nodes/declare'
import type { Program } from '../../program/lower'
import type { Ref } from '../../program/ops'
import { MEASURED_POINTS } from '../gather'
import { LaidLook } from '../laidLook'
import type { MeshTables } from '../tables'

/** A look on a mesh, while it is checked. */
export class Checked {
  readonly found: Finding[] = []
  readonly program: Program
  /** Those whose settings the artist sees: not what recipes are made of. */
  readonly nodes: readonly LookNode[]
  /** Points all over the surface. */
  readonly points: SurfacePoints
  private readonly laid: LaidLook
  private readonly accuracy?: number

  /**
   * @param texels along each side of the texture that is to be delivered
   * @param laid the look on this mesh, where somebody has it: then statistics are as exact as there
   */
  constructor(
    kernels: Kernels,
    readonly tables: MeshTables,
    readonly look: Look,
    readonly texels: number,
    laid?: LaidLook,
  ) {
    this.laid = laid ?? LaidLook.of(kernels, tables, look)
    if (!laid) this.accuracy = MEASURED_POINTS
    this.program = this.laid.program
    this.nodes = look.nodes.filter(n => !n.recipe)
    this.points = samplePoints(tables.mesh, MEASURED_POINTS)
  }

  /** Finds what most checks wait for, piece by piece. */
  *ready(): Generator<void, void> {
    const refs = [...this.masks.map(m => m.ref), ...Object.values(this.program.result).flat()]
    yield* this.laid.finding(refs, this.accuracy)
  }

  warn(node: LookNode, message: string, more: Partial<Finding> = {}): void {
    this.found.push({ severity: 'warning', node: node.id, message, ...more })
  }

  valuesAt(refs: readonly Ref[], where: SurfacePoints): Float32Array[] {
    return this.laid.sampler(refs, this.accuracy)(where)
  }

  /** What arrives at an input of a node, where it has a wire. */
  arriving(node: LookNode, port: string): Lowered | undefined {
    const wire = this.look.wires.find(w => w.to.node === node.id && w.to.port === port)
    return wire && this.program.outputs.get(`${wire.from.node}/${wire.from.port}`)
  }
  finishInto(node: LookNode, port: string): FinishRefs | undefined {
    const got = this.arriving(node, port)
    return got?.type === 'finish' ? got.value : undefined
  }

  /** The masks that the look has, by the nodes and ports that they arrive at. */
  get masks(): { node: LookNode; port: string; ref: Ref }[] {
    return this.nodes.flatMap(node => {
      const port = kindFor(node)?.mask
      const got = port === undefined ? undefined : this.arriving(node, port)
      return port !== undefined && got?.type === 'value' ? [{ node, port, ref: got.value }] : []
    })
  }
  ofKind(kind: string): LookNode[] {
    return this.nodes.filter(n => n.kind === kind)
  }
  /** The node that ends the look, where something leads to it. */
  get end(): LookNode | undefined {
    const end = this.nodes.find(n => n.kind === RESULT)
    return end && this.look.wires.some(w => w.to.node === end.id) ? end : undefined
  }
  /** The node that draws for the parts: what can part those that look alike. */
  get draw(): LookNode | undefined {
    const random = this.ofKind('partRandom').find(n => ['part', 'patch'].includes(String(paramOf(n, 'level'))))
    return this.ofKind('palette')[0] ?? random
  }
}

/** One thing that can be wrong with a look on a mesh and only its values tell. */
export interface ValueCheck {
  /** What it looks for, in a few words. */
  about: string
  run(checked: Checked): void
}

/** Above so many parts, neighbors are not compared: finding them would take longer than the answer is worth. */
export const MOST_PARTS = 5000
export const percent = (share: number): string => `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`
