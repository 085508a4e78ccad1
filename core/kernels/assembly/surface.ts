// Kernels of the surface pass: what is seen at the pixels of some rows of a picture. Triangles are drawn from both
// sides, in homogeneous coordinates, so that none has to be clipped (Olano and Greer, "Triangle Scan Conversion Using
// 2D Homogeneous Coordinates", 1997). All pointers are byte addresses. A vertex has six float64: x, y and w in
// homogeneous pixels, its way from the camera in meters along the axis, and x and y in pixels, which only those in
// front of the camera have. A pixel has a float64 for its depth, and where it is wanted the four words that
// core/evaluate describes: what is seen, two weights, depth.

/** Bytes of a vertex and its places. */
// @ts-ignore: decorator
@inline const VERTEX: usize = 48
// @ts-ignore: decorator
@inline const Y: usize = 8
// @ts-ignore: decorator
@inline const W: usize = 16
// @ts-ignore: decorator
@inline const Z: usize = 24
// @ts-ignore: decorator
@inline const ACROSS: usize = 32
// @ts-ignore: decorator
@inline const UP: usize = 40

/** A w at or below this lies in or behind the plane of the camera. */
// @ts-ignore: decorator
@inline const BEHIND: f64 = 1e-9
/** Pixels from which on it pays to find where a triangle lies in each row. */
// @ts-ignore: decorator
@inline const WIDE: i32 = 6
/**
 * An edge may be so many times as high as it rises in a pixel, and where it ends is still known to a small part of one:
 * 64-bit floats have 16 digits.
 */
// @ts-ignore: decorator
@inline const SURE: f64 = 1e9

/**
 * Puts vertices into pixels.
 * @param positions three float32 for each of `count` vertices
 * @param sight pairs of float64: what x, y, z and 1 add to x and y in clip space, then to w and to the way from the
 *   camera
 * @param snap steps of a pixel into which those in front of the camera are put; 0 where they stay as they are
 */
export function project(
  positions: usize,
  vertices: usize,
  count: i32,
  sight: usize,
  width: f64,
  height: f64,
  snap: f64,
): void {
  const xy0 = v128.load(sight)
  const xy1 = v128.load(sight, 16)
  const xy2 = v128.load(sight, 32)
  const xy3 = v128.load(sight, 48)
  const wz0 = v128.load(sight, 64)
  const wz1 = v128.load(sight, 80)
  const wz2 = v128.load(sight, 96)
  const wz3 = v128.load(sight, 112)
  const half = f64x2.splat(0.5)
  const size = f64x2.replace_lane(f64x2.splat(width), 1, height)
  for (let i = 0; i < count; i++, positions += 12, vertices += VERTEX) {
    const x = f64x2.splat(<f64>load<f32>(positions))
    const y = f64x2.splat(<f64>load<f32>(positions, 4))
    const z = f64x2.splat(<f64>load<f32>(positions, 8))
    const xy = f64x2.add(f64x2.add(f64x2.add(f64x2.mul(xy0, x), f64x2.mul(xy1, y)), f64x2.mul(xy2, z)), xy3)
    const wz = f64x2.add(f64x2.add(f64x2.add(f64x2.mul(wz0, x), f64x2.mul(wz1, y)), f64x2.mul(wz2, z)), wz3)
    const w = f64x2.splat(f64x2.extract_lane(wz, 0))
    const pixel = f64x2.mul(f64x2.mul(f64x2.add(xy, w), half), size)
    const flat = f64x2.div(pixel, w)
    v128.store(vertices, wz, W)
    if (snap == 0 || f64x2.extract_lane(w, 0) <= BEHIND) {
      v128.store(vertices, pixel)
      v128.store(vertices, flat, ACROSS)
    } else {
      const snapped = f64x2.div(f64x2.nearest(f64x2.mul(flat, f64x2.splat(snap))), f64x2.splat(snap))
      v128.store(vertices, f64x2.mul(snapped, w))
      v128.store(vertices, snapped, ACROSS)
    }
  }
}

/** The pixels of a row that a triangle may cover, both ends among them. */
let from: f64 = 0
let to: f64 = 0

/**
 * Leaves out pixels of a row where an edge, `slope * x + along + rest`, is negative for certain: each is still asked.
 */
// @ts-ignore: decorator
@inline function narrow(slope: f64, along: f64, rest: f64): void {
  // An edge that hardly rises along the row says too little of where it ends.
  if (Math.abs(slope) * SURE < Math.abs(along) + Math.abs(rest)) return
  const end = -(along + rest) / slope - 0.5
  if (slope > 0) from = Math.max(from, Math.ceil(end) - 1)
  else to = Math.min(to, Math.floor(end) + 1)
}

/**
 * Draws triangles into some rows of a picture, each pixel keeping the nearest.
 * @param indices three words for each of `triangles`: its vertices
 * @param skip a byte for each triangle: whether it is left out; 0 where none is
 * @param first the first row, of `rows`
 * @param near nothing nearer than this, in meters along the axis, is seen
 * @param depths of the rows
 * @param seen four words for each pixel; 0 where they are not wanted
 * @param before what is seen in front: then what is seen behind it; 0 where nothing is
 */
export function draw(
  indices: usize,
  triangles: i32,
  skip: usize,
  vertices: usize,
  width: i32,
  first: i32,
  rows: i32,
  near: f64,
  depths: usize,
  seen: usize,
  before: usize,
): void {
  const lowest = <f64>first
  const highest = <f64>(first + rows - 1)
  const rightmost = <f64>(width - 1)
  for (let t = 0; t < triangles; t++, indices += 12) {
    if (skip && load<u8>(skip + <usize>t)) continue
    const a = vertices + <usize>load<u32>(indices) * VERTEX
    const b = vertices + <usize>load<u32>(indices, 4) * VERTEX
    const c = vertices + <usize>load<u32>(indices, 8) * VERTEX
    const aw = load<f64>(a, W)
    const bw = load<f64>(b, W)
    const cw = load<f64>(c, W)
    let low = lowest
    let high = highest
    let left: f64 = 0
    let right = rightmost
    if (aw > BEHIND && bw > BEHIND && cw > BEHIND) {
      const up = load<f64>(a, UP)
      const upB = load<f64>(b, UP)
      const upC = load<f64>(c, UP)
      low = Math.max(low, Math.ceil(Math.min(up, Math.min(upB, upC)) - 0.5))
      high = Math.min(high, Math.floor(Math.max(up, Math.max(upB, upC)) - 0.5))
      if (!(low <= high)) continue
      const across = load<f64>(a, ACROSS)
      const acrossB = load<f64>(b, ACROSS)
      const acrossC = load<f64>(c, ACROSS)
      left = Math.max(left, Math.ceil(Math.min(across, Math.min(acrossB, acrossC)) - 0.5))
      right = Math.min(right, Math.floor(Math.max(across, Math.max(acrossB, acrossC)) - 0.5))
      if (!(left <= right)) continue
    } else if (!(aw > BEHIND || bw > BEHIND || cw > BEHIND)) continue
    // The three edges: each is the share of a corner, over w, as a function of the pixel.
    const ax = load<f64>(a)
    const ay = load<f64>(a, Y)
    const bx = load<f64>(b)
    const by = load<f64>(b, Y)
    const cx = load<f64>(c)
    const cy = load<f64>(c, Y)
    const a0 = by * cw - cy * bw
    const b0 = cx * bw - bx * cw
    const c0 = bx * cy - cx * by
    const det = ax * a0 + ay * b0 + aw * c0
    if (det == 0) continue
    const inverse = 1 / det
    const a1 = cy * aw - ay * cw
    const b1 = ax * cw - cx * aw
    const c1 = cx * ay - ax * cy
    const a2 = ay * bw - by * aw
    const b2 = bx * aw - ax * bw
    const c2 = ax * by - bx * ay
    const az = load<f64>(a, Z)
    const bz = load<f64>(b, Z) - az
    const cz = load<f64>(c, Z) - az
    const isWide = <i32>(right - left) >= WIDE
    for (let y = <i32>low, top = <i32>high; y <= top; y++) {
      const py = <f64>y + 0.5
      const y0 = b0 * py
      const y1 = b1 * py
      const y2 = b2 * py
      from = left
      to = right
      if (isWide) {
        narrow(a0 * inverse, y0 * inverse, c0 * inverse)
        narrow(a1 * inverse, y1 * inverse, c1 * inverse)
        narrow(a2 * inverse, y2 * inverse, c2 * inverse)
        if (!(from <= to)) continue
      }
      const row = (y - first) * width
      for (let x = <i32>from, last = <i32>to; x <= last; x++) {
        const px = <f64>x + 0.5
        const e0 = (a0 * px + y0 + c0) * inverse
        if (e0 < 0) continue
        const e1 = (a1 * px + y1 + c1) * inverse
        if (e1 < 0) continue
        const e2 = (a2 * px + y2 + c2) * inverse
        if (e2 < 0) continue
        const sum = e0 + e1 + e2
        if (!(sum > 0)) continue
        const u = e1 / sum
        const v = e2 / sum
        const depth = az + bz * u + cz * v
        const at = <usize>(row + x)
        const there = depths + (at << 3)
        const words = at << 4
        if (depth < near || depth >= load<f64>(there)) continue
        if (before) {
          const word = load<u32>(before + words)
          if (word == 0 || word == <u32>(t + 1) || depth <= <f64>load<f32>(before + words, 12)) continue
        }
        store<f64>(there, depth)
        if (!seen) continue
        store<u32>(seen + words, <u32>(t + 1))
        store<f32>(seen + words, <f32>u, 4)
        store<f32>(seen + words, <f32>v, 8)
        store<f32>(seen + words, <f32>depth, 12)
      }
    }
  }
}

/** A coordinate of the place in the world behind a place in clip space. @param world a matrix, column by column */
// @ts-ignore: decorator
@inline function place(world: usize, x: f64, y: f64, z: f64, k: usize): f64 {
  const m = world + (k << 3)
  const w = load<f64>(world, 24) * x + load<f64>(world, 56) * y + load<f64>(world, 88) * z + load<f64>(world, 120)
  return (load<f64>(m) * x + load<f64>(m, 32) * y + load<f64>(m, 64) * z + load<f64>(m, 96)) / w
}

/**
 * Draws the ground, where it is nearer than what is there. It is seen from above only.
 * @param world sixteen float64: the matrix from clip space to the world, column by column
 * @param view four: what x, y, z and 1 add to the way from the camera
 * @param gx, `gy`, `gz` its middle, and how far it reaches from there along x and z
 * @param word what says that a pixel sees it
 */
export function ground(
  world: usize,
  view: usize,
  near: f64,
  gx: f64,
  gy: f64,
  gz: f64,
  reach: f64,
  width: i32,
  height: i32,
  first: i32,
  rows: i32,
  depths: usize,
  seen: usize,
  before: usize,
  word: u32,
): void {
  const vx = load<f64>(view)
  const vy = load<f64>(view, 8)
  const vz = load<f64>(view, 16)
  const v1 = load<f64>(view, 24)
  for (let y = 0; y < rows; y++) {
    const py = ((<f64>(first + y) + 0.5) / <f64>height) * 2 - 1
    for (let x = 0; x < width; x++) {
      const px = ((<f64>x + 0.5) / <f64>width) * 2 - 1
      const top = place(world, px, py, -1, 1)
      const bottom = place(world, px, py, 1, 1)
      if (top <= gy || bottom >= top) continue
      const share = (top - gy) / (top - bottom)
      const fromX = place(world, px, py, -1, 0)
      const fromZ = place(world, px, py, -1, 2)
      const atX = fromX + (place(world, px, py, 1, 0) - fromX) * share
      const atZ = fromZ + (place(world, px, py, 1, 2) - fromZ) * share
      if (Math.abs(atX - gx) > reach || Math.abs(atZ - gz) > reach) continue
      const depth = vx * atX + vy * gy + vz * atZ + v1
      const at = <usize>(y * width + x)
      const there = depths + (at << 3)
      const words = at << 4
      if (depth < near || depth >= load<f64>(there)) continue
      if (before) {
        const front = load<u32>(before + words)
        if (front == 0 || front == word || depth <= <f64>load<f32>(before + words, 12)) continue
      }
      v128.store(seen + words, i32x4.splat(0))
      store<u32>(seen + words, word)
      store<f32>(seen + words, <f32>depth, 12)
    }
  }
}

/** Depths of pixels as float32; 0 where nothing is seen. */
export function ways(out: usize, depths: usize, count: i32): void {
  for (let i = 0; i < count; i++, out += 4, depths += 8) {
    const depth = load<f64>(depths)
    store<f32>(out, depth == Infinity ? 0 : <f32>depth)
  }
}

/** Says of pixels that nothing is seen there. */
export function clear(depths: usize, count: i32): void {
  for (let i = 0; i < count; i++, depths += 8) store<f64>(depths, Infinity)
}
