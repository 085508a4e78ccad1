import { BLOCK, type Kernels } from '../kernels/kernels'
import { samplePartPoints, samplePoints, type SurfacePoints } from '../mesh/sample'
import type { Pin } from '../graph/types'
import type { ParamReader, Program } from '../program/lower'
import { GATHERED, isGathered, readsOf, type GatheredInstruction, type Ref } from '../program/ops'
import { plan as makePlan } from '../program/plan'
import { atOnce } from '../pieces'
import { apart } from './apart'
import { Evaluator } from './evaluator'
import { softening } from './diffuse'
import { movingEdge } from './moveEdge'
import { pick } from './pick'
import { patchDraws } from './patchKeys'
import { quantiles } from './quantiles'
import { measureColumn, type MeshTables } from './tables'

/** Points over the surface behind a statistic: coverage comes out right to two thousandths of the area or so. */
export const STATISTIC_POINTS = 131_072
/** Points behind the checks, and behind statistics while the hands move: exact enough to follow, and soon done. */
export const MEASURED_POINTS = 4096
/** Of the points behind a statistic of the whole: the most that one part has, and all parts together. */
const SHARE_OF_PART = 1 / 8
const TIMES_OF_PARTS = 8

/**
 * How long values may take to find out: exactly; soon, from fewer points; or hastily, too: as if no parts touched where
 * that is not known, and, until there is something better, with masks neither softened nor moved.
 */
export const PACES = ['hasty', 'soon', 'exact'] as const
export type Pace = (typeof PACES)[number]

/** A value that needs the whole surface, or all parts at once: one number, a column per part, or one per vertex. */
export type Whole = number | Float32Array
export type WholeValues = readonly { ref: Ref; value: Whole }[]

/** Points at which values are found before others have a turn. */
const PIECE = 16 * BLOCK
/** Parts whose statistics are made before others have a turn. */
const PARTS_IN_PIECE = 64

/** The values of an evaluator at some points, a column each, piece by piece. */
type Columns = (points: SurfacePoints) => Generator<void, Float32Array[]>

interface Entry {
  instruction: GatheredInstruction
  /** All quantiles of one value, or of one value of each part, are found together, by the first of them. */
  group: Ref[]
  evaluator?: Evaluator
  value: Whole
  /** Counts the changes. */
  version: number
  pins?: unknown
  accuracy?: number
  /** Made hastily. */
  hasty?: boolean
  /** What it depends on has changed, and it was not found since. */
  due?: boolean
  /** The search for it, at a pace; it goes on where it was left. */
  work?: { hasty: boolean; accuracy: number; steps: Generator<void, void> }
}

/**
 * Computes what of a program needs the whole surface at once, in the program's order, and keeps it while what it
 * depends on stays the same. All evaluators of one program on one mesh share it.
 *
 * With `given`, the costly values are not computed here but brought by `give`: the interface's thread has them from a
 * worker.
 */
export class Gatherer {
  private readonly entries = new Map<Ref, Entry>()
  private order: Ref[] = []
  private hasty = false

  /** @param accuracy points over the surface behind every statistic, until another pace is asked for */
  constructor(
    private readonly kernels: Kernels,
    private readonly program: Program,
    private readonly tables: MeshTables,
    private readonly from: 'here' | 'given' = 'here',
    private accuracy = STATISTIC_POINTS,
  ) {}

  /** Takes what another gatherer of the same program, mesh and parameters has found. */
  foreknow(values: WholeValues): void {
    for (const { ref, value } of values) this.known.set(ref, value)
  }
  private readonly known = new Map<Ref, Whole>()

  /** What has been found so far. */
  get found(): { ref: Ref; value: Whole }[] {
    return this.order.flatMap(ref => {
      const { value, version } = this.entries.get(ref)!
      return version ? [{ ref, value }] : []
    })
  }

  /** What is known better already stays, as long as nothing that it depends on changes. */
  set pace(pace: Pace) {
    this.hasty = pace === 'hasty'
    this.accuracy = pace === 'exact' ? STATISTIC_POINTS : MEASURED_POINTS
  }

  /** Makes ready what some values depend on. */
  need(refs: Iterable<Ref>): void {
    const fresh: Ref[] = []
    for (const ref of this.reachable(refs)) {
      const instruction = this.program.code[ref]!
      if (this.entries.has(ref) || !isGathered(instruction)) continue
      const { tables } = this
      const size =
        instruction.op === 'spread' || instruction.op === 'patchDraw'
          ? tables.mesh.positions.length / 3
          : tables.parts.parts.length
      this.entries.set(ref, {
        instruction,
        group: [ref],
        version: 0,
        value: instruction.op === 'quantile' ? 0 : new Float32Array(size),
      })
      fresh.push(ref)
    }
    this.order = [...this.entries.keys()].sort((a, b) => a - b)
    for (const ref of fresh.sort((a, b) => a - b)) {
      const entry = this.entries.get(ref)!
      const { instruction } = entry
      if (instruction.op === 'quantile' || instruction.op === 'partQuantile') {
        const first = this.order.find(r => {
          const i = this.entries.get(r)!.instruction
          return i.op === instruction.op && i.of === instruction.of && i.where === instruction.where
        })!
        if (first !== ref) {
          entry.group = []
          this.entries.get(first)!.group.push(ref)
          this.entries.get(first)!.evaluator = undefined
        }
      }
    }
  }

  /** Values on which some values depend, each once. */
  private reachable(refs: Iterable<Ref>): Set<Ref> {
    const seen = new Set<Ref>()
    const queue = [...refs]
    for (let ref = queue.pop(); ref !== undefined; ref = queue.pop()) {
      if (seen.has(ref)) continue
      seen.add(ref)
      const i = this.program.code[ref]!
      if ('args' in i) queue.push(...i.args)
      else if (isGathered(i)) queue.push(...readsOf(i))
    }
    return seen
  }

  valueOf(ref: Ref): Whole {
    return this.entries.get(ref)!.value
  }
  versionOf(ref: Ref): number {
    return this.entries.get(ref)!.version
  }

  /** The gathered values that some values depend on. */
  gatheredFor(refs: Iterable<Ref>): Ref[] {
    return [...this.reachable(refs)].filter(ref => isGathered(this.program.code[ref]!)).sort((a, b) => a - b)
  }

  /** Those of them that are costly. */
  costly(refs: Iterable<Ref>): Ref[] {
    return this.gatheredFor(refs).filter(ref => {
      const i = this.program.code[ref]!
      return isGathered(i) && GATHERED[i.op].costly
    })
  }

  /** Takes values that were computed elsewhere. What this program does not know is passed over. */
  give(values: WholeValues): void {
    for (const { ref, value } of values) {
      const entry = this.entries.get(ref)
      if (!entry || typeof entry.value !== typeof value) continue
      entry.value = value
      entry.version++
    }
  }

  /**
   * Brings the values up to date, each after those that it depends on.
   * @param only where given, nothing but these values and what they depend on
   */
  refresh(read: ParamReader, only?: Iterable<Ref>): void {
    atOnce(this.refreshing(read, only))
  }

  /** The same piece by piece: whoever runs it may do something else in between. */
  *refreshing(read: ParamReader, only?: Iterable<Ref>): Generator<void, void> {
    const wanted = only && this.reachable(only)
    for (const ref of this.order) {
      const entry = this.entries.get(ref)!
      if (!entry.group.length || (wanted && !entry.group.some(r => wanted.has(r)))) continue
      if (this.from === 'given' && GATHERED[entry.instruction.op].costly) continue
      if (entry.group.every(r => this.known.has(r)))
        for (const r of entry.group) this.put(this.entries.get(r)!, this.known.get(r)!)
      else yield* this.computing(entry, read)
      yield
    }
  }

  private *computing(entry: Entry, read: ParamReader): Generator<void, void> {
    const { instruction: i } = entry
    if (i.op === 'pinned') return this.computePins(entry, i, read.pins?.(i.node, i.param) ?? NONE)
    const sampled = i.op === 'quantile' || i.op === 'partQuantile'
    const shares = sampled ? entry.group.map(r => (this.program.code[r] as typeof i).share) : []
    const roots = sampled ? [i.of, i.where, ...shares] : readsOf(i)
    const fresh = !entry.evaluator
    entry.evaluator ??= new Evaluator(this.kernels, makePlan(this.program, roots), this.tables, this)
    const now = entry.evaluator.refresh(read)
    if (fresh || now.uniforms || now.parts || now.vertices) {
      entry.due = true
      entry.work = undefined
    }
    const { hasty, accuracy } = this
    if (entry.work && (entry.work.hasty !== hasty || entry.work.accuracy !== accuracy)) {
      // Better values are found later, where there is something for now.
      if (!entry.due && (hasty || accuracy < entry.work.accuracy)) return
      entry.work = undefined
    }
    const isBetter = (sampled && (entry.accuracy ?? 0) < accuracy) || (entry.hasty && !hasty)
    if (!entry.work && !entry.due && !isBetter) return
    entry.work ??= { hasty, accuracy, steps: this.working(entry, i, roots) }
    // What is under way may be given up, gone on with by others, and begun anew with other parameters.
    while (entry.work) {
      const { work } = entry
      if (!work.steps.next().done) yield
      else if (entry.work === work) entry.work = undefined
    }
  }

  /** Finds a value with the parameters as they are. */
  private *working(
    entry: Entry,
    i: Exclude<GatheredInstruction, { op: 'pinned' }>,
    roots: readonly Ref[],
  ): Generator<void, void> {
    const { tables, hasty, accuracy } = this
    const evaluator = entry.evaluator!
    const blindly = hasty && !tables.touchingKnown?.()
    const roughly = hasty && i.op === 'spread' && (!entry.version || entry.hasty === true)
    const near = blindly ? { ...tables, touching: () => NO_CONTACTS, findingTouching: undefined } : tables
    const at: Columns = function* (points) {
      const columns = roots.map(() => new Float32Array(points.count))
      yield* evaluator.evaluating(points, columns, [], PIECE)
      return columns
    }
    if (i.op === 'quantile' || i.op === 'partQuantile') yield* this.computingQuantiles(entry, i.op, at)
    else this.put(entry, yield* this.valueFrom(entry, i, at, near, roughly))
    entry.accuracy = accuracy
    entry.hasty = roughly || (blindly && (i.op === 'apart' || i.op === 'pick' || i.op === 'neighbors'))
    entry.due = false
  }

  /** What was set by hand, part by part. */
  private computePins(
    entry: Entry,
    { reading }: Extract<GatheredInstruction, { op: 'pinned' }>,
    pins: readonly Pin[],
  ): void {
    if (entry.pins === pins) return
    entry.pins = pins
    const at = new Map(pins.map(p => [p.part, p]))
    const column = Float32Array.from(this.tables.parts.parts, ({ key }) => {
      const pin = at.get(key)
      return reading === 'is' ? Number(pin?.value !== undefined) : (pin?.[reading] ?? 0)
    })
    this.put(entry, column)
  }

  /** All quantiles of one value, on the whole or part by part. */
  private *computingQuantiles(entry: Entry, op: 'quantile' | 'partQuantile', at: Columns): Generator<void, void> {
    const { tables, accuracy } = this
    type Sampled = [Float32Array, Float32Array, ...Float32Array[]]
    if (op === 'quantile') {
      const [of, where, ...asked] = (yield* at(statisticPoints(tables.mesh, accuracy))) as Sampled
      const all = quantiles(
        of,
        where,
        asked.map(share => share[0]!),
      )
      entry.group.forEach((r, k) => this.put(this.entries.get(r)!, all[k]!))
      return
    }
    const count = tables.parts.parts.length
    const fair = (accuracy * TIMES_OF_PARTS) / Math.max(1, count)
    const each = Math.max(16, Math.min(accuracy * SHARE_OF_PART, fair | 0))
    const [of, where, ...asked] = (yield* at(partPoints(tables, each))) as Sampled
    const found = asked.map(() => new Float32Array(count))
    for (let p = 0; p < count; p++) {
      const from = p * each
      if (p % PARTS_IN_PIECE === 0) yield
      const own = quantiles(
        of.subarray(from, from + each),
        where.subarray(from, from + each),
        asked.map(share => share[from]!),
      )
      found.forEach((column, k) => (column[p] = own[k]!))
    }
    entry.group.forEach((r, k) => this.put(this.entries.get(r)!, found[k]!))
  }

  /**
   * @param near the tables, as if no parts touched where it is done blindly
   * @param roughly whether masks stay as they are
   */
  private *valueFrom(
    entry: Entry,
    i: Exclude<GatheredInstruction, { op: 'pinned' | 'quantile' | 'partQuantile' }>,
    at: Columns,
    near: MeshTables,
    roughly: boolean,
  ): Generator<void, Whole> {
    const { tables } = this
    switch (i.op) {
      case 'rank':
        return ranked(this.perPart(entry, i.of), tables, i.by)
      case 'apart':
        yield* searched(near)
        return apart(this.perPart(entry, i.of), near)
      case 'pick': {
        const [, differ, ...list] = (yield* at(ONE)).map(c => c[0]!) as [number, number, ...number[]]
        if (differ > 0) yield* searched(near)
        return pick(this.perPart(entry, i.of), list, differ, i.by, near)
      }
      case 'neighbors':
        yield* searched(near)
        return measureColumn(near, 'neighbors', i.reading)
      case 'patchDraw': {
        const [seed, stream] = (yield* at(ONE)) as [Float32Array, Float32Array]
        return patchDraws(tables, seed[0]!, stream[0]!)
      }
      case 'spread': {
        const [of, amount, edge] = (yield* at(vertexPoints(tables))) as [Float32Array, Float32Array, Float32Array]
        if (roughly) return of
        if (i.way === 'soften') return yield* softening(tables, of, amount[0]!)
        return yield* movingEdge(tables, of, amount[0]!, edge[0]!)
      }
    }
  }

  private perPart(entry: Entry, of: Ref): Float32Array {
    const { parts } = this.tables.parts
    const own = entry.evaluator!.perPart(of)
    return typeof own === 'number' ? new Float32Array(parts.length).fill(own) : own
  }

  private put(entry: Entry, value: Whole): void {
    const { value: old } = entry
    if (
      entry.version &&
      (typeof value === 'number' || typeof old === 'number' ? value === old : value.every((x, i) => x === old[i]))
    )
      return
    entry.value = value
    entry.version++
  }
}

const NONE: readonly never[] = []
const NO_CONTACTS = { pairs: new Uint32Array(0), distance: 0 }
const ONE: SurfacePoints = { count: 1, triangle: new Uint32Array(1), u: new Float32Array(1), v: new Float32Array(1) }

/** Finds which parts touch piece by piece, where that can be: it is known then. */
function* searched({ findingTouching }: MeshTables): Generator<void, void> {
  if (findingTouching) yield* findingTouching()
}

/** Every different value gets a stretch of 0 to 1, in order; a part's rank is the middle of its value's. */
function ranked(values: Float32Array, { parts }: MeshTables, by: 'count' | 'area'): Float32Array {
  const weight = new Map<number, number>()
  values.forEach((x, i) => weight.set(x, by === 'count' ? 1 : (weight.get(x) ?? 0) + parts.parts[i]!.area))
  const middle = new Map<number, number>()
  const total = [...weight.values()].reduce((s, w) => s + w, 0) || 1
  let sum = 0
  for (const [x, w] of [...weight].sort((a, b) => a[0] - b[0])) {
    middle.set(x, (sum + w / 2) / total)
    sum += w
  }
  return values.map(x => middle.get(x)!)
}

/** Points are kept per mesh: by its positions, which stay the same array while its vertices do. */
const kept = new WeakMap<Float32Array, Map<string, SurfacePoints>>()
function points(mesh: MeshTables['mesh'], name: string, make: () => SurfacePoints): SurfacePoints {
  let known = kept.get(mesh.positions)
  if (!known) kept.set(mesh.positions, (known = new Map()))
  let found = known.get(name)
  if (!found) known.set(name, (found = make()))
  return found
}
const statisticPoints = (mesh: MeshTables['mesh'], count: number) =>
  points(mesh, `whole ${count}`, () => samplePoints(mesh, count))
const partPoints = ({ mesh, parts }: MeshTables, each: number) =>
  points(mesh, `parts ${each} of ${parts.parts.length}`, () => samplePartPoints(mesh, parts, each))

/** One point at every vertex: a corner of a triangle that uses it; of the first triangle where none does. */
export const vertexPoints = ({ mesh }: MeshTables): SurfacePoints =>
  points(mesh, 'vertices', () => {
    const { indices, positions } = mesh
    const count = positions.length / 3
    const found: SurfacePoints = {
      count,
      triangle: new Uint32Array(count),
      u: new Float32Array(count),
      v: new Float32Array(count),
    }
    for (let i = 0; i < indices.length; i++) {
      const v = indices[i]!
      found.triangle[v] = (i / 3) | 0
      found.u[v] = i % 3 === 1 ? 1 : 0
      found.v[v] = i % 3 === 2 ? 1 : 0
    }
    return found
  })
