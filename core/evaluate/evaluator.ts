import type { Kernels } from '../kernels/kernels'
import { pointSet, samplePoints, type SurfacePoints } from '../mesh/sample'
import { PART, SURFACE, UNIFORM, VERTEX, type ParamRef, type Ref } from '../program/ops'
import { plan as makePlan, type Plan, type Stage } from '../program/plan'
import { StageRunner, type Drain, type Fill } from './runner'
import { measureColumn, type MeshTables } from './tables'

/** Points over the surface behind a statistic: coverage comes out right to a few thousandths of the area. */
export const STATISTIC_POINTS = 32_768

/** What is measured of one value over the surface, and the uniforms that wait for it. */
interface Statistic { of: Ref, where: Ref, wanted: { slot: number, share: Ref }[], evaluator?: Evaluator, last?: boolean }

/** Every different value gets a stretch of 0 to 1, in order; a part's rank is the middle of its value's. */
function rank(values: Float32Array, { parts }: MeshTables, by: 'count' | 'area', out: Float32Array): void {
  const weight = new Map<number, number>()
  values.forEach((x, i) => weight.set(x, by === 'count' ? 1 : (weight.get(x) ?? 0) + parts.parts[i]!.area))
  const middle = new Map<number, number>(), total = [...weight.values()].reduce((s, w) => s + w, 0) || 1
  let sum = 0
  for (const [x, w] of [...weight].sort((a, b) => a[0] - b[0])) {
    middle.set(x, (sum + w / 2) / total)
    sum += w
  }
  values.forEach((x, i) => { out[i] = middle.get(x)! })
}

const pointsOf = new WeakMap<Float32Array, Map<number, SurfacePoints>>()
function statisticPoints(mesh: MeshTables['mesh'], count: number): SurfacePoints {
  let known = pointsOf.get(mesh.positions)
  if (!known) pointsOf.set(mesh.positions, known = new Map())
  let points = known.get(count)
  if (!points) known.set(count, points = samplePoints(mesh, count))
  return points
}

/** For each share the number halfway between the last point above and the first one below; just beyond the ends at 0 and 1. */
function quantiles({ evaluator, wanted }: Statistic, points: SurfacePoints): [slot: number, value: number][] {
  const columns = Array.from({ length: 2 + wanted.length }, () => new Float32Array(points.count))
  evaluator!.evaluate(points, columns)
  const [of, where, ...shares] = columns as [Float32Array, Float32Array, ...Float32Array[]], sorted = of.filter((_, i) => where[i]! > 0.5).sort(), n = sorted.length
  return wanted.map(({ slot }, i) => {
    const above = Math.round(Math.min(1, Math.max(0, shares[i]![0]!)) * n), beyond = (x: number) => 1e-5 * Math.max(1, Math.abs(x))
    if (!n) return [slot, 0]
    if (above <= 0) return [slot, Math.fround(sorted[n - 1]! + beyond(sorted[n - 1]!))]
    if (above >= n) return [slot, Math.fround(sorted[0]! - beyond(sorted[0]!))]
    return [slot, Math.fround((sorted[n - above]! + sorted[n - above - 1]!) / 2)]
  })
}

/**
 * A plan on a mesh. `refresh` brings the uniform, part and vertex stages up to date with the parameters; `evaluate`
 * then runs the surface stage at any points. Part and vertex results are kept and computed again only if a uniform they
 * read has changed.
 */
export class Evaluator {
  /** Value of every reference that leaves the uniform stage, in the order of `plan.stages[UNIFORM].out`. */
  readonly uniforms: Float32Array
  /** One column per value that leaves the part stage; likewise for vertices. */
  readonly partColumns: Float32Array[]
  get vertexColumns(): readonly Float32Array[] { return this.perVertex ??= this.plan.stages[VERTEX].out.map(() => new Float32Array(this.tables.mesh.positions.length / 3)) }
  private perVertex?: Float32Array[]
  private readonly runners: { runner: StageRunner, stage: Stage, reads: Ref[], last?: number[] }[]
  private points: SurfacePoints = pointSet(0)
  private readonly params: { slot: number, ref: ParamRef }[] = []
  private readonly raw: Float32Array
  private readonly statistics: Statistic[] = []
  private readonly ranks = new Map<Ref, { evaluator: Evaluator, by: 'count' | 'area', column: Float32Array, known: boolean }>()

  /** @param accuracy points over the surface behind every statistic */
  constructor(kernels: Kernels, readonly plan: Plan, readonly tables: MeshTables, accuracy = STATISTIC_POINTS) {
    const [uniform, part] = plan.stages
    this.uniforms = new Float32Array(uniform.out.length)
    this.partColumns = part.out.map(() => new Float32Array(tables.parts.parts.length))
    this.raw = new Float32Array(uniform.order.length)
    const position = new Map(uniform.order.map((ref, i) => [ref, i]))
    uniform.order.forEach((ref, slot) => {
      const i = plan.program.code[ref]!
      if (i.op === 'param') this.params.push({ slot, ref: i.ref })
      else if (i.op === 'constant') this.raw[slot] = i.value
      else if (i.op === 'mesh') this.raw[slot] = tables.whole[i.input]
      else if (i.op === 'quantile') {
        const known = this.statistics.find(s => s.of === i.of && s.where === i.where)
        if (known) known.wanted.push({ slot, share: i.share })
        else this.statistics.push({ of: i.of, where: i.where, wanted: [{ slot, share: i.share }] })
      }
    })
    for (const s of this.statistics) s.evaluator = new Evaluator(kernels, makePlan(plan.program, [s.of, s.where, ...s.wanted.map(w => w.share)]), tables, accuracy)
    for (const ref of part.order) {
      const i = plan.program.code[ref]!
      if (i.op === 'rank') this.ranks.set(ref, { evaluator: new Evaluator(kernels, makePlan(plan.program, [i.of]), tables, accuracy), by: i.by, column: new Float32Array(tables.parts.parts.length), known: false })
    }
    this.accuracy = accuracy
    const uniformReads = (stage: Stage) => stage.reads.filter(r => plan.program.domains[r] === UNIFORM)
    this.runners = plan.stages.map((stage) => {
      const keep = stage.domain === SURFACE ? plan.roots : stage.out
      const reads = stage.domain === UNIFORM ? [] : stage.domain === SURFACE
        ? [...new Set([...uniformReads(stage), ...plan.roots.filter(r => plan.program.domains[r] === UNIFORM)])]
        : uniformReads(stage)
      const fillOf = (ref: Ref) => stage.domain === UNIFORM ? this.rawFill(position.get(ref)!) : this.fillOf(stage.domain, ref)
      return { runner: new StageRunner(kernels, plan, stage, reads, fillOf, keep), stage, reads }
    })
  }

  private readonly accuracy: number

  private rawFill(slot: number): Fill {
    return (_start, n, floats, at) => floats.fill(this.raw[slot]!, at, at + n)
  }

  /**
   * Reads the parameters and runs the stages up to the vertices.
   * @param upTo `parts` leaves the vertex stage out: the stage has it run by the vertex shader
   * @returns which of the results are new
   */
  refresh(readParam: (ref: ParamRef) => number, upTo: 'parts' | 'vertices' = 'vertices'): { uniforms: boolean, parts: boolean, vertices: boolean } {
    let changed = false
    for (const { slot, ref } of this.params) {
      const value = Math.fround(readParam(ref))
      if (this.raw[slot] !== value) {
        this.raw[slot] = value
        changed = true
      }
    }
    for (const statistic of this.statistics) {
      const { evaluator, last } = statistic, now = evaluator!.refresh(readParam)
      if (last && !now.uniforms && !now.parts && !now.vertices) continue
      for (const [slot, value] of quantiles(statistic, statisticPoints(this.tables.mesh, this.accuracy))) {
        if (this.raw[slot] === value) continue
        this.raw[slot] = value
        changed = true
      }
      statistic.last = true
    }
    const [uniform, part, vertex] = this.runners
    if (changed || !uniform!.last) {
      uniform!.last = []
      uniform!.runner.run(1, [], this.uniforms.length ? [...this.uniforms.keys()].map((i): Drain => (_s, _n, floats, at) => {
        this.uniforms[i] = floats[at]!
      }) : [])
    }
    let ranked = false
    for (const entry of this.ranks.values()) {
      const now = entry.evaluator.refresh(readParam, 'parts')
      if (entry.known && !now.uniforms && !now.parts) continue
      rank(entry.evaluator.partValues(), this.tables, entry.by, entry.column)
      entry.known = ranked = true
    }
    const parts = this.runIfNew(part!, this.tables.parts.parts.length, this.partColumns, ranked)
    const vertices = upTo === 'vertices' && this.runIfNew(vertex!, this.tables.mesh.positions.length / 3, this.vertexColumns, parts)
    return { uniforms: changed, parts, vertices }
  }

  /** The first root per part, where it is a part's or uniform. */
  private partValues(): Float32Array {
    const [root] = this.plan.roots, slot = this.plan.stages[PART].out.indexOf(root!)
    if (slot >= 0) return this.partColumns[slot]!
    return new Float32Array(this.tables.parts.parts.length).fill(this.uniforms[this.plan.stages[UNIFORM].out.indexOf(root!)] ?? 0)
  }

  private uniformValues(reads: readonly Ref[]): number[] {
    const slots = this.plan.stages[UNIFORM].out
    return reads.map(r => this.uniforms[slots.indexOf(r)]!)
  }

  private runIfNew(entry: Evaluator['runners'][number], total: number, columns: readonly Float32Array[], forced: boolean): boolean {
    if (!entry.stage.out.length) return false
    const values = this.uniformValues(entry.reads)
    if (!forced && entry.last && values.every((v, i) => Object.is(v, entry.last![i]))) return false
    entry.last = values
    entry.runner.run(total, values, columns.map((c): Drain => (start, n, floats, at) => c.set(floats.subarray(at, at + n), start)))
    return true
  }

  /**
   * Runs the surface stage. `out[i]` receives root `i` at every point, whatever its domain.
   * @param stopped asked before every block; once it says yes, the rest of `out` is left as it was
   */
  evaluate(points: SurfacePoints, out: readonly Float32Array[], stopped?: () => boolean): void {
    this.points = points
    const { runner, reads } = this.runners[SURFACE]!
    runner.run(points.count, this.uniformValues(reads),
      out.map((c): Drain => (start, n, floats, at) => c.set(floats.subarray(at, at + n), start)), stopped)
  }

  /** How an input, or a value of a coarser domain, gets into a column of a stage. */
  private fillOf(domain: number, ref: Ref): Fill {
    const { plan, tables } = this, { mesh, parts } = tables
    const instruction = plan.program.code[ref]!, own = plan.program.domains[ref]!
    if (own === domain && instruction.op === 'part') {
      const words = new Uint32Array(tables.part[instruction.input].buffer)
      return (start, n, _floats, at, memory) => memory.set(words.subarray(start, start + n), at)
    }
    if (own === domain && instruction.op === 'set') {
      const members = tables.sets.find(s => s.set.name === instruction.name)?.members
      return (start, n, floats, at) => {
        for (let i = 0; i < n; i++) floats[at + i] = members?.[start + i] ?? 0
      }
    }
    if (own === domain && instruction.op === 'rank') {
      const { column } = this.ranks.get(ref)!
      return (start, n, floats, at) => floats.set(column.subarray(start, start + n), at)
    }
    if (own === domain && instruction.op === 'measure') {
      const column = measureColumn(tables, instruction.name, instruction.reading)
      return (start, n, floats, at) => floats.set(column.subarray(start, start + n), at)
    }
    if (own === domain && instruction.op === 'map') {
      const { component, name } = instruction, map = mesh.maps.find(m => m.name === name)
      return (start, n, floats, at) => {
        for (let i = 0; i < n; i++) floats[at + i] = map ? map.values[(start + i) * map.components + component]! : 0
      }
    }
    if (own === domain && instruction.op === 'surface') {
      const { input } = instruction, k = ['x', 'y', 'z'].indexOf(input)
      if (k >= 0) return this.between(mesh.positions, 3, k)
      const n = ['normalX', 'normalY', 'normalZ'].indexOf(input)
      if (n >= 0) return this.between(mesh.normals, 3, n)
      return mesh.uvs ? this.between(mesh.uvs, 2, input === 'u' ? 0 : 1) : (_s, n, floats, at) => floats.fill(0, at, at + n)
    }
    if (own === PART) {
      const column = this.partColumns[plan.stages[PART].out.indexOf(ref)]!
      return domain === VERTEX
        ? (start, n, floats, at) => { for (let i = 0; i < n; i++) floats[at + i] = column[parts.partOfVertex[start + i]!]! }
        : (start, n, floats, at) => {
            const { triangle } = this.points
            for (let i = 0; i < n; i++) floats[at + i] = column[parts.partOfTriangle[triangle[start + i]!]!]!
          }
    }
    if (own === VERTEX) {
      const slot = plan.stages[VERTEX].out.indexOf(ref)
      let fill: Fill | undefined
      // Found when it first runs: an evaluator that never does needs no column per vertex.
      return (...place) => (fill ??= this.between(this.vertexColumns[slot]!, 1, 0))(...place)
    }
    throw new Error(`${instruction.op} is no input of domain ${domain}`)
  }

  /** Interpolates a vertex column over the triangles of the current points. */
  private between(values: Float32Array, stride: number, offset: number): Fill {
    const { indices } = this.tables.mesh
    return (start, n, floats, at) => {
      const { triangle, u, v } = this.points
      for (let i = 0; i < n; i++) {
        const t = triangle[start + i]! * 3
        const a = values[indices[t]! * stride + offset]!, b = values[indices[t + 1]! * stride + offset]!, c = values[indices[t + 2]! * stride + offset]!
        floats[at + i] = a + (b - a) * u[start + i]! + (c - a) * v[start + i]!
      }
    }
  }
}
