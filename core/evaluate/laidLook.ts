import type { Look } from '../graph/look'
import type { Kernels } from '../kernels/kernels'
import { samplePoints, type SurfacePoints } from '../mesh/sample'
import { lowerOn, reader, type ParamReader, type Program } from '../program/lower'
import type { Ref } from '../program/ops'
import { plan } from '../program/plan'
import { Evaluator } from './evaluator'
import { Gatherer, STATISTIC_POINTS, vertexPoints, type Whole } from './gather'
import type { MeshTables } from './tables'

/** Values of a program at points: one column for each. */
export type Sample = (points: SurfacePoints) => Float32Array[]

/** What was found of a laid look that needs its whole surface; `most` by the numbers of the values. */
export interface FoundOfSurface {
  values: { ref: Ref; value: Whole }[]
  most: [refs: string, most: number][]
}

/** Points all over the surface behind what is largest. */
const MOST_POINTS = 65_536

/**
 * A program on a mesh whose parameters stay as they are. What it needs of the whole surface is found once, whoever asks
 * and whatever is asked.
 */
export class LaidLook {
  private readonly gatherers = new Map<number, Gatherer>()
  private readonly mosts: Map<string, number>

  /**
   * @param known what was found elsewhere, by a laid look of the same program, parameters and mesh
   * @param shared a gatherer of the same program and mesh that others use, too
   */
  constructor(
    readonly kernels: Kernels,
    readonly tables: MeshTables,
    readonly program: Program,
    readonly read: ParamReader,
    private readonly known: FoundOfSurface = { values: [], most: [] },
    shared?: Gatherer,
  ) {
    this.mosts = new Map(known.most)
    if (shared) this.gatherers.set(STATISTIC_POINTS, shared)
  }

  /** A look as it lies on a mesh, with the mesh's maps and its own normals. */
  static of(kernels: Kernels, tables: MeshTables, look: Look, known?: FoundOfSurface): LaidLook {
    return new LaidLook(kernels, tables, lowerOn(look, tables.mesh), reader(look), known)
  }

  /**
   * What finds the values of the whole surface.
   * @param accuracy points over the surface behind every statistic
   */
  gatherer(accuracy = STATISTIC_POINTS): Gatherer {
    const made = this.gatherers.get(accuracy)
    if (made) return made
    const fresh = new Gatherer(this.kernels, this.program, this.tables, 'here', accuracy)
    // What is known is exact.
    if (accuracy === STATISTIC_POINTS) fresh.foreknow(this.known.values)
    this.gatherers.set(accuracy, fresh)
    return fresh
  }

  /** Finds what some values need of the whole surface, piece by piece. */
  *finding(refs: readonly Ref[], accuracy?: number): Generator<void, void> {
    const gatherer = this.gatherer(accuracy)
    gatherer.need(refs)
    yield* gatherer.refreshing(this.read, refs)
  }

  /** What has been found so far. */
  get found(): FoundOfSurface {
    return { values: this.gatherer().found, most: [...this.mosts] }
  }

  /** The largest of some values anywhere on the surface, whatever their sign. */
  most(refs: readonly Ref[]): number {
    const key = refs.join()
    let most = this.mosts.get(key) ?? 0
    if (this.mosts.has(key)) return most
    const sample = this.sampler(refs)
    // Vertices as well: what is largest is often at an edge.
    for (const points of [samplePoints(this.tables.mesh, MOST_POINTS), vertexPoints(this.tables)])
      for (const column of sample(points)) for (const x of column) most = Math.max(most, Math.abs(x))
    this.mosts.set(key, most)
    return most
  }

  /**
   * Makes ready what reads some values.
   * @param accuracy points over the surface behind every statistic
   */
  sampler(refs: readonly Ref[], accuracy?: number): Sample {
    const gatherer = this.gatherer(accuracy)
    const evaluator = new Evaluator(this.kernels, plan(this.program, refs), this.tables, gatherer)
    gatherer.refresh(this.read, refs)
    evaluator.refresh(this.read)
    return points => {
      const columns = refs.map(() => new Float32Array(points.count))
      evaluator.evaluate(points, columns)
      return columns
    }
  }
}
