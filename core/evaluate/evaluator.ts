import { BLOCK, type Kernels } from '../kernels/kernels'
import { pointSet, type SurfacePoints } from '../mesh/sample'
import { uvDensities } from '../mesh/uvs'
import type { ParamReader } from '../program/lower'
import { isGathered, PART, SURFACE, UNIFORM, VERTEX, type ParamRef, type Ref } from '../program/ops'
import type { Plan, Stage } from '../program/plan'
import type { Gatherer } from './gather'
import { StageRunner, type Drain, type Fill } from './runner'
import { measureColumn, type MeshTables } from './tables'

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
  get vertexColumns(): readonly Float32Array[] {
    return (this.perVertex ??= this.plan.stages[VERTEX].out.map(
      () => new Float32Array(this.tables.mesh.positions.length / 3),
    ))
  }
  private perVertex?: Float32Array[]
  private readonly runners: { runner: StageRunner; stage: Stage; reads: Ref[]; last?: number[] }[]
  private points: SurfacePoints = pointSet(0)
  /** The values that the plan is given, at the current points. */
  private given: readonly Float32Array[] = []
  private readonly block = { start: -1, runs: 0, corners: new Uint32Array(BLOCK * 3), part: new Uint32Array(BLOCK) }
  private readonly params: { slot: number; ref: ParamRef }[] = []
  private readonly raw: Float32Array
  private readonly gathered: { ref: Ref; slot: number; version: number }[] = []

  /** @param gatherer what computes the values that need the whole surface; it is refreshed before this is */
  constructor(
    private readonly kernels: Kernels,
    readonly plan: Plan,
    readonly tables: MeshTables,
    readonly gatherer: Gatherer,
  ) {
    gatherer.need(plan.roots)
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
      else if (i.op === 'quantile') this.gathered.push({ ref, slot, version: -1 })
    })
    for (const stage of [part, plan.stages[VERTEX]])
      for (const ref of stage.order)
        if (isGathered(plan.program.code[ref]!)) this.gathered.push({ ref, slot: -1, version: -1 })
    const uniformReads = (stage: Stage) => stage.reads.filter(r => plan.program.domains[r] === UNIFORM)
    this.runners = plan.stages.map(stage => {
      const keep = stage.domain === SURFACE ? plan.roots : stage.out
      const uniformRoots = stage.domain === SURFACE ? plan.roots.filter(r => plan.program.domains[r] === UNIFORM) : []
      const reads = stage.domain === UNIFORM ? [] : [...new Set([...uniformReads(stage), ...uniformRoots])]
      const fillOf = (ref: Ref) =>
        stage.domain === UNIFORM ? this.rawFill(position.get(ref)!) : this.fillOf(stage.domain, ref)
      return { runner: new StageRunner(kernels, plan, stage, reads, fillOf, keep, tables.pictures), stage, reads }
    })
  }

  private rawFill(slot: number): Fill {
    return (_start, n, floats, at) => floats.fill(this.raw[slot]!, at, at + n)
  }

  /**
   * Reads the parameters and runs the stages up to the vertices.
   * @param upTo `parts` leaves the vertex stage out: the stage has it run by the vertex shader
   * @returns which of the results are new
   */
  refresh(
    read: ParamReader,
    upTo: 'parts' | 'vertices' = 'vertices',
  ): { uniforms: boolean; parts: boolean; vertices: boolean } {
    let changed = false
    for (const { slot, ref } of this.params) {
      const value = Math.fround(read(ref))
      if (this.raw[slot] !== value) {
        this.raw[slot] = value
        changed = true
      }
    }
    const renewed = { [PART]: false, [VERTEX]: false } as Record<number, boolean>
    for (const entry of this.gathered) {
      const version = this.gatherer.versionOf(entry.ref)
      if (entry.version === version) continue
      entry.version = version
      if (entry.slot < 0) renewed[this.plan.program.domains[entry.ref]!] = true
      else if (this.raw[entry.slot] !== this.gatherer.valueOf(entry.ref)) {
        this.raw[entry.slot] = this.gatherer.valueOf(entry.ref) as number
        changed = true
      }
    }
    const [uniform, part, vertex] = this.runners
    if (changed || !uniform!.last) {
      uniform!.last = []
      uniform!.runner.run(
        1,
        [],
        this.uniforms.length
          ? [...this.uniforms.keys()].map((i): Drain => (_s, _n, floats, at) => {
              this.uniforms[i] = floats[at]!
            })
          : [],
      )
    }
    const parts = this.runIfNew(part!, this.tables.parts.parts.length, this.partColumns, renewed[PART]!)
    const vertices =
      upTo === 'vertices' &&
      this.runIfNew(vertex!, this.tables.mesh.positions.length / 3, this.vertexColumns, parts || renewed[VERTEX]!)
    return { uniforms: changed, parts, vertices }
  }

  /** A value of parts, or one number for all of them. */
  perPart(ref: Ref): Float32Array | number {
    const slot = this.plan.stages[PART].out.indexOf(ref)
    return slot >= 0 ? this.partColumns[slot]! : (this.uniforms[this.plan.stages[UNIFORM].out.indexOf(ref)] ?? 0)
  }

  private uniformValues(reads: readonly Ref[]): number[] {
    const slots = this.plan.stages[UNIFORM].out
    return reads.map(r => this.uniforms[slots.indexOf(r)]!)
  }

  private runIfNew(
    entry: Evaluator['runners'][number],
    total: number,
    columns: readonly Float32Array[],
    forced: boolean,
  ): boolean {
    if (!entry.stage.out.length) return false
    const values = this.uniformValues(entry.reads)
    if (!forced && entry.last && values.every((v, i) => Object.is(v, entry.last![i]))) return false
    entry.last = values
    entry.runner.run(
      total,
      values,
      columns.map(
        (c): Drain =>
          (start, n, floats, at) =>
            c.set(floats.subarray(at, at + n), start),
      ),
    )
    return true
  }

  /**
   * Runs the surface stage. `out[i]` receives root `i` at every point, whatever its domain.
   * @param given a column for each value that the plan is given
   * @param first the points before it are left as they are: a multiple of `BLOCK`; likewise those from `end`
   */
  evaluate(
    points: SurfacePoints,
    out: readonly Float32Array[],
    given: readonly Float32Array[] = [],
    first = 0,
    end = points.count,
  ): void {
    this.points = points
    this.given = given
    this.block.start = -1
    const { runner, reads } = this.runners[SURFACE]!
    runner.run(
      end,
      this.uniformValues(reads),
      out.map(
        (c): Drain =>
          (start, n, floats, at) =>
            c.set(floats.subarray(at, at + n), start),
      ),
      first,
    )
  }

  /** The same some points at a time, a multiple of `BLOCK`: whoever runs it may do something else in between. */
  *evaluating(
    points: SurfacePoints,
    out: readonly Float32Array[],
    given: readonly Float32Array[],
    piece: number,
  ): Generator<void, void> {
    for (let first = 0; first < points.count; first += piece) {
      if (first) yield
      this.evaluate(points, out, given, first, Math.min(points.count, first + piece))
    }
  }

  /** How an input, or a value of a coarser domain, gets into a column of a stage. */
  private fillOf(domain: number, ref: Ref): Fill {
    const { plan, tables } = this
    const { mesh, parts } = tables
    const instruction = plan.program.code[ref]!
    const own = plan.program.domains[ref]!
    const known = domain === SURFACE ? plan.given.indexOf(ref) : -1
    if (known >= 0) return (start, n, floats, at) => floats.set(this.given[known]!.subarray(start, start + n), at)
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
    if (own === domain && isGathered(instruction)) {
      return (start, n, floats, at) =>
        floats.set((this.gatherer.valueOf(ref) as Float32Array).subarray(start, start + n), at)
    }
    if (own === domain && instruction.op === 'measure') {
      const column = measureColumn(tables, instruction.name, instruction.reading)
      return (start, n, floats, at) => floats.set(column.subarray(start, start + n), at)
    }
    if (own === domain && instruction.op === 'map') {
      const { component, name } = instruction
      const map = mesh.maps.find(m => m.name === name)
      return (start, n, floats, at) => {
        for (let i = 0; i < n; i++) floats[at + i] = map ? map.values[(start + i) * map.components + component]! : 0
      }
    }
    if (own === domain && instruction.op === 'surface') {
      const { input } = instruction
      const k = ['x', 'y', 'z'].indexOf(input)
      if (k >= 0) return this.between(mesh.positions, 3, k)
      const n = ['normalX', 'normalY', 'normalZ'].indexOf(input)
      if (n >= 0) return this.between(mesh.normals, 3, n)
      if (input === 'footprint' || input === 'footprintUv') return this.footprints(input)
      return mesh.uvs
        ? this.between(mesh.uvs, 2, input === 'u' ? 0 : 1)
        : (_s, n, floats, at) => floats.fill(0, at, at + n)
    }
    if (own === PART) {
      const column = this.partColumns[plan.stages[PART].out.indexOf(ref)]!
      return domain === VERTEX
        ? (start, n, floats, at) => {
            for (let i = 0; i < n; i++) floats[at + i] = column[parts.partOfVertex[start + i]!]!
          }
        : (...place) => {
            const [, , floats, at, , spare] = place
            const { runs, part } = this.runs(place)
            const ends = spare + 2 * BLOCK
            const values = ends + BLOCK
            for (let r = 0; r < runs; r++) floats[values + r] = column[part[r]!]!
            this.kernels.run.spread(at * 4, ends * 4, values * 4, runs)
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

  /** How wide the surface is that the points stand for, in meters or along the UVs. */
  private footprints(input: 'footprint' | 'footprintUv'): Fill {
    return (start, n, floats, at) => {
      const { footprint, triangle } = this.points
      if (!footprint) {
        floats.fill(0, at, at + n)
        return
      }
      const densities = uvDensities(this.tables.mesh)
      const meters = 'meters' in footprint ? footprint.meters() : undefined
      const inUv = 'uv' in footprint ? footprint.uv : 0
      for (let i = 0; i < n; i++) {
        const density = densities[triangle[start + i]!]!
        const wide = meters ? meters[start + i]! : inUv / Math.max(density, 1e-12)
        floats[at + i] = input === 'footprint' ? wide : wide * density
      }
    }
  }

  /** Interpolates a vertex column over the triangles of the current points. */
  private between(values: Float32Array, stride: number, offset: number): Fill {
    return (...place) => {
      const [, , floats, at, , spare] = place
      const { runs, corners } = this.runs(place)
      const first = spare + 3 * BLOCK
      for (let r = 0; r < runs; r++) {
        floats[first + r] = values[corners[r * 3]! * stride + offset]!
        floats[first + BLOCK + r] = values[corners[r * 3 + 1]! * stride + offset]!
        floats[first + 2 * BLOCK + r] = values[corners[r * 3 + 2]! * stride + offset]!
      }
      this.kernels.run.interpolate(at * 4, spare * 4, BLOCK * 4, runs)
    }
  }

  /**
   * Points of a block that follow one another in one triangle: neighbors mostly do. Found once for all inputs of the
   * block, and laid out for the kernels.
   */
  private runs([start, n, floats, , words, spare]: Parameters<Fill>): Evaluator['block'] {
    const {
      block,
      points: { triangle, u, v },
      tables: {
        mesh: { indices },
        parts: { partOfTriangle },
      },
    } = this
    if (block.start === start) return block
    block.start = start
    floats.set(u.subarray(start, start + n), spare)
    floats.set(v.subarray(start, start + n), spare + BLOCK)
    let r = 0
    for (let i = 0; i < n; r++) {
      const t = triangle[start + i]!
      do i++
      while (i < n && triangle[start + i] === t)
      for (let k = 0; k < 3; k++) block.corners[r * 3 + k] = indices[t * 3 + k]!
      block.part[r] = partOfTriangle[t]!
      words[spare + 2 * BLOCK + r] = i
    }
    block.runs = r
    return block
  }
}
