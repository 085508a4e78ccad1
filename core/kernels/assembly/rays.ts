// Kernels of rays: what they meet of a tree of boxes with triangles in it, as three-mesh-bvh lays one out. All pointers
// are byte addresses. A node has eight words: the least and the largest place of its box (six float32), then of a leaf
// its first triangle, their number (16 bits) and a mark (16 bits); of another node the way to its right child, in
// nodes, and the axis by which it is split. Its left child comes next. A triangle has nine float32.
//
// All is computed in 64-bit floats in the order in which three-mesh-bvh 0.9 and three.js 0.187 compute it, so that the
// same rays meet the same triangles.

// @ts-ignore: decorator
@inline const NODE: usize = 32
// @ts-ignore: decorator
@inline const TRIANGLE: usize = 36
// @ts-ignore: decorator
@inline const LEAF: u32 = 0xffff

/** Nodes that are still to be looked at, three more for each step down a wide tree: one is at most 40 deep. */
const stack: usize = memory.data(8 * 128)
/** Where the last ray that met something ended: its place, three float64. */
const place: usize = memory.data(8 * 3)

// The ray, and what follows from it.
let ox: f64
let oy: f64
let oz: f64
let dx: f64
let dy: f64
let dz: f64
let ix: f64
let iy: f64
let iz: f64
/** The length of its direction, a hair less than it is: no box is passed over for a rounding. */
let pace: f64
// The axis along which it goes farthest and the other two, as bytes from the first number of a place; its origin in
// that order; and how it leans.
let kx: usize
let ky: usize
let kz: usize
let okx: f64
let oky: f64
let okz: f64
let sx: f64
let sy: f64
let sz: f64
/** How far the ray last met something. */
let distance: f64

/** Takes a ray. @returns whether it goes anywhere */
function take(fromX: f64, fromY: f64, fromZ: f64, alongX: f64, alongY: f64, alongZ: f64): bool {
  ox = fromX
  oy = fromY
  oz = fromZ
  dx = alongX
  dy = alongY
  dz = alongZ
  ix = 1 / dx
  iy = 1 / dy
  iz = 1 / dz
  pace = sqrt(dx * dx + dy * dy + dz * dz) * (1 - 1e-12)
  const x = abs(dx)
  const y = abs(dy)
  const z = abs(dz)
  let dkx: f64
  let dky: f64
  let dkz: f64
  // Two axes change places where the third is gone backward, so that triangles keep their way around.
  if (x >= y && x >= z) {
    kz = 0
    okz = ox
    dkz = dx
    if (dx >= 0) {
      kx = 4
      ky = 8
      okx = oy
      oky = oz
      dkx = dy
      dky = dz
    } else {
      kx = 8
      ky = 4
      okx = oz
      oky = oy
      dkx = dz
      dky = dy
    }
  } else if (y >= z) {
    kz = 4
    okz = oy
    dkz = dy
    if (dy >= 0) {
      kx = 8
      ky = 0
      okx = oz
      oky = ox
      dkx = dz
      dky = dx
    } else {
      kx = 0
      ky = 8
      okx = ox
      oky = oz
      dkx = dx
      dky = dz
    }
  } else {
    kz = 8
    okz = oz
    dkz = dz
    if (dz >= 0) {
      kx = 0
      ky = 4
      okx = ox
      oky = oy
      dkx = dx
      dky = dy
    } else {
      kx = 4
      ky = 0
      okx = oy
      oky = ox
      dkx = dy
      dky = dx
    }
  }
  sx = dkx / dkz
  sy = dky / dkz
  sz = 1 / dkz
  return dkz != 0
}

/** Whether the ray goes through the box of a node within `far`: slabs, as Ray.intersectBox of three.js. */
// @ts-ignore: decorator
@inline function passes(node: usize, far: f64): bool {
  const minX = <f64>load<f32>(node)
  const maxX = <f64>load<f32>(node, 12)
  const minY = <f64>load<f32>(node, 4)
  const maxY = <f64>load<f32>(node, 16)
  const minZ = <f64>load<f32>(node, 8)
  const maxZ = <f64>load<f32>(node, 20)
  let near = (select(minX, maxX, ix >= 0) - ox) * ix
  let end = (select(maxX, minX, ix >= 0) - ox) * ix
  const nearY = (select(minY, maxY, iy >= 0) - oy) * iy
  const endY = (select(maxY, minY, iy >= 0) - oy) * iy
  if (near > endY || nearY > end) return false
  // What is no number is a ray in the plane of a side: the other axes tell.
  if (nearY > near || near != near) near = nearY
  if (endY < end || end != end) end = endY
  const nearZ = (select(minZ, maxZ, iz >= 0) - oz) * iz
  const endZ = (select(maxZ, minZ, iz >= 0) - oz) * iz
  if (near > endZ || nearZ > end) return false
  if (nearZ > near || near != near) near = nearZ
  if (endZ < end || end != end) end = endZ
  return near * pace <= far && end >= 0
}

/**
 * Whether the ray meets a triangle within `far`; where it does, notes where. Woop, Benthin and Wald, "Watertight
 * Ray/Triangle Intersection" (2013).
 */
// @ts-ignore: decorator
@inline function hits(triangle: usize, front: bool, far: f64): bool {
  const az = <f64>load<f32>(triangle + kz) - okz
  const bz = <f64>load<f32>(triangle + kz, 12) - okz
  const cz = <f64>load<f32>(triangle + kz, 24) - okz
  const ax = <f64>load<f32>(triangle + kx) - okx - sx * az
  const ay = <f64>load<f32>(triangle + ky) - oky - sy * az
  const bx = <f64>load<f32>(triangle + kx, 12) - okx - sx * bz
  const by = <f64>load<f32>(triangle + ky, 12) - oky - sy * bz
  const cx = <f64>load<f32>(triangle + kx, 24) - okx - sx * cz
  const cy = <f64>load<f32>(triangle + ky, 24) - oky - sy * cz
  const u = cx * by - cy * bx
  const v = ax * cy - ay * cx
  const w = bx * ay - by * ax
  if (u < 0 || v < 0 || w < 0) {
    if (front || u > 0 || v > 0 || w > 0) return false
  }
  const det = u + v + w
  if (det == 0) return false
  const scaled = sz * (u * az + v * bz + w * cz)
  if (det > 0 ? scaled < 0 : scaled > 0) return false
  const t = scaled / det
  const px = ox + dx * t
  const py = oy + dy * t
  const pz = oz + dz * t
  const x = ox - px
  const y = oy - py
  const z = oz - pz
  const way = sqrt(x * x + y * y + z * z)
  // What is no number is no hit.
  if (!(way <= far)) return false
  distance = way
  store<f64>(place, px)
  store<f64>(place, py, 8)
  store<f64>(place, pz, 16)
  return true
}

/** The children of a node, the one that the ray comes to first on the top of the stack. @returns the new top */
// @ts-ignore: decorator
@inline function open(node: usize, top: usize): usize {
  const axis = load<u32>(node, 28)
  let along = dz
  if (axis == 0) along = dx
  else if (axis == 1) along = dy
  const left = node + NODE
  const right = node + <usize>load<u32>(node, 24) * NODE
  store<usize>(top, along >= 0 ? right : left)
  store<usize>(top, along >= 0 ? left : right, 4)
  return top + 8
}

// For rays that only ask whether they meet anything, the same boxes lie in a wider tree (core/geometry/wideTree.ts),
// where four are looked at at once, in 32-bit floats: each is a hair larger than it is, so that none is passed over for
// a rounding. What is in them is met in 64-bit floats, as everywhere.

// @ts-ignore: decorator
@inline const LARGEST: f64 = 1e30
/** More than what the roundings on the way to either side of a box take away, six of 6e-8 each. */
// @ts-ignore: decorator
@inline const HAIR: f32 = 1 + 1e-6
/** More than how far off a number is when it becomes one of 32 bits, as a share of it. */
// @ts-ignore: decorator
@inline const OFF: f64 = 1e-7
/** What a number is off at least. Zero is, too: so a ray in the plane of a side there comes to a box on either hand. */
// @ts-ignore: decorator
@inline const OFF_AT_LEAST: f64 = 1e-20

// Of a ray in a wide tree, four times each: where it begins as seen from the nearer sides of boxes and from the farther
// ones, one over its direction, and where those sides lie in a node.
let nearX: v128 = f32x4.splat(0)
let nearY: v128 = f32x4.splat(0)
let nearZ: v128 = f32x4.splat(0)
let farX: v128 = f32x4.splat(0)
let farY: v128 = f32x4.splat(0)
let farZ: v128 = f32x4.splat(0)
let overX: v128 = f32x4.splat(0)
let overY: v128 = f32x4.splat(0)
let overZ: v128 = f32x4.splat(0)
let sideX: usize = 0
let sideY: usize = 0
let sideZ: usize = 0

/** One over a component of a direction; where that has no bound, what is larger than any way. */
// @ts-ignore: decorator
@inline function over(inverse: f64, along: f64): v128 {
  return f32x4.splat(<f32>(abs(inverse) < LARGEST ? inverse : copysign(LARGEST, along)))
}
// @ts-ignore: decorator
@inline function off(from: f64): f64 {
  return max(abs(from) * OFF, OFF_AT_LEAST)
}
/** Makes of the ray that was taken one for wide trees. */
// @ts-ignore: decorator
@inline function widen(): void {
  overX = over(ix, dx)
  overY = over(iy, dy)
  overZ = over(iz, dz)
  sideX = ix < 0 ? 48 : 0
  sideY = iy < 0 ? 48 : 0
  sideZ = iz < 0 ? 48 : 0
  const offX = copysign(off(ox), dx)
  const offY = copysign(off(oy), dy)
  const offZ = copysign(off(oz), dz)
  nearX = f32x4.splat(<f32>(ox + offX))
  nearY = f32x4.splat(<f32>(oy + offY))
  nearZ = f32x4.splat(<f32>(oz + offZ))
  farX = f32x4.splat(<f32>(ox - offX))
  farY = f32x4.splat(<f32>(oy - offY))
  farZ = f32x4.splat(<f32>(oz - offZ))
}
/** Where the ray comes to the sides of four boxes along an axis. */
// @ts-ignore: decorator
@inline function sides(node: usize, axis: usize, from: v128, inverse: v128): v128 {
  return f32x4.mul(f32x4.sub(v128.load(node + axis), from), inverse)
}
/** Which of the four boxes of a wide node the ray goes through within a way, as bits. */
// @ts-ignore: decorator
@inline function through(node: usize, far: v128): i32 {
  const near = f32x4.pmax(
    f32x4.pmax(sides(node, sideX, nearX, overX), sides(node, sideY + 16, nearY, overY)),
    f32x4.pmax(sides(node, sideZ + 32, nearZ, overZ), f32x4.splat(0)),
  )
  const end = f32x4.pmin(
    f32x4.pmin(sides(node, 48 - sideX, farX, overX), sides(node, 64 - sideY, farY, overY)),
    f32x4.pmin(sides(node, 80 - sideZ, farZ, overZ), far),
  )
  return i32x4.bitmask(f32x4.le(near, f32x4.mul(end, f32x4.splat(HAIR))))
}

/** Whether a ray meets anything within `far` of where it begins, in a wide tree. */
export function meets(
  nodes: usize,
  triangles: usize,
  fromX: f64,
  fromY: f64,
  fromZ: f64,
  alongX: f64,
  alongY: f64,
  alongZ: f64,
  far: f64,
): bool {
  if (!take(fromX, fromY, fromZ, alongX, alongY, alongZ)) return false
  widen()
  const reach = f32x4.splat(<f32>(far / pace))
  let top = stack + 8
  store<u64>(stack, 0)
  while (top > stack) {
    top -= 8
    const count = load<u32>(top, 4)
    if (!count) {
      const node = nodes + <usize>load<u32>(top)
      for (let met = through(node, reach); met; met &= met - 1) {
        const lane = node + ((<usize>ctz(met)) << 2)
        store<u32>(top, load<u32>(lane, 96))
        store<u32>(top, load<u32>(lane, 112), 4)
        top += 8
      }
      continue
    }
    let triangle = triangles + <usize>load<u32>(top) * TRIANGLE
    for (let n = count; n > 0; n--, triangle += TRIANGLE) if (hits(triangle, false, far)) return true
  }
  return false
}

/**
 * The first triangle that a ray meets within `far`, by its number in the tree; -1 where it meets none.
 * @param front whether only those count whose front it comes to
 */
export function first(
  nodes: usize,
  triangles: usize,
  fromX: f64,
  fromY: f64,
  fromZ: f64,
  alongX: f64,
  alongY: f64,
  alongZ: f64,
  far: f64,
  front: bool,
): i32 {
  if (!take(fromX, fromY, fromZ, alongX, alongY, alongZ)) return -1
  let found = -1
  let nearest = far
  let px: f64 = 0
  let py: f64 = 0
  let pz: f64 = 0
  let top = stack + 4
  store<usize>(stack, nodes)
  while (top > stack) {
    top -= 4
    const node = load<usize>(top)
    if (!passes(node, nearest)) continue
    if (load<u16>(node, 30) != LEAF) {
      top = open(node, top)
      continue
    }
    const at = load<u32>(node, 24)
    const end = at + load<u16>(node, 28)
    for (let n = at; n < end; n++) {
      if (!hits(triangles + <usize>n * TRIANGLE, front, nearest)) continue
      // Of several that are equally far the one that came first stays.
      if (found >= 0 && distance >= nearest) continue
      found = n
      nearest = distance
      px = load<f64>(place)
      py = load<f64>(place, 8)
      pz = load<f64>(place, 16)
    }
  }
  distance = nearest
  store<f64>(place, px)
  store<f64>(place, py, 8)
  store<f64>(place, pz, 16)
  return found
}

/** The square of the way from o to what is nearest in the box of a node. */
// @ts-ignore: decorator
@inline function wayTo(node: usize): f64 {
  const x = max(<f64>load<f32>(node), min(<f64>load<f32>(node, 12), ox)) - ox
  const y = max(<f64>load<f32>(node, 4), min(<f64>load<f32>(node, 16), oy)) - oy
  const z = max(<f64>load<f32>(node, 8), min(<f64>load<f32>(node, 20), oz)) - oz
  return x * x + y * y + z * z
}

/** Sets p to the place of a triangle that is nearest to o: Ericson, "Real-Time Collision Detection" (2005), 5.1.5. */
function approach(triangle: usize): void {
  const ax = <f64>load<f32>(triangle)
  const ay = <f64>load<f32>(triangle, 4)
  const az = <f64>load<f32>(triangle, 8)
  const bx = <f64>load<f32>(triangle, 12)
  const by = <f64>load<f32>(triangle, 16)
  const bz = <f64>load<f32>(triangle, 20)
  const cx = <f64>load<f32>(triangle, 24)
  const cy = <f64>load<f32>(triangle, 28)
  const cz = <f64>load<f32>(triangle, 32)
  const abX = bx - ax
  const abY = by - ay
  const abZ = bz - az
  const acX = cx - ax
  const acY = cy - ay
  const acZ = cz - az
  const aoX = ox - ax
  const aoY = oy - ay
  const aoZ = oz - az
  const d1 = abX * aoX + abY * aoY + abZ * aoZ
  const d2 = acX * aoX + acY * aoY + acZ * aoZ
  if (d1 <= 0 && d2 <= 0) return reach(ax, ay, az)
  const boX = ox - bx
  const boY = oy - by
  const boZ = oz - bz
  const d3 = abX * boX + abY * boY + abZ * boZ
  const d4 = acX * boX + acY * boY + acZ * boZ
  if (d3 >= 0 && d4 <= d3) return reach(bx, by, bz)
  const ofC = d1 * d4 - d3 * d2
  // Where a and b are one place, there is no edge between them.
  if (ofC <= 0 && d1 >= 0 && d3 <= 0 && d1 - d3 > 0) {
    const v = d1 / (d1 - d3)
    return reach(ax + abX * v, ay + abY * v, az + abZ * v)
  }
  const coX = ox - cx
  const coY = oy - cy
  const coZ = oz - cz
  const d5 = abX * coX + abY * coY + abZ * coZ
  const d6 = acX * coX + acY * coY + acZ * coZ
  if (d6 >= 0 && d5 <= d6) return reach(cx, cy, cz)
  const ofB = d5 * d2 - d1 * d6
  if (ofB <= 0 && d2 >= 0 && d6 <= 0) {
    const w = d2 / (d2 - d6)
    return reach(ax + acX * w, ay + acY * w, az + acZ * w)
  }
  const ofA = d3 * d6 - d5 * d4
  if (ofA <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
    const w = (d4 - d3) / (d4 - d3 + (d5 - d6))
    return reach(bx + (cx - bx) * w, by + (cy - by) * w, bz + (cz - bz) * w)
  }
  const share = 1 / (ofA + ofB + ofC)
  const v = ofB * share
  const w = ofC * share
  reach(ax + abX * v + acX * w, ay + abY * v + acY * w, az + abZ * v + acZ * w)
}
/** Notes the place of a triangle that is nearest. */
// @ts-ignore: decorator
@inline function reach(x: f64, y: f64, z: f64): void {
  px = x
  py = y
  pz = z
}
let px: f64 = 0
let py: f64 = 0
let pz: f64 = 0

/** Puts a node and the square of the way to it on the stack, where that is nearer than `least`. @returns the new top */
// @ts-ignore: decorator
@inline function push(top: usize, node: usize, way: f64, least: f64): usize {
  if (!(way < least)) return top
  store<f64>(top, way)
  store<usize>(top, node, 8)
  return top + 16
}

/** The triangle that is nearest to a place and nearer than `far`, by its number in the tree; -1 where none is. */
export function nearest(nodes: usize, triangles: usize, x: f64, y: f64, z: f64, far: f64): i32 {
  ox = x
  oy = y
  oz = z
  let found = -1
  let least = far * far
  let top = push(stack, nodes, wayTo(nodes), least)
  while (top > stack) {
    top -= 16
    if (!(load<f64>(top) < least)) continue
    const node = load<usize>(top, 8)
    const at = load<u32>(node, 24)
    if (load<u16>(node, 30) != LEAF) {
      const left = node + NODE
      const right = node + <usize>at * NODE
      const toLeft = wayTo(left)
      const toRight = wayTo(right)
      // The nearer one is looked at first.
      const isLeft = toLeft <= toRight
      top = push(top, isLeft ? right : left, isLeft ? toRight : toLeft, least)
      top = push(top, isLeft ? left : right, isLeft ? toLeft : toRight, least)
      continue
    }
    const end = at + load<u16>(node, 28)
    for (let n = at; n < end; n++) {
      approach(triangles + <usize>n * TRIANGLE)
      const wayX = ox - px
      const wayY = oy - py
      const wayZ = oz - pz
      const way = wayX * wayX + wayY * wayY + wayZ * wayZ
      // Of several that are equally near the one that came first stays; what is no number is nowhere.
      if (!(way < least)) continue
      found = n
      least = way
      store<f64>(place, px)
      store<f64>(place, py, 8)
      store<f64>(place, pz, 16)
    }
  }
  distance = sqrt(least)
  return found
}

/** Where the last ray of {@link first} ended, or what is {@link nearest}: three float64. */
export function placeOf(): usize {
  return place
}
/** How far away that is. */
export function distanceOf(): f64 {
  return distance
}
