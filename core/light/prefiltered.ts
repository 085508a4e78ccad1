import { unit, type Vector } from '../mesh/vector'
import { radianceOf } from '../trace/light'
import { RIGS, type RigName } from '../trace/rigs'

/** Texels along a side of a face of the sharpest level. */
const SIZE = 64
/** Levels, each with half as many texels along a side as the one before, for rising roughness. */
const LEVELS = 4
const MAX_LEVEL = LEVELS - 1
/** Texels along a side of a face of what rough levels are made from. */
const SOURCE = 16
/**
 * How far surroundings are blurred at first, in radians, and from how many directions each texel is made then, in each
 * of two passes.
 */
const BLUR = 0.03
const BLUR_SAMPLES = 20
const GOLDEN_ANGLE = 2.39996322973

/**
 * Six faces of a cube, each with a texel more around it that repeats what the next face has there, so that nothing
 * seams.
 */
class Cube {
  private readonly stride: number
  /** Three numbers a texel. */
  readonly texels: Float32Array

  constructor(readonly size: number) {
    this.stride = size + 2
    this.texels = new Float32Array(6 * this.stride ** 2 * 3)
  }

  private at(face: number, x: number, y: number): number {
    return ((face * this.stride + y + 1) * this.stride + x + 1) * 3
  }

  /** Sets each texel by the direction in which it is seen, of length 1. */
  fill(write: (toward: Vector, into: Float64Array) => void): this {
    const color = new Float64Array(3)
    this.each((face, x, y) => {
      write(this.toward(face, x, y), color)
      this.texels.set(color, this.at(face, x, y))
    })
    return this.seal()
  }

  /** Each texel of the faces themselves. */
  each(visit: (face: number, x: number, y: number) => void): void {
    for (let face = 0; face < 6; face++)
      for (let y = 0; y < this.size; y++) for (let x = 0; x < this.size; x++) visit(face, x, y)
  }

  /** Direction of a texel's middle, of length 1. Faces 2k and 2k + 1 look along axis k, forth and back. */
  toward(face: number, x: number, y: number): Vector {
    const axis = face >> 1
    const d: Vector = [0, 0, 0]
    d[axis] = face & 1 ? -1 : 1
    d[(axis + 1) % 3] = ((x + 0.5) / this.size) * 2 - 1
    d[(axis + 2) % 3] = ((y + 0.5) / this.size) * 2 - 1
    return unit(d)
  }

  private seal(): this {
    const { size, texels } = this
    for (let face = 0; face < 6; face++) {
      for (let i = -1; i <= size; i++) {
        for (const [x, y] of [
          [i, -1],
          [i, size],
          [-1, i],
          [size, i],
        ] as const) {
          const d = this.toward(face, x, y)
          const from = this.nearest(d)
          texels.copyWithin(this.at(face, x, y), from, from + 3)
        }
      }
    }
    return this
  }

  /** Where the texel begins that is seen in a direction. */
  nearest([dx, dy, dz]: Vector): number {
    place(dx, dy, dz)
    const texel = (share: number): number =>
      Math.min(this.size - 1, Math.max(0, Math.floor(((share + 1) / 2) * this.size)))
    return this.at(placed.face, texel(placed.u), texel(placed.v))
  }

  /** Half as many texels along a side, each the mean of four. */
  halved(): Cube {
    const half = new Cube(this.size / 2)
    half.each((face, x, y) => {
      for (let k = 0; k < 3; k++) {
        let sum = 0
        for (let i = 0; i < 4; i++) sum += this.texels[this.at(face, 2 * x + (i & 1), 2 * y + (i >> 1)) + k]!
        half.texels[half.at(face, x, y) + k] = sum / 4
      }
    })
    return half.seal()
  }

  /** Adds a share of what is seen in a direction (of any length) to three numbers, smooth between texels. */
  add(dx: number, dy: number, dz: number, share: number, into: Float64Array): void {
    place(dx, dy, dz)
    const x = ((placed.u + 1) / 2) * this.size - 0.5
    const y = ((placed.v + 1) / 2) * this.size - 0.5
    const left = Math.floor(x)
    const low = Math.floor(y)
    const [fx, fy] = [x - left, y - low]
    const at = this.at(placed.face, left, low)
    const row = this.stride * 3
    const { texels } = this
    for (let k = 0; k < 3; k++) {
      const below = texels[at + k]! * (1 - fx) + texels[at + 3 + k]! * fx
      const above = texels[at + row + k]! * (1 - fx) + texels[at + row + 3 + k]! * fx
      into[k]! += share * (below * (1 - fy) + above * fy)
    }
  }
}

const placed = { face: 0, u: 0, v: 0 }
/** The face on which a direction lies, and where on it, each from -1 to 1. */
function place(x: number, y: number, z: number): void {
  const [ax, ay, az] = [Math.abs(x), Math.abs(y), Math.abs(z)]
  if (ax >= ay && ax >= az) set(0, x, y, z)
  else if (ay >= az) set(1, y, z, x)
  else set(2, z, x, y)
}
function set(axis: number, along: number, u: number, v: number): void {
  const way = Math.abs(along) || 1
  placed.face = axis * 2 + (along < 0 ? 1 : 0)
  placed.u = u / way
  placed.v = v / way
}

/**
 * Directions in which a cube map of OpenGL is looked at for a place of each face, from -1 to 1 (The OpenGL
 * Specification 4.6, table 8.19).
 */
const FACES: readonly ((s: number, t: number) => Vector)[] = [
  (s, t) => [1, -t, -s],
  (s, t) => [-1, -t, s],
  (s, t) => [s, 1, t],
  (s, t) => [s, -1, -t],
  (s, t) => [s, -t, 1],
  (s, t) => [-s, -t, -1],
]

/**
 * Surroundings as surfaces of every roughness see them, for light without a graphics card: as three.js prefilters them
 * for the stage. Each level is convolved with the GGX distribution, seen straight on (Karis, "Real Shading in Unreal
 * Engine 4", 2013); the last one, of roughness 1, is the light that falls on a surface, divided by pi.
 */
export class Prefiltered {
  private readonly levels: Cube[]

  /** @param radiance of the surroundings in a direction of length 1 */
  constructor(radiance: (toward: Vector) => readonly number[]) {
    const sharp = blurred(blurred(new Cube(SIZE).fill((d, into) => into.set(radiance(d)))))
    let source = sharp
    while (source.size > SOURCE) source = source.halved()
    this.levels = Array.from({ length: LEVELS }, (_, level) =>
      level === 0 ? sharp : convolved(source, SIZE >> level, 1 - Math.sqrt(1 - level / MAX_LEVEL)),
    )
  }

  /** What a mirror of some roughness (0 to 1) shows of a direction (of any length): three numbers. */
  mirrored(x: number, y: number, z: number, roughness: number, into: Float64Array): void {
    const level = MAX_LEVEL * roughness * (2 - roughness)
    const low = Math.min(MAX_LEVEL, Math.floor(level))
    const share = level - low
    into.fill(0)
    this.levels[low]!.add(x, y, z, 1 - share, into)
    if (share > 0) this.levels[low + 1]!.add(x, y, z, share, into)
  }

  /**
   * Its levels as those of a cube map of OpenGL, seen in a mirror, as three.js takes cube maps for: for each level and
   * each of the faces (+x, −x, +y, −y, +z, −z) the radiance of its texels row by row, red, green and blue.
   */
  cubeMap(): { size: number; faces: Float32Array[] }[] {
    return this.levels.map(cube => ({
      size: cube.size,
      faces: FACES.map(towardTexel => {
        const face = new Float32Array(cube.size ** 2 * 3)
        for (let y = 0; y < cube.size; y++) {
          for (let x = 0; x < cube.size; x++) {
            const share = (i: number): number => ((i + 0.5) / cube.size) * 2 - 1
            const [dx, dy, dz] = towardTexel(share(x), share(y))
            const from = cube.nearest([-dx, dy, dz])
            face.set(cube.texels.subarray(from, from + 3), (y * cube.size + x) * 3)
          }
        }
        return face
      }),
    }))
  }

  /** What falls on a surface that faces a direction: three numbers, radiance times pi. */
  falling(x: number, y: number, z: number, into: Float64Array): void {
    into.fill(0)
    this.levels[MAX_LEVEL]!.add(x, y, z, Math.PI, into)
  }
}

/** A cube with a Gaussian blur: half of the variance of {@link BLUR}, on a spiral. */
function blurred(from: Cube): Cube {
  const sigma = BLUR / Math.SQRT2
  const truncation = 1 - Math.exp(-4.5)
  const turns = Array.from({ length: BLUR_SAMPLES }, (_, i): Vector => {
    const stratum = (i + 0.5) / BLUR_SAMPLES
    const theta = sigma * Math.sqrt(-2 * Math.log(1 - stratum * truncation))
    const phi = i * GOLDEN_ANGLE
    return [Math.cos(theta), Math.sin(theta) * Math.cos(phi), Math.sin(theta) * Math.sin(phi)]
  })
  return new Cube(from.size).fill((n, sum) => {
    const [t, b] = across(n)
    sum.fill(0)
    for (const [along, right, up] of turns)
      from.add(
        n[0] * along + t[0] * right + b[0] * up,
        n[1] * along + t[1] * right + b[1] * up,
        n[2] * along + t[2] * right + b[2] * up,
        1 / BLUR_SAMPLES,
        sum,
      )
  })
}

/** Two directions at right angles to one and to each other. */
function across(n: Vector): [Vector, Vector] {
  const up: Vector = Math.abs(n[2]) < 0.999 ? [0, 0, 1] : [1, 0, 0]
  const tangent = unit([up[1] * n[2] - up[2] * n[1], up[2] * n[0] - up[0] * n[2], up[0] * n[1] - up[1] * n[0]])
  const bitangent: Vector = [
    n[1] * tangent[2] - n[2] * tangent[1],
    n[2] * tangent[0] - n[0] * tangent[2],
    n[0] * tangent[1] - n[1] * tangent[0],
  ]
  return [tangent, bitangent]
}

/** What one texel of the source is to {@link convolved}: direction, solid angle and color. */
const SOURCE_NUMBERS = 7

/** A cube as a surface of some roughness sees it that is looked at straight on. */
function convolved(source: Cube, size: number, roughness: number): Cube {
  const alpha2 = roughness ** 4
  const texels = new Float64Array(6 * source.size ** 2 * SOURCE_NUMBERS)
  const color = new Float64Array(3)
  let count = 0
  source.each((face, x, y) => {
    const d = source.toward(face, x, y)
    color.fill(0)
    source.add(...d, 1, color)
    // A texel's solid angle falls with the cube of its distance from the middle of the cube.
    texels.set([...d, Math.max(...d.map(Math.abs)) ** 3, ...color], count)
    count += SOURCE_NUMBERS
  })
  return new Cube(size).fill((n, sum) => convolve(texels, alpha2, n, sum))
}

/** The mean of texels (as {@link convolved} lays them out) by the GGX distribution around a direction. */
function convolve(texels: Float64Array, alpha2: number, [x, y, z]: Vector, into: Float64Array): void {
  let [total, red, green, blue] = [0, 0, 0, 0]
  for (let i = 0; i < texels.length; i += SOURCE_NUMBERS) {
    const cos = x * texels[i]! + y * texels[i + 1]! + z * texels[i + 2]!
    if (cos <= 0) continue
    const spread = 1 + alpha2 + (alpha2 - 1) * cos
    const weight = (cos * texels[i + 3]!) / (spread * spread)
    total += weight
    red += texels[i + 4]! * weight
    green += texels[i + 5]! * weight
    blue += texels[i + 6]! * weight
  }
  into[0] = red / total
  into[1] = green / total
  into[2] = blue / total
}

const ofRigs = new Map<RigName, Prefiltered>()
/** A rig, made once. */
export function prefilteredRig(name: RigName): Prefiltered {
  const old = ofRigs.get(name)
  if (old) return old
  const made = new Prefiltered(radianceOf(RIGS[name]))
  ofRigs.set(name, made)
  return made
}
