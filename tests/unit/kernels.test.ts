import { describe, expect, it } from 'vitest'
import { OPS, type OpName } from '#core/program/ops'
import { kernels, notSo } from '../helpers'
import { cell3, fractal3, hash4, perlin3, worley3 } from '../reference/noise'

const COUNT = 4000
/** Runs a kernel on columns; a number stands for a uniform value. */
function run(op: OpName, ...operands: (Float32Array | number)[]): Float32Array {
  const { floats } = kernels.reserve((operands.length + 1) * COUNT * 4 + 64)
  const address = (i: number) => kernels.arena + i * COUNT * 4
  const args = operands.flatMap((o, i) => {
    if (typeof o === 'number') floats.fill(o, address(i + 1) >> 2, (address(i + 1) >> 2) + 4)
    else floats.set(o, address(i + 1) >> 2)
    return [address(i + 1), typeof o === 'number' ? 0 : -1]
  })
  kernels.run[op](address(0), ...args, COUNT)
  return floats.slice(address(0) >> 2, (address(0) >> 2) + COUNT)
}
const spread = (low: number, high: number, phase = 0.37): Float32Array =>
  Float32Array.from({ length: COUNT }, (_, i) => low + (high - low) * ((i * 0.6180339887 + phase) % 1))
const worst = (got: Float32Array, want: (i: number) => number, relative = false): number =>
  got.reduce(
    (most, x, i) => Math.max(most, Math.abs(x - want(i)) / (relative ? Math.max(1e-6, Math.abs(want(i))) : 1)),
    0,
  )

describe('elementary functions', () => {
  it('are as exact as their comments say', () => {
    const x = spread(-20, 20)
    const p = spread(1e-4, 50)
    const y = spread(-3, 3, 0.1)
    expect(worst(run('sin', x), i => Math.sin(x[i]!))).toBeLessThan(3e-7)
    expect(worst(run('cos', x), i => Math.cos(x[i]!))).toBeLessThan(2e-6)
    expect(worst(run('cbrt', x), i => Math.cbrt(x[i]!), true)).toBeLessThan(5e-7)
    expect(worst(run('log2', p), i => Math.log2(p[i]!))).toBeLessThan(1e-6)
    expect(worst(run('exp2', x), i => 2 ** x[i]!, true)).toBeLessThan(5e-7)
    expect(worst(run('pow', p, y), i => p[i]! ** y[i]!, true)).toBeLessThan(1e-5)
  })

  it('keep to their definitions at the edges', () => {
    expect(run('div', 3, 0)[0]).toBe(0)
    expect(run('pow', 0, 0)[0]).toBe(1)
    expect(run('pow', -2, 2)[0]).toBe(0)
    expect(run('pow', 0, 2)[0]).toBe(0)
    expect(run('cbrt', 0)[0]).toBe(0)
    expect(run('sqrt', -1)[0]).toBe(0)
    expect([run('smoothstep', 0.5, 0.5, 0.4)[0], run('smoothstep', 0.5, 0.5, 0.5)[0]]).toEqual([0, 1])
    expect([run('select', 1, 7, 8)[0], run('select', 0, 7, 8)[0]]).toEqual([7, 8])
  })

  it('mix and clamp whole columns against uniform values', () => {
    const x = spread(-2, 2)
    expect(worst(run('mix', 1, x, 0.25), i => 1 + (x[i]! - 1) * 0.25)).toBeLessThan(1e-6)
    expect(worst(run('clamp', x, 0, 1), i => Math.min(1, Math.max(0, x[i]!)))).toBe(0)
  })
})

describe('noise', () => {
  const x = spread(-40, 40)
  const y = spread(-40, 40, 0.11)
  const z = spread(-40, 40, 0.73)
  it('is the gradient noise of the standard', () => {
    expect(worst(run('noise3', x, y, z), i => perlin3(x[i]!, y[i]!, z[i]!))).toBeLessThan(1e-5)
  })

  it('has the cells and the scattered points of the standard', () => {
    expect(worst(run('cell3', x, y, z), i => cell3(x[i]!, y[i]!, z[i]!))).toBeLessThan(1e-6)
    for (const jitter of [0, 0.6, 1]) {
      const want = Array.from({ length: COUNT }, (_, i) => worley3(x[i]!, y[i]!, z[i]!, jitter))
      expect(worst(run('worley3', x, y, z, jitter), i => want[i]![0])).toBeLessThan(2e-5)
      expect(worst(run('worley3second', x, y, z, jitter), i => want[i]![1])).toBeLessThan(2e-5)
      // Where two points are equally far, rounding may choose the other.
      const own = run('worley3cell', x, y, z, jitter)
      const sure = [...want.keys()].filter(i => want[i]![1] - want[i]![0] > 1e-4)
      expect(sure.length).toBeGreaterThan(COUNT * 0.95)
      expect(notSo(sure, i => Math.abs(own[i]! - want[i]![2]) < 5e-6)).toEqual([])
    }
  })

  it('sums octaves as the standard does', () => {
    expect(worst(run('fractal3', x, y, z, 5, 2, 0.5), i => fractal3(x[i]!, y[i]!, z[i]!, 5, 2, 0.5))).toBeLessThan(5e-5)
  })

  it('is zero at lattice points and stays within -1 to 1', () => {
    const whole = x.map(Math.round)
    expect(worst(run('noise3', whole, whole, whole), () => 0)).toBe(0)
    expect(Math.max(...run('noise3', x, y, z).map(Math.abs))).toBeLessThan(1)
  })
})

describe('draw', () => {
  it("takes the top 24 bits of the standard's hash of key, seed and stream", () => {
    const keys = Uint32Array.from({ length: COUNT }, (_, i) => Math.imul(i + 1, 0x9e3779b1))
    const low = new Float32Array(keys.buffer)
    const high = new Float32Array(keys.map(k => k ^ 0x5bd1e995).buffer)
    // Bit patterns that are NaN as floats must come through: copy words, not numbers.
    const { floats, words } = kernels.reserve(4 * COUNT * 4)
    const base = kernels.arena >> 2
    words.set(keys, base + COUNT)
    words.set(new Uint32Array(high.buffer), base + 2 * COUNT)
    floats.fill(17, base + 3 * COUNT, base + 3 * COUNT + 8)
    floats.fill(2, base + 3 * COUNT + 4, base + 3 * COUNT + 8)
    const address = (i: number) => kernels.arena + i * COUNT * 4
    kernels.run.draw(address(0), address(1), -1, address(2), -1, address(3), 0, address(3) + 16, 0, COUNT)
    const got = floats.slice(base, base + COUNT)
    expect(low.length).toBe(COUNT)
    expect(worst(got, i => (hash4(keys[i]!, (keys[i]! ^ 0x5bd1e995) >>> 0, 17, 2) >>> 8) / 2 ** 24)).toBe(0)
    const bins = new Array<number>(10).fill(0)
    got.forEach(v => bins[Math.floor(v * 10)]!++)
    // Chi-square with 9 degrees of freedom: 27.9 is exceeded once in 1,000.
    expect(bins.reduce((sum, n) => sum + (n - COUNT / 10) ** 2 / (COUNT / 10), 0)).toBeLessThan(27.9)
  })
})

it('has a kernel for every primitive', () => {
  for (const op of Object.keys(OPS)) expect(kernels.run[op as OpName], op).toBeTypeOf('function')
})
