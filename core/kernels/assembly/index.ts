// One export per primitive operation. Every kernel works on a block of float32 columns in linear memory:
//
//   kernel(out, a, aMask, b, bMask, ..., n)
//
// `out` and `a`, `b` are byte addresses (16-byte aligned), `n` is the number of points, a multiple of 4. An operand's
// mask is -1 for a column and 0 for a uniform value, of which only the first 16 bytes exist (four equal lanes).
import { clamp01, cbrtx4, exp2x4, log2x4, pick, powx4, sinx4, splat } from './math'
import { cell, fitChroma as fitChromaX4, hash4, perlin, worley } from './noise'

// @ts-ignore: decorator
@inline function at(p: usize, mask: i32, i: usize): v128 {
  return v128.load(p + (i & <usize>mask))
}

// @ts-ignore: decorator
@inline function truth(k: v128): v128 {
  return v128.and(k, splat(1))
}

// @ts-ignore: decorator
@inline const HALF_PI: f32 = 1.5707963267948966

export function neg(out: usize, a: usize, am: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    v128.store(out + i, f32x4.neg(x))
  }
}

export function abs(out: usize, a: usize, am: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    v128.store(out + i, f32x4.abs(x))
  }
}

export function floor(out: usize, a: usize, am: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    v128.store(out + i, f32x4.floor(x))
  }
}

export function sqrt(out: usize, a: usize, am: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    v128.store(out + i, f32x4.sqrt(f32x4.max(x, splat(0))))
  }
}

export function fract(out: usize, a: usize, am: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    v128.store(out + i, f32x4.sub(x, f32x4.floor(x)))
  }
}

export function cbrt(out: usize, a: usize, am: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    v128.store(out + i, cbrtx4(x))
  }
}

export function sin(out: usize, a: usize, am: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    v128.store(out + i, sinx4(x))
  }
}

export function cos(out: usize, a: usize, am: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    v128.store(out + i, sinx4(f32x4.add(x, splat(HALF_PI))))
  }
}

export function exp2(out: usize, a: usize, am: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    v128.store(out + i, exp2x4(x))
  }
}

export function log2(out: usize, a: usize, am: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    v128.store(out + i, log2x4(x))
  }
}

export function add(out: usize, a: usize, am: i32, b: usize, bm: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    const y = at(b, bm, i)
    v128.store(out + i, f32x4.add(x, y))
  }
}

export function sub(out: usize, a: usize, am: i32, b: usize, bm: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    const y = at(b, bm, i)
    v128.store(out + i, f32x4.sub(x, y))
  }
}

export function mul(out: usize, a: usize, am: i32, b: usize, bm: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    const y = at(b, bm, i)
    v128.store(out + i, f32x4.mul(x, y))
  }
}

/** x / y; 0 where y is 0, so that no node can put an infinity on the surface. */
export function div(out: usize, a: usize, am: i32, b: usize, bm: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    const y = at(b, bm, i)
    v128.store(out + i, pick(f32x4.eq(y, splat(0)), splat(0), f32x4.div(x, y)))
  }
}

export function min(out: usize, a: usize, am: i32, b: usize, bm: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    const y = at(b, bm, i)
    v128.store(out + i, f32x4.min(x, y))
  }
}

export function max(out: usize, a: usize, am: i32, b: usize, bm: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    const y = at(b, bm, i)
    v128.store(out + i, f32x4.max(x, y))
  }
}

export function pow(out: usize, a: usize, am: i32, b: usize, bm: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    const y = at(b, bm, i)
    v128.store(out + i, powx4(x, y))
  }
}

/** 1 where x < y, else 0. */
export function less(out: usize, a: usize, am: i32, b: usize, bm: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    const y = at(b, bm, i)
    v128.store(out + i, truth(f32x4.lt(x, y)))
  }
}

/** x + (y - x) z. */
export function mix(out: usize, a: usize, am: i32, b: usize, bm: i32, c: usize, cm: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    const y = at(b, bm, i)
    const z = at(c, cm, i)
    v128.store(out + i, f32x4.add(x, f32x4.mul(f32x4.sub(y, x), z)))
  }
}

/** x held between y and z. */
export function clamp(out: usize, a: usize, am: i32, b: usize, bm: i32, c: usize, cm: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    const y = at(b, bm, i)
    const z = at(c, cm, i)
    v128.store(out + i, f32x4.min(f32x4.max(x, y), z))
  }
}

/** x > 1/2 ? y : z. */
export function select(out: usize, a: usize, am: i32, b: usize, bm: i32, c: usize, cm: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    const y = at(b, bm, i)
    const z = at(c, cm, i)
    v128.store(out + i, pick(f32x4.gt(x, splat(0.5)), y, z))
  }
}

export function noise3(out: usize, a: usize, am: i32, b: usize, bm: i32, c: usize, cm: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    const y = at(b, bm, i)
    const z = at(c, cm, i)
    v128.store(out + i, perlin(x, y, z))
  }
}

export function fitChroma(out: usize, a: usize, am: i32, b: usize, bm: i32, c: usize, cm: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = at(a, am, i)
    const y = at(b, bm, i)
    const z = at(c, cm, i)
    v128.store(out + i, fitChromaX4(x, y, z))
  }
}

/** Smooth step from 0 at edge e0 to 1 at edge e1 (3t^2 - 2t^3); a plain step at e1 where the edges meet. */
export function smoothstep(out: usize, a: usize, am: i32, b: usize, bm: i32, c: usize, cm: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const e0 = at(a, am, i)
    const e1 = at(b, bm, i)
    const x = at(c, cm, i)
    const d = f32x4.sub(e1, e0)
    const t = clamp01(f32x4.div(f32x4.sub(x, e0), d))
    const s = f32x4.mul(f32x4.mul(t, t), f32x4.sub(splat(3), f32x4.add(t, t)))
    v128.store(out + i, pick(f32x4.eq(d, splat(0)), truth(f32x4.ge(x, e1)), s))
  }
}

/** x k0 + y k1 + z k2: one row of a 3x3 matrix with constant entries. */
export function row3(
  out: usize,
  a: usize,
  am: i32,
  b: usize,
  bm: i32,
  c: usize,
  cm: i32,
  k0: f32,
  k1: f32,
  k2: f32,
  n: i32,
): void {
  const s0 = splat(k0)
  const s1 = splat(k1)
  const s2 = splat(k2)
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const x = f32x4.mul(at(a, am, i), s0)
    const y = f32x4.mul(at(b, bm, i), s1)
    const z = f32x4.mul(at(c, cm, i), s2)
    v128.store(out + i, f32x4.add(f32x4.add(x, y), z))
  }
}

/**
 * Fractal sum of gradient noise, the standard's `fractal3d`: octaves (uniform, 1 to 16), lacunarity and diminish
 * (uniform) are read from the first lane.
 */
export function fractal3(
  out: usize,
  a: usize,
  am: i32,
  b: usize,
  bm: i32,
  c: usize,
  cm: i32,
  octaves: usize,
  _om: i32,
  lacunarity: usize,
  _lm: i32,
  diminish: usize,
  _dm: i32,
  n: i32,
): void {
  let count = <i32>load<f32>(octaves)
  count = count < 1 ? 1 : count > 16 ? 16 : count
  const lac = v128.load32_splat(lacunarity)
  const dim = v128.load32_splat(diminish)
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    let x = at(a, am, i)
    let y = at(b, bm, i)
    let z = at(c, cm, i)
    let sum = splat(0)
    let amplitude = splat(1)
    for (let o = 0; o < count; o++) {
      sum = f32x4.add(sum, f32x4.mul(amplitude, perlin(x, y, z)))
      amplitude = f32x4.mul(amplitude, dim)
      x = f32x4.mul(x, lac)
      y = f32x4.mul(y, lac)
      z = f32x4.mul(z, lac)
    }
    v128.store(out + i, sum)
  }
}

/**
 * A random draw in [0, 1): the top 24 bits of lookup3 over the part's key (two words, kept as raw bits), the seed (a
 * whole number stored as a float) and the stream (likewise).
 */
export function draw(
  out: usize,
  a: usize,
  am: i32,
  b: usize,
  bm: i32,
  c: usize,
  cm: i32,
  d: usize,
  dm: i32,
  n: i32,
): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const seed = i32x4.trunc_sat_f32x4_s(at(c, cm, i))
    const stream = i32x4.trunc_sat_f32x4_s(at(d, dm, i))
    const bits = i32x4.shr_u(hash4(at(a, am, i), at(b, bm, i), seed, stream), 8)
    v128.store(out + i, f32x4.mul(f32x4.convert_i32x4_s(bits), splat(5.9604644775390625e-8)))
  }
}

export function cell3(out: usize, a: usize, am: i32, b: usize, bm: i32, c: usize, cm: i32, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16)
    v128.store(out + i, cell(at(a, am, i), at(b, bm, i), at(c, cm, i)))
}

export function worley3(
  out: usize,
  a: usize,
  am: i32,
  b: usize,
  bm: i32,
  c: usize,
  cm: i32,
  d: usize,
  dm: i32,
  n: i32,
): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16)
    v128.store(out + i, worley(at(a, am, i), at(b, bm, i), at(c, cm, i), at(d, dm, i), 0))
}

export function worley3second(
  out: usize,
  a: usize,
  am: i32,
  b: usize,
  bm: i32,
  c: usize,
  cm: i32,
  d: usize,
  dm: i32,
  n: i32,
): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16)
    v128.store(out + i, worley(at(a, am, i), at(b, bm, i), at(c, cm, i), at(d, dm, i), 1))
}

export function worley3cell(
  out: usize,
  a: usize,
  am: i32,
  b: usize,
  bm: i32,
  c: usize,
  cm: i32,
  d: usize,
  dm: i32,
  n: i32,
): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16)
    v128.store(out + i, worley(at(a, am, i), at(b, bm, i), at(c, cm, i), at(d, dm, i), 2))
}

/** a + b u + c v for the two points at `p` and `q`, with doubles. */
// @ts-ignore: decorator
@inline function between(a: v128, b: v128, c: v128, p: usize, q: usize): v128 {
  const u = f64x2.promote_low_f32x4(v128.load64_zero(p))
  const v = f64x2.promote_low_f32x4(v128.load64_zero(q))
  return f32x4.demote_f64x2_zero(f64x2.add(f64x2.add(a, f64x2.mul(b, u)), f64x2.mul(c, v)))
}

/**
 * Interpolates over runs of points that lie in one triangle each, from the values at its corners. With doubles: steep
 * patterns make much of the last bit.
 * @param apart bytes from one of these columns to the next: weights of the second and third corner for the points, the
 *   end of each run (as a word), and its values at the three corners
 */
export function interpolate(out: usize, columns: usize, apart: usize, runs: i32): void {
  const v = columns + apart
  const ends = v + apart
  const first = ends + apart
  let i: usize = 0
  for (let r: usize = 0, last = (<usize>runs) << 2; r < last; r += 4) {
    const end = (<usize>load<u32>(ends + r)) << 2
    const x = <f64>load<f32>(first + r)
    const byU = <f64>load<f32>(first + apart + r) - x
    const byV = <f64>load<f32>(first + 2 * apart + r) - x
    const a = f64x2.splat(x)
    const b = f64x2.splat(byU)
    const c = f64x2.splat(byV)
    for (; i + 8 <= end; i += 8) v128.store64_lane(out + i, between(a, b, c, columns + i, v + i), 0)
    for (; i < end; i += 4)
      store<f32>(out + i, <f32>(x + byU * <f64>load<f32>(columns + i) + byV * <f64>load<f32>(v + i)))
  }
}

/** Gives every point of a run its number. @param ends and `values`: of each run */
export function spread(out: usize, ends: usize, values: usize, runs: i32): void {
  let i: usize = 0
  for (let r: usize = 0, last = (<usize>runs) << 2; r < last; r += 4) {
    const end = (<usize>load<u32>(ends + r)) << 2
    const x = load<f32>(values + r)
    for (; i + 16 <= end; i += 16) v128.store(out + i, splat(x))
    for (; i < end; i += 4) store<f32>(out + i, x)
  }
}
