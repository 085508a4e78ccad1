import type { MeasureName } from '../mesh/partSets'
import type {
  PictureReading,
  Domain,
  GatheredInstruction,
  Instruction,
  MeasureReading,
  MeshInput,
  OpName,
  ParamRef,
  PartInput,
  Ref,
  Ref3,
  SurfaceInput,
} from './ops'
import { GATHERED, OPS, PART, readsOf, SURFACE, UNIFORM, VERTEX } from './ops'

/** Where a gathered value lives, if not with the parts. */
const GATHERED_DOMAINS: Partial<Record<GatheredInstruction['op'], Domain>> = {
  quantile: UNIFORM,
  spread: VERTEX,
  patchDraw: VERTEX,
}
/** Gathered values that order parts, and so read one number of each. */
const OF_PARTS: readonly GatheredInstruction['op'][] = ['rank', 'apart', 'pick']
/** The finest domain that an input of a gathered value may live on. */
function finestRead(op: GatheredInstruction['op'], name: string | undefined): Domain {
  if (name === 'of') return OF_PARTS.includes(op) ? PART : SURFACE
  return name === 'where' ? SURFACE : UNIFORM
}

/**
 * Collects instructions in single-assignment form. The same instruction is stored once (hash-consing), so whatever two
 * nodes have in common is computed once; identities such as `x * 1` vanish.
 */
export class Builder {
  readonly code: Instruction[] = []
  readonly domains: Domain[] = []
  private readonly known = new Map<string, Ref>()

  private push(key: string, instruction: Instruction, domain: Domain): Ref {
    const old = this.known.get(key)
    if (old !== undefined) return old
    const ref = this.code.push(instruction) - 1
    this.domains.push(domain)
    this.known.set(key, ref)
    return ref
  }

  private constantOf(ref: Ref): number | undefined {
    const i = this.code[ref]!
    return i.op === 'constant' ? i.value : undefined
  }

  constant(value: number): Ref {
    return this.push(`c${value}`, { op: 'constant', value }, UNIFORM)
  }
  param(ref: ParamRef): Ref {
    return this.push(`p${JSON.stringify(ref)}`, { op: 'param', ref }, UNIFORM)
  }
  mesh(input: MeshInput): Ref {
    return this.push(`m${input}`, { op: 'mesh', input }, UNIFORM)
  }
  /**
   * A channel (0 to 3) of a picture; black and opaque where there is no such picture. It varies over the surface,
   * whatever its place does.
   */
  /** @param over how much of the picture is read, along u and along v; without it the place alone */
  picture(name: string, channel: number, reading: PictureReading, u: Ref, v: Ref, over?: readonly [Ref, Ref]): Ref {
    if (!name) return this.constant(channel === 3 ? 1 : 0)
    const { linear, across, down, nearest, exact } = reading
    const wide = (!nearest && over) || []
    return this.push(
      `i${channel}${Number(linear)}${Number(nearest)}${exact ? 'exact' : ''}${across}${down}/${[u, v, ...wide].join('/')}/${name}`,
      { op: 'picture', args: [u, v, ...wide], name, channel, reading },
      SURFACE,
    )
  }

  /** A value that needs the whole surface or all parts; see {@link GatheredInstruction}. */
  gather(instruction: GatheredInstruction): Ref {
    const { op } = instruction
    readsOf(instruction).forEach((ref, i) => {
      const name = GATHERED[op].reads[i]
      const limit = finestRead(op, name)
      if (this.domains[ref]! > limit) throw new Error(`${name ?? 'an entry'} of ${op} lives on too fine a domain`)
    })
    return this.push(`g${JSON.stringify(instruction)}`, instruction, GATHERED_DOMAINS[op] ?? PART)
  }

  rank(of: Ref, by: 'count' | 'area'): Ref {
    return this.gather({ op: 'rank', of, by })
  }
  quantile(of: Ref, where: Ref, share: Ref): Ref {
    return this.gather({ op: 'quantile', of, where, share })
  }

  part(input: PartInput): Ref {
    return this.push(`t${input}`, { op: 'part', input }, PART)
  }
  /** 1 for the parts of a part set, 0 for the others. */
  set(name: string): Ref {
    return this.push(`e${name}`, { op: 'set', name }, PART)
  }
  measure(name: MeasureName, reading: MeasureReading): Ref {
    if (name === 'neighbors') return this.gather({ op: name, reading })
    return this.push(`q${reading}/${name}`, { op: 'measure', name, reading }, PART)
  }
  map(name: string, component: number): Ref {
    return this.push(`v${component}/${name}`, { op: 'map', name, component }, VERTEX)
  }

  surface(input: SurfaceInput): Ref {
    return this.push(`s${input}`, { op: 'surface', input }, SURFACE)
  }

  /** Appends an operation. Its domain is the finest among its operands'. */
  op(op: OpName, args: Ref[], constants?: number[]): Ref {
    const shape: { arity: number; constants?: number; uniformFrom?: number } = OPS[op]
    if (args.length !== shape.arity || (constants?.length ?? 0) !== (shape.constants ?? 0)) {
      throw new Error(`${op} takes ${shape.arity} operands and ${shape.constants ?? 0} constants`)
    }
    let domain: Domain = UNIFORM
    args.forEach((a, i) => {
      const d = this.domains[a]!
      if (shape.uniformFrom !== undefined && i >= shape.uniformFrom && d !== UNIFORM) {
        throw new Error(`operand ${i} of ${op} must be uniform`)
      }
      if (d > domain) domain = d
    })
    if (op === 'draw' && domain > PART) throw new Error('a draw belongs to a part, not to a point')
    const key = `${op} ${args.join(' ')}${constants ? ` | ${constants.join(' ')}` : ''}`
    return this.push(key, constants ? { op, args, constants } : { op, args }, domain)
  }

  add(a: Ref, b: Ref): Ref {
    if (this.constantOf(a) === 0) return b
    return this.constantOf(b) === 0 ? a : this.op('add', [a, b])
  }

  sub(a: Ref, b: Ref): Ref {
    return this.constantOf(b) === 0 ? a : this.op('sub', [a, b])
  }

  mul(a: Ref, b: Ref): Ref {
    if (this.constantOf(a) === 1) return b
    return this.constantOf(b) === 1 ? a : this.op('mul', [a, b])
  }

  div(a: Ref, b: Ref): Ref {
    return this.constantOf(b) === 1 ? a : this.op('div', [a, b])
  }
  min(a: Ref, b: Ref): Ref {
    return this.op('min', [a, b])
  }
  max(a: Ref, b: Ref): Ref {
    return this.op('max', [a, b])
  }

  /** a + (b - a) t */
  mix(a: Ref, b: Ref, t: Ref): Ref {
    if (a === b || this.constantOf(t) === 0) return a
    return this.constantOf(t) === 1 ? b : this.op('mix', [a, b, t])
  }

  /** x held in [0, 1]. */
  clamp01(x: Ref): Ref {
    return this.op('clamp', [x, this.constant(0), this.constant(1)])
  }

  /** Each component by the same function. */
  map3(f: (...x: Ref[]) => Ref, ...colors: Ref3[]): Ref3 {
    return [0, 1, 2].map(i => f(...colors.map(c => c[i]!))) as Ref3
  }

  row3(v: Ref3, k: readonly [number, number, number]): Ref {
    return this.op('row3', v, [...k])
  }
}
