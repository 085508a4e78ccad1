import type { Plan } from '../program/plan'
import { PART, SURFACE, UNIFORM, VERTEX, type OpName, type Ref } from '../program/ops'
import type { ValueName } from '../program/valueNames'
import { plainName } from './names'
import { MxGraph, type MxValue } from './writeMaterialX'

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
}

/** Why an operation is baked, in words for the artist. */
const WITHOUT: Partial<Record<OpName, string>> = {
  fitChroma: 'bringing a color back into the gamut at its hue and lightness',
  worley3cell: 'the value of a cell',
}

/**
 * The surface part of a program as nodes of the MaterialX standard (1.39): operations as arithmetic nodes, noise,
 * fractal, cell and Worley noise as the standard's own, whose definition the kernels follow. Uniform values become
 * numbers.
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
): SurfaceGraph {
  const { program, stages } = plan
  const values = new Map<Ref, MxValue>()
  const attributes: SurfaceGraph['attributes'] = []
  const baked: SurfaceGraph['baked'] = []
  const one = (category: string, inputs: Record<string, MxValue>) =>
    graph.node(
      category,
      'float',
      Object.fromEntries(Object.entries(inputs).map(([k, value]) => [k, { type: 'float' as const, value }])),
    )
  const vector = (x: MxValue, y: MxValue, z: MxValue): MxValue =>
    [x, y, z].every(isNumber)
      ? ([x, y, z] as number[])
      : graph.node('combine3', 'vector3', {
          in1: { type: 'float', value: x },
          in2: { type: 'float', value: y },
          in3: { type: 'float', value: z },
        })
  const lane = (of: { node: string }, type: 'vector2' | 'vector3' | 'color3', index: number) =>
    graph.node('extract', 'float', { in: { type, value: of }, index: { type: 'integer', value: index } })
  const two =
    (category: string): F =>
    (in1, in2) =>
      one(category, { in1: in1!, in2: in2! })
  // What numbers settle needs no node: a look that turns nothing has sums with 0 and products with 1.
  const add: F = (x, y) => {
    if (isNumber(x!) && isNumber(y!)) return x + y
    if (x === 0) return y!
    return y === 0 ? x! : two('add')(x!, y!)
  }
  const sub: F = (x, y) => {
    if (isNumber(x!) && isNumber(y!)) return x - y
    return y === 0 ? x! : two('subtract')(x!, y!)
  }
  const mul: F = (x, y) => {
    if (isNumber(x!) && isNumber(y!)) return x * y
    if (x === 0 || y === 0) return 0
    if (isOne(x!)) return y!
    return isOne(y!) ? x! : two('multiply')(x!, y!)
  }
  const div: F = (x, y) => (isOne(y!) ? x! : two('divide')(x!, y!))
  const max = two('max')
  const pow = two('power')
  const isAbove = (a: MxValue, b: MxValue, yes: MxValue, no: MxValue) =>
    one('ifgreater', { value1: a, value2: b, in1: yes, in2: no })
  const position = () => graph.node('position', 'vector3', { space: { type: 'string', value: 'object' } })

  const OPERATIONS: Partial<Record<OpName, F>> = {
    neg: x => mul(x!, -1),
    abs: x => one('absval', { in: x! }),
    floor: x => one('floor', { in: x! }),
    fract: x => sub(x!, one('floor', { in: x! })),
    sqrt: x => one('sqrt', { in: max(x!, 0) }),
    cbrt: x => mul(one('sign', { in: x! }), pow(one('absval', { in: x! }), 1 / 3)),
    sin: x => one('sin', { in: x! }),
    cos: x => one('cos', { in: x! }),
    exp2: x => pow(2, x!),
    log2: x => div(one('ln', { in: max(x!, 1.1754944e-38) }), Math.LN2),
    add,
    sub,
    mul,
    // By nothing it is 0.
    div: (x, y) => {
      if (isNumber(y!)) return y === 0 ? 0 : div(x!, y)
      const safe = one('ifequal', { value1: y!, value2: 0, in1: 1, in2: y! })
      return one('ifequal', { value1: y!, value2: 0, in1: 0, in2: div(x!, safe) })
    },
    min: two('min'),
    max,
    pow: (x, y) =>
      isAbove(
        x!,
        0,
        pow(max(x!, 1e-30), y!),
        isNumber(y!) ? Number(y === 0) : one('ifequal', { value1: y!, value2: 0, in1: 1, in2: 0 }),
      ),
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
    noise3: (x, y, z) =>
      graph.node('noise3d', 'float', {
        position: { type: 'vector3', value: vector(x!, y!, z!) },
        amplitude: { type: 'float', value: 1 },
        pivot: { type: 'float', value: 0 },
      }),
    fractal3: (x, y, z, octaves, lacunarity, diminish) =>
      graph.node('fractal3d', 'float', {
        position: { type: 'vector3', value: vector(x!, y!, z!) },
        amplitude: { type: 'float', value: 1 },
        octaves: { type: 'integer', value: Math.min(16, Math.max(1, Math.trunc(octaves as number))) },
        lacunarity: { type: 'float', value: lacunarity! },
        diminish: { type: 'float', value: diminish! },
      }),
    cell3: (x, y, z) =>
      graph.node('cellnoise3d', 'float', { position: { type: 'vector3', value: vector(x!, y!, z!) } }),
    worley3: (x, y, z, jitter) => worley(x!, y!, z!, jitter!, 0),
    worley3second: (x, y, z, jitter) => worley(x!, y!, z!, jitter!, 1),
  }
  /** 3 t² − 2 t³ written out: the edges may fall as well as rise, which the standard's own node leaves open. */
  const smooth = (low: MxValue, high: MxValue, x: MxValue): MxValue => {
    const t = one('clamp', { in: OPERATIONS.div!(sub(x, low), sub(high, low)), low: 0, high: 1 })
    return mul(mul(t, t), sub(3, mul(2, t)))
  }
  const worley = (x: MxValue, y: MxValue, z: MxValue, jitter: MxValue, index: number): MxValue =>
    index === 0
      ? graph.node('worleynoise3d', 'float', {
          position: { type: 'vector3', value: vector(x, y, z) },
          jitter: { type: 'float', value: jitter },
        })
      : lane(
          graph.node('worleynoise3d', 'vector2', {
            position: { type: 'vector3', value: vector(x, y, z) },
            jitter: { type: 'float', value: jitter },
          }),
          'vector2',
          index,
        )

  const valueOf = (ref: Ref): MxValue => {
    const old = values.get(ref)
    if (old !== undefined) return old
    const name = names.get(ref)
    graph.within = name?.node ?? ''
    const made = make(ref)
    values.set(ref, made)
    if (name?.output && typeof made === 'object' && 'node' in made) graph.call(made.node, fullName(name))
    return made
  }
  /** A property of the mesh goes by what it is; a number after it tells those of the same name apart. */
  const attributeName = (ref: Ref): string => {
    const called = plainName(`ub ${fullName(names.get(ref) ?? { node: 'value' })}`)
    const known = new Set(attributes.map(a => a.name))
    let free = called
    for (let i = 2; known.has(free); i++) free = `${called}_${i}`
    return free
  }
  const make = (ref: Ref): MxValue => {
    const domain = program.domains[ref]!
    const i = program.code[ref]!
    if (domain === UNIFORM) return uniform(ref)
    if (domain === PART || domain === VERTEX) {
      const name = attributeName(ref)
      attributes.push({ name, ref, perPart: domain === PART })
      return graph.node('geompropvalue', 'float', { geomprop: { type: 'string', value: name } }, name)
    }
    if (i.op === 'surface') {
      if (i.input === 'u') return lane(graph.node('texcoord', 'vector2', {}), 'vector2', 0)
      // Upward in the standard, downward in glTF.
      if (i.input === 'v') return sub(1, lane(graph.node('texcoord', 'vector2', {}), 'vector2', 1))
      const at = ['x', 'y', 'z'].indexOf(i.input)
      return at >= 0
        ? lane(position(), 'vector3', at)
        : lane(
            graph.node('normal', 'vector3', { space: { type: 'string', value: 'object' } }),
            'vector3',
            ['normalX', 'normalY', 'normalZ'].indexOf(i.input),
          )
    }
    const bake = (why: string): MxValue => {
      const name = `value${baked.length + 1}`
      baked.push({ name, ref, why })
      return picture(name, ref)
    }
    if (i.op === 'picture') return bake('a picture of the project')
    if (!('args' in i)) throw new Error(`${i.op} cannot be on the surface`)
    if (i.op === 'row3')
      return i.args.map((a, k): MxValue => mul(valueOf(a), i.constants![k]!)).reduce((a, b) => add(a, b))
    const write = OPERATIONS[i.op]
    return write ? write(...i.args.map(valueOf)) : bake(WITHOUT[i.op] ?? i.op)
  }
  // In the order of the code, so that no chain, however long, is walked by recursion.
  const needed = new Set<Ref>(plan.roots)
  const surface = stages[SURFACE].order
  for (const ref of [...surface].reverse()) {
    const i = program.code[ref]!
    if (needed.has(ref) && 'args' in i && (i.op === 'row3' || (i.op !== 'picture' && OPERATIONS[i.op])))
      i.args.forEach(a => needed.add(a))
  }
  for (const ref of surface) if (needed.has(ref)) valueOf(ref)
  return { roots: plan.roots.map(valueOf), attributes, baked }
}
