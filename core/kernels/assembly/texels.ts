// Kernels of the bake: rasterizing UV layouts, growing islands, and turning columns of floats into the bytes of a
// picture. All pointers are byte addresses; a column has one float32 for each texel, row by row. Kernels may read and
// write up to 64 bytes beyond what they are asked for: whoever gives out memory leaves that much room.
import { cbrtx4, clamp01, pick, splat } from './math'

// @ts-ignore: decorator
@inline function wrapped(x: f64, size: f64): i32 {
  return <i32>(x - Math.floor(x / size) * size)
}

/**
 * Rasterizes triangles. A texel belongs to the first triangle that holds its middle. What is found is listed triangle
 * by triangle: texel, counted from the first of the rows, number of the triangle, and weights of its second and third
 * corner.
 * @param corners six floats for each of `count` triangles: u and v of its corners
 * @param ids the number of each triangle
 * @param u0 and `v0`: where the tile begins; `repeats`: whether what reaches beyond it comes back on the other side
 * @param taken a byte for each texel of the rows `from` to `to`
 * @returns how many texels are covered
 */
export function raster(
  corners: usize,
  ids: usize,
  count: i32,
  size: i32,
  from: i32,
  to: i32,
  repeats: bool,
  u0: f64,
  v0: f64,
  taken: usize,
  texel: usize,
  triangle: usize,
  us: usize,
  vs: usize,
): i32 {
  memory.fill(taken, 0, <usize>((to - from) * size))
  const side = <f64>size
  const low = <f64>from
  const high = <f64>(to - 1)
  let n: usize = 0
  for (let t = 0; t < count; t++, corners += 24) {
    const ay = (<f64>load<f32>(corners, 4) - v0) * side - 0.5
    const by = (<f64>load<f32>(corners, 12) - v0) * side - 0.5
    const cy = (<f64>load<f32>(corners, 20) - v0) * side - 0.5
    let top = Math.ceil(Math.min(ay, Math.min(by, cy)))
    let bottom = Math.floor(Math.max(ay, Math.max(by, cy)))
    if (!repeats) {
      top = Math.max(top, low)
      bottom = Math.min(bottom, high)
    }
    // Malformed UVs may span thousands of tiles; each texel is written once, so stop after one full turn.
    else bottom = Math.min(bottom, top + side - 1)
    if (!(top <= bottom)) continue
    const ax = (<f64>load<f32>(corners) - u0) * side - 0.5
    const bx = (<f64>load<f32>(corners, 8) - u0) * side - 0.5
    const cx = (<f64>load<f32>(corners, 16) - u0) * side - 0.5
    const area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
    if (!(Math.abs(area) > 1e-12)) continue
    let left = Math.ceil(Math.min(ax, Math.min(bx, cx)))
    let right = Math.floor(Math.max(ax, Math.max(bx, cx)))
    if (repeats) right = Math.min(right, left + side - 1)
    else {
      left = Math.max(left, 0)
      right = Math.min(right, side - 1)
    }
    if (!(left <= right)) continue
    const uByX = (cy - ay) / area
    const uByY = (cx - ax) / area
    const vByX = (by - ay) / area
    const vByY = (bx - ax) / area
    for (let y = top; y <= bottom; y += 1) {
      const row = (repeats ? wrapped(y, side) : <i32>y) - from
      if (row < 0 || row >= to - from) continue
      const uy = (y - ay) * uByY
      const vy = (y - ay) * vByY
      for (let x = left; x <= right; x += 1) {
        const u = (x - ax) * uByX - uy
        const v = vy - (x - ax) * vByX
        if (u < 0 || v < 0 || u + v > 1) continue
        const at = row * size + (repeats ? wrapped(x, side) : <i32>x)
        if (load<u8>(taken + at)) continue
        store<u8>(taken + at, 1)
        store<i32>(texel + n, at)
        store<u32>(triangle + n, load<u32>(ids + ((<usize>t) << 2)))
        store<f32>(us + n, <f32>u)
        store<f32>(vs + n, <f32>v)
        n += 4
      }
    }
  }
  return <i32>(n >> 2)
}

/** Puts listed values where their texels are. */
export function scatter(column: usize, texel: usize, values: usize, count: i32): void {
  for (let i: usize = 0, end = (<usize>count) << 2; i < end; i += 4)
    store<f32>(column + ((<usize>load<u32>(texel + i)) << 2), load<f32>(values + i))
}

/** Marks listed texels as covered, a byte each. */
export function mark(covered: usize, texel: usize, count: i32): void {
  for (let i: usize = 0, end = (<usize>count) << 2; i < end; i += 4) store<u8>(covered + load<u32>(texel + i), 1)
}

/** Bytes on either side of a row of rings. */
// @ts-ignore: decorator
@inline const PAD: usize = 16

/**
 * How many rings each texel is away from a covered one (by rows, columns and diagonals): 0 is covered, 255 farther than
 * `most`.
 * @param ring rows of `width + 32` bytes, the first texel at byte 16, with one row more above and below
 * @returns the number of rings
 */
export function rings(covered: usize, ring: usize, width: i32, height: i32, most: i32): i32 {
  const stride = <usize>width + 2 * PAD
  memory.fill(ring, 255, stride * <usize>(height + 2))
  for (let y = 0; y < height; y++) {
    const from = covered + <usize>(y * width)
    const to = ring + <usize>(y + 1) * stride + PAD
    for (let x = 0; x < width; x += 16) v128.store(to + x, i8x16.sub(v128.load(from + x), i8x16.splat(1)))
    v128.store(to + width, i8x16.splat(-1))
  }
  const none = i8x16.splat(-1)
  for (let k = 1; k <= most; k++) {
    let grown = false
    const inner = i8x16.splat(<i8>(k - 1))
    const here = i8x16.splat(<i8>k)
    for (let y = 0; y < height; y++) {
      const row = ring + <usize>(y + 1) * stride + PAD
      for (let x = 0; x < width; x += 16) {
        const p = row + x
        const r = v128.load(p)
        const empty = i8x16.eq(r, none)
        if (!v128.any_true(empty)) continue
        let near = v128.or(i8x16.eq(v128.load(p - 1), inner), i8x16.eq(v128.load(p + 1), inner))
        near = v128.or(
          near,
          v128.or(
            i8x16.eq(v128.load(p - stride - 1), inner),
            v128.or(i8x16.eq(v128.load(p - stride), inner), i8x16.eq(v128.load(p - stride + 1), inner)),
          ),
        )
        near = v128.or(
          near,
          v128.or(
            i8x16.eq(v128.load(p + stride - 1), inner),
            v128.or(i8x16.eq(v128.load(p + stride), inner), i8x16.eq(v128.load(p + stride + 1), inner)),
          ),
        )
        near = v128.and(near, empty)
        if (!v128.any_true(near)) continue
        v128.store(p, v128.bitselect(here, r, near))
        grown = true
      }
      // What lies beyond the row is no texel.
      v128.store(row + width, none)
    }
    if (!grown) return k - 1
  }
  return most
}

const NEAR = memory.data(32)

/**
 * Gives every texel of rings 1 to `most` the mean of its neighbors in the rings within.
 * @param columns `count` columns, `apart` bytes from one to the next
 * @param ring see {@link rings}
 */
export function grow(columns: usize, apart: usize, count: i32, ring: usize, width: i32, height: i32, most: i32): void {
  const stride = <usize>width + 2 * PAD
  for (let k = 1; k <= most; k++) {
    const here = i8x16.splat(<i8>k)
    for (let y = 0; y < height; y++) {
      const row = ring + <usize>(y + 1) * stride + PAD
      for (let x = 0; x < width; x += 16) {
        let bits = i8x16.bitmask(i8x16.eq(v128.load(row + x), here))
        while (bits) {
          const lane = ctz(bits)
          bits &= bits - 1
          const p = row + <usize>(x + lane)
          const at = columns + ((<usize>(y * width + x + lane)) << 2)
          let n = 0
          for (let dy = -1; dy <= 1; dy++) {
            for (let dx = -1; dx <= 1; dx++) {
              if (<i32>load<u8>(p + dy * <i32>stride + dx) >= k) continue
              store<i32>(NEAR + (n << 2), (dy * width + dx) << 2)
              n++
            }
          }
          for (let c = 0, column = at; c < count; c++, column += apart) {
            let sum: f32 = 0
            for (let i = 0; i < n; i++) sum += load<f32>(column + load<i32>(NEAR + (i << 2)))
            store<f32>(column, sum / <f32>n)
          }
        }
      }
    }
  }
}

/** Makes vectors of three columns one long; where there is none, (0, 0, 1). */
export function unit(x: usize, y: usize, z: usize, count: i32): void {
  for (let i: usize = 0, end = (<usize>count) << 2; i < end; i += 16) {
    const a = v128.load(x + i)
    const b = v128.load(y + i)
    const c = v128.load(z + i)
    const length = f32x4.sqrt(f32x4.add(f32x4.mul(a, a), f32x4.add(f32x4.mul(b, b), f32x4.mul(c, c))))
    const none = f32x4.le(length, splat(0))
    const by = pick(none, splat(1), length)
    v128.store(x + i, f32x4.div(a, by))
    v128.store(y + i, f32x4.div(b, by))
    v128.store(z + i, pick(none, splat(1), f32x4.div(c, by)))
  }
}

/** The transfer function of sRGB (IEC 61966-2-1), x from 0 to 1: x^(5/12) is the fourth root times the sixth. */
// @ts-ignore: decorator
@inline function curve(x: v128): v128 {
  const root = f32x4.mul(f32x4.sqrt(f32x4.sqrt(x)), f32x4.sqrt(cbrtx4(x)))
  return pick(
    f32x4.le(x, splat(0.0031308)),
    f32x4.mul(x, splat(12.92)),
    f32x4.sub(f32x4.mul(root, splat(1.055)), splat(0.055)),
  )
}

/** Four numbers from 0 to 1 for four texels and a salt, the same in any order of work. */
// @ts-ignore: decorator
@inline function grains(texel: v128, salt: i32): v128 {
  let h = i32x4.mul(v128.xor(texel, i32x4.splat(salt)), i32x4.splat(0x85ebca6b))
  h = i32x4.mul(v128.xor(h, i32x4.shr_u(h, 15)), i32x4.splat(0xc2b2ae35))
  h = v128.xor(h, i32x4.shr_u(h, 16))
  // 24 bits, so that 1 is never reached.
  return f32x4.mul(f32x4.convert_i32x4_u(i32x4.shr_u(h, 8)), splat(1.0 / 16777216.0))
}

/**
 * Stores a row of values as whole numbers: `value * scale + shift`, held between 0 and 1, on the curve of sRGB where
 * `curved`.
 * @param step bytes from one number to the next; numbers of 16 bits (`wide`) begin with the high byte
 * @param texel number of the first texel, for dithering; negative: none, to the nearest
 */
export function pack(
  out: usize,
  step: usize,
  wide: bool,
  values: usize,
  count: i32,
  scale: f32,
  shift: f32,
  curved: bool,
  texel: i32,
  lane: i32,
): void {
  const top: f32 = wide ? 65535 : 255
  const salt = (lane + 1) * <i32>0x9e3779b1
  let number = i32x4.add(i32x4.splat(texel), i32x4(0, 1, 2, 3))
  // The root of what is the same as before is the same: large stretches are flat, and where no island is all is 0.
  let before = splat(0)
  let level = curved ? curve(clamp01(splat(shift))) : clamp01(splat(shift))
  for (let i: usize = 0, end = (<usize>count) << 2; i < end; i += 16) {
    const value = v128.load(values + i)
    if (v128.any_true(v128.xor(value, before))) {
      before = value
      level = clamp01(f32x4.add(f32x4.mul(value, splat(scale)), splat(shift)))
      if (curved) level = curve(level)
    }
    const x = f32x4.add(f32x4.mul(level, splat(top)), texel < 0 ? splat(0.5) : grains(number, salt))
    number = i32x4.add(number, i32x4.splat(4))
    const n = i32x4.trunc_sat_f32x4_u(f32x4.min(x, splat(top)))
    if (wide) {
      store<u16>(out, bswap<u16>(<u16>i32x4.extract_lane(n, 0)))
      store<u16>(out + step, bswap<u16>(<u16>i32x4.extract_lane(n, 1)))
      store<u16>(out + 2 * step, bswap<u16>(<u16>i32x4.extract_lane(n, 2)))
      store<u16>(out + 3 * step, bswap<u16>(<u16>i32x4.extract_lane(n, 3)))
    } else {
      store<u8>(out, <u8>i32x4.extract_lane(n, 0))
      store<u8>(out + step, <u8>i32x4.extract_lane(n, 1))
      store<u8>(out + 2 * step, <u8>i32x4.extract_lane(n, 2))
      store<u8>(out + 3 * step, <u8>i32x4.extract_lane(n, 3))
    }
    out += 4 * step
  }
}

/** Values as they are stored: `value * scale + shift`. */
export function affine(out: usize, values: usize, count: i32, scale: f32, shift: f32): void {
  for (let i: usize = 0, end = (<usize>count) << 2; i < end; i += 16)
    v128.store(out + i, f32x4.add(f32x4.mul(v128.load(values + i), splat(scale)), splat(shift)))
}

/** Numbers as 16-bit floats (IEEE 754), to the nearest, ties to even; beyond 65504 infinite. */
export function halves(out: usize, values: usize, count: i32): void {
  for (let i = 0; i < count; i++, values += 4, out += 2) {
    const all = load<u32>(values)
    const sign = (all >> 16) & 0x8000
    const exponent = <i32>((all >> 23) & 255) - 112
    const fraction = all & 0x7fffff
    let half: u32
    if (exponent == 143) half = 0x7c00 | (fraction ? 0x200 : 0)
    else if (exponent >= 31) half = 0x7c00
    else if (exponent > 0) {
      const low = fraction & 0x1fff
      half = ((<u32>exponent) << 10) | (fraction >> 13)
      // A carry goes into the exponent, and from the largest number into infinity, as it should.
      half += u32(low > 0x1000 || (low == 0x1000 && (half & 1) == 1))
    } else if (exponent < -10) half = 0
    else {
      const full = fraction | 0x800000
      const shift = <u32>(14 - exponent)
      const rest = full & ((1 << shift) - 1)
      const middle: u32 = 1 << (shift - 1)
      half = full >> shift
      half += u32(rest > middle || (rest == middle && (half & 1) == 1))
    }
    store<u16>(out, <u16>(sign | half))
  }
}

/** Bytes at even places first, then those at odd places. */
export function apart(out: usize, bytes: usize, count: i32): void {
  const middle = out + (<usize>(count + 1) >> 1)
  const n = <usize>count
  let i: usize = 0
  for (; i + 32 <= n; i += 32) {
    const a = v128.load(bytes + i)
    const b = v128.load(bytes + i, 16)
    const at = i >> 1
    v128.store(out + at, v128.shuffle<u8>(a, b, 0, 2, 4, 6, 8, 10, 12, 14, 16, 18, 20, 22, 24, 26, 28, 30))
    v128.store(middle + at, v128.shuffle<u8>(a, b, 1, 3, 5, 7, 9, 11, 13, 15, 17, 19, 21, 23, 25, 27, 29, 31))
  }
  for (; i < n; i++) store<u8>((i & 1 ? middle : out) + (i >> 1), load<u8>(bytes + i))
}

/**
 * Differences of bytes to the one before, moved up by 128; the first stays as it is. The byte before `bytes` is
 * changed.
 */
export function differences(out: usize, bytes: usize, count: i32): void {
  store<u8>(bytes - 1, 128)
  for (let i: usize = 0; i < <usize>count; i += 16)
    v128.store(out + i, i8x16.add(i8x16.sub(v128.load(bytes + i), v128.load(bytes + i - 1)), i8x16.splat(-128)))
}

/** Bytes less other bytes, modulo 256. */
export function less(out: usize, a: usize, b: usize, count: i32): void {
  for (let i: usize = 0; i < <usize>count; i += 16) v128.store(out + i, i8x16.sub(v128.load(a + i), v128.load(b + i)))
}

/** Adler-32 (RFC 1950) of bytes. */
export function adler(bytes: usize, count: i32): u32 {
  let a: u32 = 1
  let b: u32 = 0
  const low = i16x8(16, 15, 14, 13, 12, 11, 10, 9)
  const high = i16x8(8, 7, 6, 5, 4, 3, 2, 1)
  while (count >= 16) {
    // 256 blocks of 16: the longest run whose sums stay below 2^32, to a round number.
    const blocks = min(count >> 4, 256)
    let sum = splat(0)
    let before = splat(0)
    let weighed = splat(0)
    for (let i = 0; i < blocks; i++, bytes += 16) {
      const x = v128.load(bytes)
      before = i32x4.add(before, sum)
      sum = i32x4.add(sum, i32x4.extadd_pairwise_i16x8_u(i16x8.extadd_pairwise_i8x16_u(x)))
      weighed = i32x4.add(
        weighed,
        i32x4.add(
          i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(x), low),
          i32x4.dot_i16x8_s(i16x8.extend_high_i8x16_u(x), high),
        ),
      )
    }
    b += a * 16 * blocks + 16 * total(before) + total(weighed)
    a += total(sum)
    a %= 65521
    b %= 65521
    count -= blocks << 4
  }
  for (let i = 0; i < count; i++) {
    a += load<u8>(bytes + i)
    b += a
  }
  return ((b % 65521) << 16) | (a % 65521)
}

// @ts-ignore: decorator
@inline function total(x: v128): u32 {
  return i32x4.extract_lane(x, 0) + i32x4.extract_lane(x, 1) + i32x4.extract_lane(x, 2) + i32x4.extract_lane(x, 3)
}
