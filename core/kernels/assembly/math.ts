// Elementary functions on four lanes. Error bounds are those measured by tests/unit/kernels.test.ts.

/** Sign bit of every lane. */
// @ts-ignore: decorator
@inline export const SIGN: u32 = 0x80000000

// @ts-ignore: decorator
@inline export function splat(x: f32): v128 {
  return f32x4.splat(x)
}

/** `k ? a : b`, lane by lane; `k` is all ones or all zeros. */
// @ts-ignore: decorator
@inline export function pick(k: v128, a: v128, b: v128): v128 {
  return v128.bitselect(a, b, k)
}

// @ts-ignore: decorator
@inline export function clamp01(x: v128): v128 {
  return f32x4.min(f32x4.max(x, splat(0)), splat(1))
}

/**
 * Base-2 logarithm for x > 0 (0 gives about -127). The exponent comes from the bits; the mantissa m in
 * [sqrt(1/2), sqrt(2)) from the series of atanh((m-1)/(m+1)), whose next term is below 4e-9.
 */
export function log2x4(x: v128): v128 {
  const bits = f32x4.max(x, splat(1.17549435e-38))
  // Adding the distance from sqrt(1/2) to 1 makes the exponent round to the nearest power of two.
  const shifted = i32x4.add(bits, i32x4.splat(0x3f800000 - 0x3f3504f3))
  const exponent = i32x4.sub(i32x4.shr_s(shifted, 23), i32x4.splat(127))
  const mantissa = i32x4.add(v128.and(shifted, i32x4.splat(0x007fffff)), i32x4.splat(0x3f3504f3))
  const s = f32x4.div(f32x4.sub(mantissa, splat(1)), f32x4.add(mantissa, splat(1)))
  const q = f32x4.mul(s, s)
  let p = f32x4.add(splat(1.0 / 7.0), f32x4.mul(q, splat(1.0 / 9.0)))
  p = f32x4.add(splat(1.0 / 5.0), f32x4.mul(q, p))
  p = f32x4.add(splat(1.0 / 3.0), f32x4.mul(q, p))
  p = f32x4.add(splat(1), f32x4.mul(q, p))
  return f32x4.add(f32x4.convert_i32x4_s(exponent), f32x4.mul(f32x4.mul(s, splat(2.8853900817779268)), p))
}

/** 2^x for x in [-126, 127], clamped outside. Taylor series of the fraction in [-1/2, 1/2]. */
export function exp2x4(x: v128): v128 {
  const y = f32x4.min(f32x4.max(x, splat(-126)), splat(127))
  const whole = f32x4.nearest(y)
  const f = f32x4.mul(f32x4.sub(y, whole), splat(0.6931471805599453))
  let p = f32x4.add(splat(1.0 / 720.0), f32x4.mul(f, splat(1.0 / 5040.0)))
  p = f32x4.add(splat(1.0 / 120.0), f32x4.mul(f, p))
  p = f32x4.add(splat(1.0 / 24.0), f32x4.mul(f, p))
  p = f32x4.add(splat(1.0 / 6.0), f32x4.mul(f, p))
  p = f32x4.add(splat(0.5), f32x4.mul(f, p))
  p = f32x4.add(splat(1), f32x4.mul(f, p))
  p = f32x4.add(splat(1), f32x4.mul(f, p))
  const scale = i32x4.shl(i32x4.add(i32x4.trunc_sat_f32x4_s(whole), i32x4.splat(127)), 23)
  return f32x4.mul(p, scale)
}

/** x^y for x >= 0; a negative x counts as 0, and 0^y is 0 for y > 0 and 1 for y = 0. */
export function powx4(x: v128, y: v128): v128 {
  const r = exp2x4(f32x4.mul(y, log2x4(x)))
  const zero = f32x4.le(x, splat(0))
  return pick(zero, pick(f32x4.eq(y, splat(0)), splat(1), splat(0)), r)
}

/** Cube root, odd in x. Estimate from the bits, then three steps of Newton's method. */
export function cbrtx4(x: v128): v128 {
  const sign = v128.and(x, i32x4.splat(SIGN))
  const a = f32x4.abs(x)
  // bits / 3 by floating point: i32x4 has no division, and the estimate needs no more than 5 bits.
  const third = i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.convert_i32x4_s(a), splat(1.0 / 3.0)))
  let y: v128 = i32x4.add(third, i32x4.splat(0x2a5137a0))
  for (let i = 0; i < 3; i++) {
    y = f32x4.mul(f32x4.add(f32x4.add(y, y), f32x4.div(a, f32x4.mul(y, y))), splat(1.0 / 3.0))
  }
  y = pick(f32x4.lt(a, splat(1e-30)), splat(0), y)
  return v128.or(y, sign)
}

/** Sine, x in radians, |x| up to about 1e4. */
export function sinx4(x: v128): v128 {
  const k = f32x4.nearest(f32x4.mul(x, splat(0.3183098861837907)))
  // pi in three pieces, so that the reduced argument keeps its bits (Cody and Waite).
  let r = f32x4.sub(x, f32x4.mul(k, splat(3.140625)))
  r = f32x4.sub(r, f32x4.mul(k, splat(9.67502593994140625e-4)))
  r = f32x4.sub(r, f32x4.mul(k, splat(1.509957990978376e-7)))
  const q = f32x4.mul(r, r)
  let p = f32x4.add(splat(2.7557319e-6), f32x4.mul(q, splat(-2.5052108e-8)))
  p = f32x4.add(splat(-1.984127e-4), f32x4.mul(q, p))
  p = f32x4.add(splat(8.3333333e-3), f32x4.mul(q, p))
  p = f32x4.add(splat(-0.16666667), f32x4.mul(q, p))
  p = f32x4.add(r, f32x4.mul(f32x4.mul(r, q), p))
  const odd = i32x4.shl(i32x4.trunc_sat_f32x4_s(k), 31)
  return v128.xor(p, odd)
}
