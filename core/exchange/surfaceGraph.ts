import type { Plan } from '../program/plan'
import { PART, SURFACE, UNIFORM, VERTEX, type Instruction, type OpName, type Ref } from '../program/ops'
import { operandsOf, type ValueName } from '../program/valueNames'
import { plainName } from './names'
import type { MxGraph, MxSetting, MxValue } from './mxGraph'

type F = (...x: MxValue[]) => MxValue
const fullName = ({ node, output = '' }: ValueName): string => `${node} ${output}`.trim()
const isNumber = (x: MxValue): x is number => typeof x === 'number'
/** Whether a value is 1, or the float beside it, as the cosine of no turn is. */
const isOne = (x: MxValue): boolean => isNumber(x) && Math.abs(x - 1) < 1.2e-7

/** What a program's surface part needs from outside, and what could not be said. */
export interface SurfaceGraph {
  /** An expression for each root of the plan. */
  roots: MxValue[]
  /** Values of parts and vertices, read as geometry properties of the mesh. */
  attributes: { name: string; ref: Ref; perPart: boolean }[]
  /** Values that no standard node computes: read from a picture each. */
  baked: { name: string; ref: Ref; why: string }[]
  /** Settings of recipes that cannot be changed in the document, in words: values of the mesh depend on them. */
  withheld: string[]
}

/** Which operand of fractal noise is the number of its octaves. */
const OCTAVES = 3

/** Why an operation is baked, in words for the artist. */
const WITHOUT: Partial<Record<OpName, string>> = {
  fitChroma: 'bringing a color back into the gamut at its hue and lightness',
  worley3cell: 'the value of a cell',
}

/** A recipe of a look, which becomes a definition, and those of its settings that can be changed there. */
export interface RecipeFace {
  id: string
  title: string
  settings: readonly RecipeSetting[]
}

export interface RecipeSetting {
  name: string
  title: string
  /** The parameter that it is; three for a color. */
  refs: readonly Ref[]
}

/**
 * The surface part of a program as nodes of the MaterialX standard (1.39): operations as arithmetic nodes, noise,
 * fractal, cell and Worley noise as the standard's own, whose definition the kernels follow. Uniform values become
 * numbers, but for those that settings of recipes reach on the surface alone: their arithmetic is written out.
 * @param uniform the value of a uniform reference
 * @param picture a baked value as a node
 * @param names what values are called after
 */
export function surfaceGraph(
  graph: MxGraph,
  plan: Plan,
  uniform: (ref: Ref) => number,
  picture: (name: string, ref: Ref) => MxValue,
  names: ReadonlyMap<Ref, ValueName>,
  recipes: readonly RecipeFace[] = [],
): SurfaceGraph {
  return new Builder(graph, plan, uniform, picture, names, recipes).build()
}

/** What is drawn of a plan so far. */
class Builder {
  private readonly values = new Map<string, MxValue>()
  private readonly attributes: SurfaceGraph['attributes'] = []
  private readonly baked: SurfaceGraph['baked'] = []
  private readonly withheld: string[] = []
  private readonly arithmetic: Arithmetic
  private readonly operations: Partial<Record<OpName, F>>
  /** The settings that can be changed, by the parameter that each is, and all uniform values that depend on some. */
  private readonly open = new Map<Ref, { setting: string; lane?: number }>()
  private readonly moved = new Set<Ref>()

  constructor(
    private readonly graph: MxGraph,
    private readonly plan: Plan,
    private readonly uniform: (ref: Ref) => number,
    private readonly picture: (name: string, ref: Ref) => MxValue,
    private readonly names: ReadonlyMap<Ref, ValueName>,
    private readonly recipes: readonly RecipeFace[],
  ) {
    this.arithmetic = new Arithmetic(graph)
    this.operations = { ...arithmeticOf(this.arithmetic), ...patternsOf(graph, this.arithmetic) }
  }

  /** In the order of the code, so that no chain, however long, is walked by recursion. */
  build(): SurfaceGraph {
    const { program, roots, stages } = this.plan
    this.openSettings()
    const needed = new Set<Ref>(roots)
    const surface = stages[SURFACE].order
    for (const ref of [...surface].reverse()) {
      const i = program.code[ref]!
      if (needed.has(ref) && 'args' in i && this.isWritten(i)) i.args.forEach(a => needed.add(a))
    }
    for (const ref of surface) if (needed.has(ref)) this.valueOf(ref, this.groupOf(ref))
    const values = roots.map(ref => this.valueOf(ref, ''))
    this.graph.group = this.graph.within = ''
    return { roots: values, attributes: this.attributes, baked: this.baked, withheld: this.withheld }
  }

  private isWritten(i: Instruction): boolean {
    return i.op === 'row3' || (i.op !== 'picture' && this.operations[i.op as OpName] !== undefined)
  }
  private groupOf(ref: Ref): string {
    return this.names.get(ref)?.recipe ?? ''
  }

  /** Finds the settings that reach nothing but the surface, and tells the graph of its definitions. */
  private openSettings(): void {
    const readers = this.readers()
    for (const { id, title, settings } of this.recipes) {
      const used = settings.filter(s => s.refs.some(ref => readers.has(ref)))
      const open = used.filter(s => s.refs.every(ref => !readers.has(ref) || this.reach(ref, id, readers)))
      const shut = used.filter(s => !open.includes(s))
      this.withheld.push(...shut.map(s => `${s.title} of ${title}`))
      for (const { name, refs } of open)
        refs.forEach((ref, lane) => this.open.set(ref, { setting: name, ...(refs.length > 1 && { lane }) }))
      this.graph.define(id, { title, settings: open.map(s => this.settingOf(s)) })
    }
  }

  private settingOf({ name, title, refs }: RecipeSetting): MxSetting {
    const numbers = refs.map(ref => this.uniform(ref))
    return { name, title, value: numbers.length > 1 ? numbers : numbers[0]! }
  }

  /** What reads each value that the roots need. */
  private readers(): Map<Ref, Ref[]> {
    const { program, roots } = this.plan
    const found = new Map<Ref, Ref[]>(roots.map(ref => [ref, []]))
    const queue = [...roots]
    for (let ref = queue.pop(); ref !== undefined; ref = queue.pop())
      for (const from of operandsOf(program.code[ref]!)) {
        if (!found.has(from)) queue.push(from)
        found.set(from, [...(found.get(from) ?? []), ref])
      }
    return found
  }

  /**
   * Whether all that depends on a setting can be written as nodes: no value of parts or vertices, nothing of the whole
   * surface, no picture, no number that a node needs as it is. Remembers the uniform values among them.
   */
  private reach(setting: Ref, recipe: string, readers: ReadonlyMap<Ref, readonly Ref[]>): boolean {
    const { program, roots } = this.plan
    const reached = new Set([setting])
    for (const ref of reached) for (const by of readers.get(ref) ?? []) reached.add(by)
    const isFine = (ref: Ref): boolean => {
      const i = program.code[ref]!
      const domain = program.domains[ref]!
      if (ref === setting) return true
      if (!('args' in i) || !this.isWritten(i) || (domain !== UNIFORM && domain !== SURFACE)) return false
      return i.op !== 'fractal3' || !reached.has(i.args[OCTAVES]!)
    }
    const stays = (readers.get(setting) ?? []).every(by => this.groupOf(by) === recipe) && !roots.includes(setting)
    if (!stays || ![...reached].every(isFine)) return false
    for (const ref of reached) if (program.domains[ref] === UNIFORM) this.moved.add(ref)
    return true
  }

  /** Whether a value is made wherever it is read: what a mesh gives, settings and numbers. */
  private isSource(ref: Ref): boolean {
    const { program } = this.plan
    const domain = program.domains[ref]!
    const i = program.code[ref]!
    if (domain === UNIFORM) return !('args' in i) || !this.moved.has(ref)
    return domain === PART || domain === VERTEX || i.op === 'surface'
  }

  /** @param asked the group that reads it */
  private valueOf(ref: Ref, asked: string): MxValue {
    const isSource = this.isSource(ref)
    const group = isSource ? asked : this.groupOf(ref)
    const key = isSource ? `${group} ${ref}` : String(ref)
    const old = this.values.get(key)
    if (old !== undefined) return old
    const { graph } = this
    const name = this.names.get(ref)
    const i = this.plan.program.code[ref]!
    const args = !isSource && 'args' in i && this.isWritten(i) ? i.args.map(a => this.valueOf(a, group)) : []
    graph.group = group
    graph.within = name?.node ?? ''
    const made = isSource ? this.source(ref) : this.asNode(this.make(ref, args))
    this.values.set(key, made)
    if (name?.output && typeof made === 'object' && 'node' in made && !isSource) graph.call(made.node, fullName(name))
    return made
  }

  /** A setting that nothing is done with, as a node: others can read that. */
  private asNode(value: MxValue): MxValue {
    const isSetting = typeof value === 'object' && 'setting' in value
    return isSetting ? this.arithmetic.two('multiply')(value, 1) : value
  }

  private source(ref: Ref): MxValue {
    const { program } = this.plan
    const domain = program.domains[ref]!
    const i = program.code[ref]!
    const open = this.open.get(ref)
    if (open) return open.lane === undefined ? open : this.arithmetic.lane(open, 'color3', open.lane)
    if (domain === UNIFORM) return this.uniform(ref)
    return i.op === 'surface' ? this.place(i.input) : this.attribute(ref, domain === PART)
  }

  private make(ref: Ref, args: readonly MxValue[]): MxValue {
    const i = this.plan.program.code[ref]!
    if (i.op === 'picture') return this.bake(ref, 'a picture of the project')
    if (!('args' in i)) throw new Error(`${i.op} cannot be on the surface`)
    const { add, mul } = this.arithmetic
    if (i.op === 'row3') return args.map((a, k): MxValue => mul(a, i.constants![k]!)).reduce((a, b) => add(a, b))
    const write = this.operations[i.op]
    return write ? write(...args) : this.bake(ref, WITHOUT[i.op] ?? i.op)
  }

  private bake(ref: Ref, why: string): MxValue {
    const name = `value${this.baked.length + 1}`
    this.baked.push({ name, ref, why })
    return this.picture(name, ref)
  }

  private attribute(ref: Ref, perPart: boolean): MxValue {
    const known = this.attributes.find(a => a.ref === ref)
    const name = known?.name ?? this.attributeName(ref)
    if (!known) this.attributes.push({ name, ref, perPart })
    const called = fullName(this.names.get(ref) ?? { node: name })
    return this.graph.node('geompropvalue', 'float', { geomprop: { type: 'string', value: name } }, called)
  }

  /** A property of the mesh goes by what it is; a number after it tells those of the same name apart. */
  private attributeName(ref: Ref): string {
    const called = plainName(`ub ${fullName(this.names.get(ref) ?? { node: 'value' })}`)
    const known = new Set(this.attributes.map(a => a.name))
    let free = called
    for (let i = 2; known.has(free); i++) free = `${called}_${i}`
    return free
  }

  /** Where a point is: a UV, a place, a normal. */
  private place(input: string): MxValue {
    const { graph, arithmetic } = this
    if (input === 'u') return arithmetic.lane(graph.node('texcoord', 'vector2', {}), 'vector2', 0)
    // Upward in the standard, downward in glTF.
    if (input === 'v') return arithmetic.sub(1, arithmetic.lane(graph.node('texcoord', 'vector2', {}), 'vector2', 1))
    const space = { space: { type: 'string', value: 'object' } } as const
    const at = ['x', 'y', 'z'].indexOf(input)
    if (at >= 0) return arithmetic.lane(graph.node('position', 'vector3', space), 'vector3', at)
    const axis = ['normalX', 'normalY', 'normalZ'].indexOf(input)
    return arithmetic.lane(graph.node('normal', 'vector3', space), 'vector3', axis)
  }
}

/**
 * Arithmetic as nodes. What numbers settle needs none: a look that turns nothing has sums with 0 and products with 1.
 */
class Arithmetic {
  constructor(private readonly graph: MxGraph) {}

  readonly one = (category: string, inputs: Record<string, MxValue>): MxValue => {
    const typed = Object.entries(inputs).map(([k, value]) => [k, { type: 'float' as const, value }])
    return this.graph.node(category, 'float', Object.fromEntries(typed))
  }
  readonly two =
    (category: string): F =>
    (in1, in2) =>
      this.one(category, { in1: in1!, in2: in2! })
  readonly lane = (of: MxValue, type: 'vector2' | 'vector3' | 'color3', index: number): MxValue =>
    this.graph.node('extract', 'float', { in: { type, value: of }, index: { type: 'integer', value: index } })
  readonly vector = (x: MxValue, y: MxValue, z: MxValue): MxValue =>
    [x, y, z].every(isNumber)
      ? ([x, y, z] as number[])
      : this.graph.node('combine3', 'vector3', {
          in1: { type: 'float', value: x },
          in2: { type: 'float', value: y },
          in3: { type: 'float', value: z },
        })

  readonly add: F = (x, y) => {
    if (isNumber(x!) && isNumber(y!)) return x + y
    if (x === 0) return y!
    return y === 0 ? x! : this.two('add')(x!, y!)
  }
  readonly sub: F = (x, y) => {
    if (isNumber(x!) && isNumber(y!)) return x - y
    return y === 0 ? x! : this.two('subtract')(x!, y!)
  }
  readonly mul: F = (x, y) => {
    if (isNumber(x!) && isNumber(y!)) return x * y
    if (x === 0 || y === 0) return 0
    if (isOne(x!)) return y!
    return isOne(y!) ? x! : this.two('multiply')(x!, y!)
  }
  /** The plain quotient, for what is never divided by nothing. */
  readonly over: F = (x, y) => (isOne(y!) ? x! : this.two('divide')(x!, y!))
  /** By nothing it is 0. */
  readonly div: F = (x, y) => {
    if (isNumber(y!)) return y === 0 ? 0 : this.over(x!, y)
    const safe = this.one('ifequal', { value1: y!, value2: 0, in1: 1, in2: y! })
    return this.one('ifequal', { value1: y!, value2: 0, in1: 0, in2: this.over(x!, safe) })
  }
  readonly max = this.two('max')
  readonly pow = this.two('power')
  readonly isAbove = (a: MxValue, b: MxValue, yes: MxValue, no: MxValue): MxValue =>
    this.one('ifgreater', { value1: a, value2: b, in1: yes, in2: no })
  /** 3 t² − 2 t³ written out: the edges may fall as well as rise, which the standard's own node leaves open. */
  readonly smooth = (low: MxValue, high: MxValue, x: MxValue): MxValue => {
    const { sub, mul } = this
    const t = this.one('clamp', { in: this.div(sub(x, low), sub(high, low)), low: 0, high: 1 })
    return mul(mul(t, t), sub(3, mul(2, t)))
  }
}

function arithmeticOf({
  one,
  two,
  add,
  sub,
  mul,
  over,
  div,
  max,
  pow,
  isAbove,
  smooth,
}: Arithmetic): Partial<Record<OpName, F>> {
  return {
    neg: x => mul(x!, -1),
    abs: x => one('absval', { in: x! }),
    floor: x => one('floor', { in: x! }),
    fract: x => sub(x!, one('floor', { in: x! })),
    sqrt: x => one('sqrt', { in: max(x!, 0) }),
    cbrt: x => mul(one('sign', { in: x! }), pow(one('absval', { in: x! }), 1 / 3)),
    sin: x => one('sin', { in: x! }),
    cos: x => one('cos', { in: x! }),
    exp2: x => pow(2, x!),
    log2: x => over(one('ln', { in: max(x!, 1.1754944e-38) }), Math.LN2),
    add,
    sub,
    mul,
    div,
    min: two('min'),
    max,
    pow: (x, y) => {
      const raised = pow(max(x!, 1e-30), y!)
      const otherwise = isNumber(y!) ? Number(y === 0) : one('ifequal', { value1: y!, value2: 0, in1: 1, in2: 0 })
      return isAbove(x!, 0, raised, otherwise)
    },
    less: (x, y) => isAbove(y!, x!, 1, 0),
    mix: (x, y, t) => {
      if (x === y || t === 0) return x!
      return isOne(t!) ? y! : one('mix', { fg: y!, bg: x!, mix: t! })
    },
    clamp: (x, low, high) => one('clamp', { in: x!, low: low!, high: high! }),
    select: (x, y, z) => {
      if (isNumber(x!)) return x > 0.5 ? y! : z!
      return y === z ? y! : isAbove(x!, 0.5, y!, z!)
    },
    smoothstep: (low, high, x) =>
      isNumber(low!) && isNumber(high!) && low === high
        ? one('ifgreatereq', { value1: x!, value2: high, in1: 1, in2: 0 })
        : smooth(low!, high!, x!),
  }
}

/** Noise, fractal, cells: the standard's own nodes. */
function patternsOf(graph: MxGraph, { lane, vector }: Arithmetic): Partial<Record<OpName, F>> {
  const at = (x: MxValue, y: MxValue, z: MxValue) => ({ type: 'vector3' as const, value: vector(x, y, z) })
  const float = (value: MxValue) => ({ type: 'float' as const, value })
  const worley = (type: 'float' | 'vector2', x: MxValue, y: MxValue, z: MxValue, jitter: MxValue) =>
    graph.node('worleynoise3d', type, { position: at(x, y, z), jitter: float(jitter) })
  return {
    noise3: (x, y, z) =>
      graph.node('noise3d', 'float', { position: at(x!, y!, z!), amplitude: float(1), pivot: float(0) }),
    fractal3: (x, y, z, octaves, lacunarity, diminish) =>
      graph.node('fractal3d', 'float', {
        position: at(x!, y!, z!),
        amplitude: float(1),
        octaves: { type: 'integer', value: Math.min(16, Math.max(1, Math.trunc(octaves as number))) },
        lacunarity: float(lacunarity!),
        diminish: float(diminish!),
      }),
    cell3: (x, y, z) => graph.node('cellnoise3d', 'float', { position: at(x!, y!, z!) }),
    worley3: (x, y, z, jitter) => worley('float', x!, y!, z!, jitter!),
    worley3second: (x, y, z, jitter) => lane(worley('vector2', x!, y!, z!, jitter!), 'vector2', 1),
  }
}
