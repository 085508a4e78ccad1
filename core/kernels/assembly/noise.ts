// Gradient noise of the MaterialX standard (stdlib, mx_noise): Bob Jenkins' lookup3 hash of the lattice point,
// twelve edge gradients, quintic fade, scaled by 0.9820.
import { pick, splat, clamp01, SIGN } from './math'

// @ts-ignore: decorator
@inline function rotl(x: v128, k: i32): v128 {
  return v128.or(i32x4.shl(x, k), i32x4.shr_u(x, 32 - k))
}

/** The last mixing of lookup3: three words to one. */
// @ts-ignore: decorator
@inline export function bjfinal(a: v128, b: v128, c: v128): v128 {
  c = i32x4.sub(v128.xor(c, b), rotl(b, 14))
  a = i32x4.sub(v128.xor(a, c), rotl(c, 11))
  b = i32x4.sub(v128.xor(b, a), rotl(a, 25))
  c = i32x4.sub(v128.xor(c, b), rotl(b, 16))
  a = i32x4.sub(v128.xor(a, c), rotl(c, 4))
  b = i32x4.sub(v128.xor(b, a), rotl(a, 14))
  c = i32x4.sub(v128.xor(c, b), rotl(b, 24))
  return c
}

// @ts-ignore: decorator
@inline function lattice(x: v128, y: v128, z: v128): v128 {
  const start = i32x4.splat(0xdeadbeef + (3 << 2) + 13)
  return bjfinal(i32x4.add(start, x), i32x4.add(start, y), i32x4.add(start, z))
}

/** lookup3 of four words, as `mx_hash_int` of four integers: one round of mix, then final. */
export function hash4(x: v128, y: v128, z: v128, w: v128): v128 {
  const start = i32x4.splat(0xdeadbeef + (4 << 2) + 13)
  let a = i32x4.add(start, x)
  let b = i32x4.add(start, y)
  let c = i32x4.add(start, z)
  a = v128.xor(i32x4.sub(a, c), rotl(c, 4))
  c = i32x4.add(c, b)
  b = v128.xor(i32x4.sub(b, a), rotl(a, 6))
  a = i32x4.add(a, c)
  c = v128.xor(i32x4.sub(c, b), rotl(b, 8))
  b = i32x4.add(b, a)
  a = v128.xor(i32x4.sub(a, c), rotl(c, 16))
  c = i32x4.add(c, b)
  b = v128.xor(i32x4.sub(b, a), rotl(a, 19))
  a = i32x4.add(a, c)
  c = v128.xor(i32x4.sub(c, b), rotl(b, 4))
  b = i32x4.add(b, a)
  return bjfinal(i32x4.add(a, w), b, c)
}

/** Dot product with the gradient that the low four bits of the hash name. */
// @ts-ignore: decorator
@inline function gradient(hash: v128, x: v128, y: v128, z: v128): v128 {
  const h = v128.and(hash, i32x4.splat(15))
  const u = pick(i32x4.lt_u(h, i32x4.splat(8)), x, y)
  const xz = pick(i32x4.eq(v128.and(h, i32x4.splat(13)), i32x4.splat(12)), x, z)
  const v = pick(i32x4.lt_u(h, i32x4.splat(4)), y, xz)
  const nu = i32x4.shl(h, 31)
  const nv = v128.and(i32x4.shl(h, 30), i32x4.splat(SIGN))
  return f32x4.add(v128.xor(u, nu), v128.xor(v, nv))
}

// @ts-ignore: decorator
@inline function lerp(a: v128, b: v128, t: v128): v128 {
  return f32x4.add(f32x4.mul(f32x4.sub(splat(1), t), a), f32x4.mul(b, t))
}

// @ts-ignore: decorator
@inline function fade(t: v128): v128 {
  const p = f32x4.add(f32x4.mul(t, f32x4.sub(f32x4.mul(t, splat(6)), splat(15))), splat(10))
  return f32x4.mul(f32x4.mul(f32x4.mul(t, t), t), p)
}

/** `mx_perlin_noise_float` at four points: about -1 to 1. */
export function perlin(px: v128, py: v128, pz: v128): v128 {
  const flx = f32x4.floor(px)
  const fly = f32x4.floor(py)
  const flz = f32x4.floor(pz)
  const fx = f32x4.sub(px, flx)
  const fy = f32x4.sub(py, fly)
  const fz = f32x4.sub(pz, flz)
  const X = i32x4.trunc_sat_f32x4_s(flx)
  const Y = i32x4.trunc_sat_f32x4_s(fly)
  const Z = i32x4.trunc_sat_f32x4_s(flz)
  const one = i32x4.splat(1)
  const X1 = i32x4.add(X, one)
  const Y1 = i32x4.add(Y, one)
  const Z1 = i32x4.add(Z, one)
  const gx = f32x4.sub(fx, splat(1))
  const gy = f32x4.sub(fy, splat(1))
  const gz = f32x4.sub(fz, splat(1))
  const u = fade(fx)
  const v = fade(fy)
  const w = fade(fz)
  const near = lerp(
    lerp(gradient(lattice(X, Y, Z), fx, fy, fz), gradient(lattice(X1, Y, Z), gx, fy, fz), u),
    lerp(gradient(lattice(X, Y1, Z), fx, gy, fz), gradient(lattice(X1, Y1, Z), gx, gy, fz), u),
    v,
  )
  const far = lerp(
    lerp(gradient(lattice(X, Y, Z1), fx, fy, gz), gradient(lattice(X1, Y, Z1), gx, fy, gz), u),
    lerp(gradient(lattice(X, Y1, Z1), fx, gy, gz), gradient(lattice(X1, Y1, Z1), gx, gy, gz), u),
    v,
  )
  return f32x4.mul(lerp(near, far, w), splat(0.982))
}

/** `mx_bits_to_01`. */
// @ts-ignore: decorator
@inline function unit(bits: v128): v128 {
  return f32x4.mul(f32x4.convert_i32x4_u(bits), splat(2.3283064365386963e-10))
}

/** `mx_cell_noise_float`: the hash of the cell that holds a point, 0 to 1. */
export function cell(px: v128, py: v128, pz: v128): v128 {
  return unit(
    lattice(
      i32x4.trunc_sat_f32x4_s(f32x4.floor(px)),
      i32x4.trunc_sat_f32x4_s(f32x4.floor(py)),
      i32x4.trunc_sat_f32x4_s(f32x4.floor(pz)),
    ),
  )
}

// @ts-ignore: decorator
@inline function scattered(hash: v128, jitter: v128): v128 {
  return f32x4.add(f32x4.mul(f32x4.sub(unit(hash), splat(0.5)), jitter), splat(0.5))
}

/**
 * Worley noise of the standard (`mx_worley_noise_float`, Euclidean): one point in each cell, moved from its middle by
 * up to half the jitter. `which`: 0 the way to the nearest, 1 to the second nearest, 2 a value of the nearest's own.
 */
export function worley(px: v128, py: v128, pz: v128, jitter: v128, which: i32): v128 {
  const flx = f32x4.floor(px)
  const fly = f32x4.floor(py)
  const flz = f32x4.floor(pz)
  const fx = f32x4.sub(px, flx)
  const fy = f32x4.sub(py, fly)
  const fz = f32x4.sub(pz, flz)
  const X = i32x4.trunc_sat_f32x4_s(flx)
  const Y = i32x4.trunc_sat_f32x4_s(fly)
  const Z = i32x4.trunc_sat_f32x4_s(flz)
  let first = splat(1e6)
  let second = splat(1e6)
  let own = splat(0)
  for (let i = -1; i <= 1; i++) {
    const cx = i32x4.add(X, i32x4.splat(i))
    const ox = f32x4.sub(splat(<f32>i), fx)
    for (let j = -1; j <= 1; j++) {
      const cy = i32x4.add(Y, i32x4.splat(j))
      const oy = f32x4.sub(splat(<f32>j), fy)
      for (let k = -1; k <= 1; k++) {
        const cz = i32x4.add(Z, i32x4.splat(k))
        const oz = f32x4.sub(splat(<f32>k), fz)
        const x = f32x4.add(ox, scattered(hash4(cx, cy, cz, i32x4.splat(0)), jitter))
        const y = f32x4.add(oy, scattered(hash4(cx, cy, cz, i32x4.splat(1)), jitter))
        const z = f32x4.add(oz, scattered(hash4(cx, cy, cz, i32x4.splat(2)), jitter))
        const d = f32x4.add(f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)), f32x4.mul(z, z))
        const nearer = f32x4.lt(d, first)
        second = pick(nearer, first, f32x4.min(second, d))
        if (which == 2) own = pick(nearer, unit(hash4(cx, cy, cz, i32x4.splat(3))), own)
        first = f32x4.min(first, d)
      }
    }
  }
  return which == 0 ? f32x4.sqrt(first) : which == 1 ? f32x4.sqrt(second) : own
}

/** Most of the way back into the gamut: is this OKLab color inside linear Rec. 709, within 1e-4? */
// @ts-ignore: decorator
@inline function inGamut(L: v128, a: v128, b: v128): v128 {
  let l = f32x4.add(L, f32x4.add(f32x4.mul(a, splat(0.3963377774)), f32x4.mul(b, splat(0.2158037573))))
  let m = f32x4.sub(L, f32x4.add(f32x4.mul(a, splat(0.1055613458)), f32x4.mul(b, splat(0.0638541728))))
  let s = f32x4.sub(L, f32x4.add(f32x4.mul(a, splat(0.0894841775)), f32x4.mul(b, splat(1.291485548))))
  l = f32x4.mul(l, f32x4.mul(l, l))
  m = f32x4.mul(m, f32x4.mul(m, m))
  s = f32x4.mul(s, f32x4.mul(s, s))
  const r = f32x4.add(
    f32x4.mul(l, splat(4.0767416621)),
    f32x4.add(f32x4.mul(m, splat(-3.3077115913)), f32x4.mul(s, splat(0.2309699292))),
  )
  const g = f32x4.add(
    f32x4.mul(l, splat(-1.2684380046)),
    f32x4.add(f32x4.mul(m, splat(2.6097574011)), f32x4.mul(s, splat(-0.3413193965))),
  )
  const q = f32x4.add(
    f32x4.mul(l, splat(-0.0041960863)),
    f32x4.add(f32x4.mul(m, splat(-0.7034186147)), f32x4.mul(s, splat(1.707614701))),
  )
  const low = f32x4.min(r, f32x4.min(g, q))
  const high = f32x4.max(r, f32x4.max(g, q))
  return v128.and(f32x4.ge(low, splat(-1e-4)), f32x4.le(high, splat(1.0001)))
}

/**
 * The largest factor in [0, 1] by which the chroma of an OKLab color (L in [0, 1], a, b) may be scaled so that it is
 * inside linear Rec. 709. Twelve halvings: exact to 1/4096.
 */
export function fitChroma(L: v128, a: v128, b: v128): v128 {
  const whole = inGamut(L, a, b)
  let low = splat(0)
  let high = splat(1)
  for (let i = 0; i < 12; i++) {
    const mid = f32x4.mul(f32x4.add(low, high), splat(0.5))
    const ok = inGamut(L, f32x4.mul(a, mid), f32x4.mul(b, mid))
    low = pick(ok, mid, low)
    high = pick(ok, high, mid)
  }
  return clamp01(pick(whole, splat(1), low))
}
