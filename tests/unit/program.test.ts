import { describe, expect, it } from 'vitest'
import { LoneEvaluator } from '#core/evaluate/loneEvaluator'
import { setParam } from '#core/graph/edit'
import { emptyLook } from '#core/graph/look'
import { Builder } from '#core/program/builder'
import { lower, reader, signature } from '#core/program/lower'
import { PART, SURFACE, UNIFORM, VERTEX } from '#core/program/ops'
import { plan } from '#core/program/plan'
import { pointSet, samplePoints } from '#core/mesh/sample'
import { lookShader } from '#core/shader/glsl'
import { at, boxes, kernels, lookOf, partsOf, positionsOf, row, tablesOf } from '../helpers'

describe('builder', () => {
  it('stores the same instruction once and drops identities', () => {
    const b = new Builder()
    const x = b.surface('x')
    expect(b.add(x, b.constant(2))).toBe(b.add(x, b.constant(2)))
    expect(b.mul(x, b.constant(1))).toBe(x)
    expect(b.add(b.constant(0), x)).toBe(x)
    expect(b.mix(x, b.constant(4), b.constant(0))).toBe(x)
  })

  it('puts a result on the finest domain of its operands', () => {
    const b = new Builder()
    const p = b.param({ node: 'n', param: 'p' })
    const part = b.part('sizeX')
    const map = b.map('m', 0)
    const x = b.surface('x')
    const domain = (ref: number) => b.domains[ref]
    expect([p, b.add(p, p), b.add(part, p), b.add(part, map), b.add(map, x)].map(domain)).toEqual([
      UNIFORM,
      UNIFORM,
      PART,
      VERTEX,
      SURFACE,
    ])
  })

  it('refuses a draw on the surface and octaves that vary', () => {
    const b = new Builder()
    const x = b.surface('x')
    const c = b.constant(1)
    expect(() => b.op('draw', [x, x, c, c])).toThrow('belongs to a part')
    expect(() => b.op('fractal3', [x, x, x, x, c, c])).toThrow('must be uniform')
  })
})

describe('plan', () => {
  const look = lookOf(
    {
      random: ['partRandom', { seed: 4 }],
      levels: ['levels', { outLow: 0.2, outHigh: 0.4 }],
      noise: ['noise'],
      mix: ['mix', { what: 'value' }],
      finish: ['finish'],
    },
    [
      'random.value > levels.value',
      'levels.value > mix.a',
      'noise.value > mix.b',
      'mix.out > finish.roughness',
      'finish.finish > result.finish',
    ],
  )

  it('does part work per part and leaves only what varies to the surface', () => {
    const p = plan(lower(look, []), lower(look, []).result.roughness)
    const ops = (d: number) => p.stages[d]!.order.map(r => p.program.code[r]!.op)
    expect(ops(PART)).toContain('draw')
    expect(ops(PART)).toContain('pow')
    expect(ops(SURFACE)).toContain('fractal3')
    expect(ops(SURFACE)).not.toContain('draw')
    expect(ops(SURFACE)).not.toContain('pow')
    expect(p.stages[PART]!.out).toHaveLength(1)
  })

  it('computes only what the roots need', () => {
    const program = lower(look, [])
    expect(
      plan(program, program.result.metalness)
        .stages.map(s => s.order.filter(r => 'args' in program.code[r]!).length)
        .reduce((a, b) => a + b),
    ).toBeLessThanOrEqual(1)
  })

  it('gives the shader no parameter as text: two settings make the same source', () => {
    const source = (value: number) => {
      const changed = setParam(look, 'levels1', 'outHigh', value)
      const program = lower(changed, [])
      return lookShader(plan(program, [...program.result.baseColor, ...program.result.roughness]))
    }
    expect(source(0.4)).toEqual(source(0.9))
    expect(signature(setParam(look, 'levels1', 'outHigh', 0.9))).toBe(signature(look))
    expect(signature(setParam(look, 'mix1', 'what', 'color'))).not.toBe(signature(look))
  })

  it('lowers a broken look: unknown kinds and loops count as open inputs', () => {
    const broken = {
      ...emptyLook(),
      nodes: [
        ...emptyLook().nodes,
        { id: 'x', kind: 'nowhere', at: [0, 0] as [number, number], params: {} },
        { id: 'm', kind: 'math', at: [0, 0] as [number, number], params: {} },
      ],
      wires: [
        { from: { node: 'm', port: 'value' }, to: { node: 'm', port: 'a' } },
        { from: { node: 'x', port: 'out' }, to: { node: 'result', port: 'finish' } },
      ],
    }
    const tables = tablesOf(row(1))
    const program = lower(broken, [])
    const e = new LoneEvaluator(kernels, plan(program, program.result.baseColor), tables)
    const out = [0, 1, 2].map(() => new Float32Array(5))
    e.refresh(reader(broken))
    e.evaluate(samplePoints(tables.mesh, 5), out)
    expect(out.map(c => c[3])).toEqual([0.5, 0.5, 0.5])
  })
})

describe('evaluator', () => {
  const tables = tablesOf(row(5))
  it("gives every point its part's draw, whatever block it is in", () => {
    const look = lookOf({ random: ['partRandom', { seed: 9 }] }, [])
    const points = samplePoints(tables.mesh, 5000)
    const [value] = at(look, tables, 'partRandom1/value', points)
    const parts = partsOf(tables, points)
    const first = new Map<number, number>()
    parts.forEach((p, i) => {
      if (!first.has(p)) first.set(p, value![i]!)
    })
    expect(new Set(first.values()).size).toBe(5)
    parts.forEach((p, i) => expect(value![i]).toBe(first.get(p)))
  })

  it('answers the same for one point alone as among thousands', () => {
    const look = lookOf({ noise: ['noise', { size: 30, detail: 4 }] }, [])
    const points = samplePoints(tables.mesh, 3001)
    const [all] = at(look, tables, 'noise1/value', points)
    const one = pointSet(1)
    for (const i of [0, 1023, 1024, 3000]) {
      one.triangle[0] = points.triangle[i]!
      one.u[0] = points.u[i]!
      one.v[0] = points.v[i]!
      expect(at(look, tables, 'noise1/value', one)[0]![0]).toBe(all![i])
    }
  })

  it('interpolates vertex maps over triangles and computes on them per vertex', () => {
    const mesh = row(2)
    const values = Float32Array.from({ length: mesh.positions.length / 3 }, (_, v) => mesh.positions[v * 3]!)
    const withMap = tablesOf({ ...mesh, maps: [{ name: 'x', components: 1, values }] })
    const points = samplePoints(mesh, 500)
    const look = lookOf({ map: ['vertexMap', { map: 'x' }], half: ['math', { operation: 'multiply', b: 0.5 }] }, [
      'map.value > half.a',
    ])
    const [got] = at(look, withMap, 'math1/value', points)
    positionsOf(withMap, points).forEach(([x], i) => expect(got![i]).toBeCloseTo(x / 2, 5))
  })

  it('runs a stage again only when what it reads has changed', () => {
    const look = lookOf(
      {
        random: ['partRandom', { seed: 1 }],
        map: ['vertexMap', { map: 'x' }],
        mix: ['mix', { what: 'value' }],
        noise: ['noise'],
        last: ['mix', { what: 'value' }],
        finish: ['finish'],
      },
      [
        'random.value > mix.a',
        'map.value > mix.b',
        'mix.out > last.a',
        'noise.value > last.b',
        'last.out > finish.roughness',
        'finish.finish > result.finish',
      ],
    )
    const mesh = row(3)
    const t = tablesOf({ ...mesh, maps: [{ name: 'x', components: 1, values: new Float32Array(72) }] })
    const program = lower(look, t.mesh.maps)
    const e = new LoneEvaluator(kernels, plan(program, program.result.roughness), t)
    const refresh = (l: typeof look) => e.refresh(reader(l))
    expect(refresh(look)).toMatchObject({ parts: true, vertices: true })
    expect(refresh(look)).toEqual({ uniforms: false, parts: false, vertices: false })
    expect(refresh(setParam(look, 'noise1', 'size', 99))).toEqual({ uniforms: true, parts: false, vertices: false })
    expect(refresh(setParam(look, 'mix1', 'amount', 0.9))).toMatchObject({ parts: false, vertices: true })
    expect(refresh(setParam(look, 'partRandom1', 'seed', 77))).toMatchObject({ parts: true, vertices: true })
  })

  it('works with more registers alive than a naive count would allow to be shared', () => {
    // A chain whose early values are used again at the very end: a register given away too soon would show.
    const b = new Builder()
    const x = b.surface('x')
    const kept = Array.from({ length: 40 }, (_, i) => b.mul(x, b.constant(i + 2)))
    const sum = kept.reduce((a, k) => b.add(a, k))
    const again = kept.reduce((a, k) => b.add(a, b.mul(k, k)), sum)
    const program = {
      code: b.code,
      domains: b.domains,
      outputs: new Map(),
      result: { baseColor: [], metalness: [], roughness: [], height: [], emission: [], opacity: [], translucency: [] },
      sets: new Set<never>(),
    }
    const boxTables = tablesOf(boxes([{ object: 'a', at: [0, 0, 0] }]))
    const points = samplePoints(boxTables.mesh, 100)
    const e = new LoneEvaluator(kernels, plan(program, [again, kept[0]!]), boxTables)
    const out = [new Float32Array(100), new Float32Array(100)]
    e.refresh(() => 0)
    e.evaluate(points, out)
    positionsOf(boxTables, points).forEach(([px], i) => {
      const ks = Array.from({ length: 40 }, (_, k) => px * (k + 2))
      expect(out[0]![i]).toBeCloseTo(
        ks.reduce((a, k) => a + k + k * k, 0),
        1,
      )
      expect(out[1]![i]).toBeCloseTo(px * 2, 5)
    })
  })
})
