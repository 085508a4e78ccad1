import { dot, type Vector } from '../mesh/vector'

/**
 * The metal-rough material of glTF 2.0 (appendix B): a GGX reflection with Smith's height-correlated shadowing and
 * Schlick's Fresnel, over a diffuse base; dielectrics reflect 4 % straight on. Light that bounces among the facets is
 * added as Kulla and Conty do ("Revisiting Physically Based Shading at Imageworks", 2017), and the base gets what the
 * reflection leaves, so that a white surface gives back exactly what falls on it. Between dielectric and metal the two
 * are mixed by the metalness.
 *
 * Directions are in the frame of the normal, pointing away from the surface; z is the cosine.
 */
export type Direction = Vector
export interface Surface {
  baseColor: Direction
  metalness: number
  roughness: number
}

const DIELECTRIC = 0.04
const SIZE = 32
const INTEGRAL = 1024
/** GGX's alpha of a roughness; a perfect mirror is a little rough, so that lamps are found by chance. */
export const alphaOf = (roughness: number): number => Math.max(1e-3, roughness * roughness)

/** The distribution of facets around h. */
function facets(cos: number, a: number): number {
  const d = cos * cos * (a * a - 1) + 1
  return (a * a) / (Math.PI * d * d)
}
/** How far Schlick's Fresnel has risen at a cosine. */
function schlick(cos: number): number {
  const far = 1 - cos
  const square = far * far
  return square * square * far
}
/** Smith's lambda. */
const lambda = (cos: number, a: number): number => (Math.sqrt(1 + (a * a * (1 - cos * cos)) / (cos * cos)) - 1) / 2

/**
 * A facet that is seen from w, by two numbers of 0 to 1: Heitz, "Sampling the GGX Distribution of Visible Normals"
 * (2018).
 */
export const visibleFacet = (w: Direction, a: number, u: number, v: number): Direction => facetAt(w, a, ...onDisc(u, v))

/** A point of the disc with a radius of 1. */
function onDisc(u: number, v: number): [along: number, across: number] {
  const r = Math.sqrt(u)
  const angle = 2 * Math.PI * v
  return [r * Math.cos(angle), r * Math.sin(angle)]
}

/** The facet that is seen from w by a point of the disc. */
function facetAt(w: Direction, a: number, p: number, across: number): Direction {
  const x = a * w[0]
  const y = a * w[1]
  const z = w[2]
  const length = Math.sqrt(x * x + y * y + z * z)
  const hx = x / length
  const hy = y / length
  const hz = z / length
  const flat = hx * hx + hy * hy
  const l = flat > 0 ? 1 / Math.sqrt(flat) : 0
  const tx = flat > 0 ? -hy * l : 1
  const ty = flat > 0 ? hx * l : 0
  const bx = -hz * ty
  const by = hz * tx
  const bz = hx * ty - hy * tx
  const s = (1 + hz) / 2
  const q = (1 - s) * Math.sqrt(Math.max(0, 1 - p * p)) + s * across
  const n = Math.sqrt(Math.max(0, 1 - p * p - q * q))
  const mx = a * (p * tx + q * bx + n * hx)
  const my = a * (p * ty + q * by + n * hy)
  const mz = Math.max(1e-6, q * bz + n * hz)
  const m = Math.sqrt(mx * mx + my * my + mz * mz)
  return [mx / m, my / m, mz / m]
}

/** Directional and mean albedo of the reflection without Fresnel, and the part of it that Schlick's rise makes. */
interface Albedos {
  whole: Float64Array
  rise: Float64Array
  wholeMean: Float64Array
  riseMean: Float64Array
}
let known: Albedos | undefined
function albedos(): Albedos {
  if (known) return known
  const disc = Array.from({ length: INTEGRAL }, (_, i) => onDisc((i + 0.5) / INTEGRAL, (i * 0.6180339887498949) % 1))
  const whole = new Float64Array(SIZE * SIZE)
  const rise = new Float64Array(SIZE * SIZE)
  const wholeMean = new Float64Array(SIZE)
  const riseMean = new Float64Array(SIZE)
  for (let r = 0; r < SIZE; r++) {
    const a = alphaOf(r / (SIZE - 1))
    for (let c = 0; c < SIZE; c++) {
      const cos = (c + 0.5) / SIZE
      const w: Direction = [Math.sqrt(1 - cos * cos), 0, cos]
      const shadow = lambda(cos, a)
      let sum = 0
      let risen = 0
      for (const [p, across] of disc) {
        const h = facetAt(w, a, p, across)
        const d = dot(w, h)
        const z = 2 * d * h[2] - w[2]
        if (z <= 0) continue
        // What is left of the weight when visible facets are drawn: G2 / G1.
        const weight = (1 + shadow) / (1 + shadow + lambda(z, a))
        sum += weight
        risen += weight * schlick(d)
      }
      whole[r * SIZE + c] = sum / INTEGRAL
      rise[r * SIZE + c] = risen / INTEGRAL
      wholeMean[r]! += (2 * cos * sum) / INTEGRAL / SIZE
      riseMean[r]! += (2 * cos * risen) / INTEGRAL / SIZE
    }
  }
  return (known = { whole, rise, wholeMean, riseMean })
}
function read(table: Float64Array, roughness: number, cos: number): number {
  const r = roughness * (SIZE - 1)
  const c = Math.min(SIZE - 1, Math.max(0, cos * SIZE - 0.5))
  const r0 = Math.min(SIZE - 2, Math.floor(r))
  const c0 = Math.min(SIZE - 2, Math.floor(c))
  const fr = r - r0
  const fc = c - c0
  const at = (i: number, j: number) => table[i * SIZE + j]!
  return (
    (at(r0, c0) * (1 - fc) + at(r0, c0 + 1) * fc) * (1 - fr) +
    (at(r0 + 1, c0) * (1 - fc) + at(r0 + 1, c0 + 1) * fc) * fr
  )
}
function readMean(table: Float64Array, roughness: number): number {
  const r = roughness * (SIZE - 1)
  const r0 = Math.min(SIZE - 2, Math.floor(r))
  return table[r0]! * (1 - (r - r0)) + table[r0 + 1]! * (r - r0)
}

/** A surface seen from one direction, ready to be asked about others. */
export class Bsdf {
  private readonly a: number
  private readonly shadow: number
  private readonly f0: Direction
  private readonly diffuse: Direction
  private readonly out: number
  private readonly mean: number
  private readonly riseMean: number
  /** How often a reflection is followed rather than the base. */
  private readonly share: number

  constructor(
    private readonly surface: Surface,
    private readonly wo: Direction,
  ) {
    const t = albedos()
    const { baseColor, metalness, roughness } = surface
    const z = Math.max(1e-4, wo[2])
    this.a = alphaOf(roughness)
    this.shadow = lambda(z, this.a)
    this.f0 = baseColor.map(c => DIELECTRIC + (c - DIELECTRIC) * metalness) as Direction
    this.diffuse = baseColor.map(c => c * (1 - metalness)) as Direction
    this.out = read(t.whole, roughness, z)
    this.mean = readMean(t.wholeMean, roughness)
    this.riseMean = readMean(t.riseMean, roughness)
    const reflected = this.f0.map(f => this.albedo(f, z))
    const base = this.diffuse.map(c => (1 - this.albedo(DIELECTRIC, z)) * c)
    const most = Math.max(...reflected)
    const rest = Math.max(...base)
    this.share = Math.min(0.95, Math.max(0.1, most / (most + rest || 1)))
  }

  /** What bounces more than once, as a color. */
  private again(f0: number): number {
    const average = f0 + ((1 - f0) * this.riseMean) / this.mean
    return (average * average * this.mean) / (1 - average * (1 - this.mean))
  }
  /** All that the reflection gives back of light from a direction. */
  private albedo(f0: number, cos: number): number {
    const t = albedos()
    const whole = read(t.whole, this.surface.roughness, cos)
    const rise = read(t.rise, this.surface.roughness, cos)
    return f0 * (whole - rise) + rise + (1 - whole) * this.again(f0)
  }
  private albedoMean(f0: number): number {
    return f0 * (this.mean - this.riseMean) + this.riseMean + (1 - this.mean) * this.again(f0)
  }

  /** Value times the cosine of wi, and the density with which {@link sample} finds wi. */
  evaluate(wi: Direction): { value: Direction; density: number } {
    const { wo, a } = this
    if (wi[2] <= 0 || wo[2] <= 0) return { value: [0, 0, 0], density: 0 }
    const hx = wo[0] + wi[0]
    const hy = wo[1] + wi[1]
    const hz = wo[2] + wi[2]
    const length = Math.hypot(hx, hy, hz)
    const h: Direction = [hx / length, hy / length, hz / length]
    const d = Math.max(0, dot(wo, h))
    const distribution = facets(h[2], a)
    const both = distribution / (1 + this.shadow + lambda(wi[2], a)) / (4 * wo[2])
    const rise = schlick(d)
    const inward = read(albedos().whole, this.surface.roughness, wi[2])
    const bounced = (((1 - this.out) * (1 - inward)) / (Math.PI * Math.max(1e-6, 1 - this.mean))) * wi[2]
    const { metalness, baseColor } = this.surface
    const again = (1 - metalness) * this.again(DIELECTRIC)
    const base =
      metalness < 1
        ? (((1 - this.albedo(DIELECTRIC, wo[2])) * (1 - this.albedo(DIELECTRIC, wi[2]))) /
            Math.max(1e-6, 1 - this.albedoMean(DIELECTRIC)) /
            Math.PI) *
          wi[2]
        : 0
    const value = [0, 1, 2].map(k => {
      const f = this.f0[k]!
      return (
        (f + (1 - f) * rise) * both +
        (again + metalness * this.again(baseColor[k]!)) * bounced +
        this.diffuse[k]! * base
      )
    }) as Direction
    const density = (this.share * distribution) / (1 + this.shadow) / (4 * wo[2]) + ((1 - this.share) * wi[2]) / Math.PI
    return { value, density }
  }

  /** A direction to follow, by three numbers of 0 to 1; null where it would go into the surface. */
  sample(u: number, v: number, choice: number): Direction | null {
    if (choice < this.share) {
      const h = visibleFacet(this.wo, this.a, u, v)
      const d = dot(this.wo, h)
      const wi: Direction = [2 * d * h[0] - this.wo[0], 2 * d * h[1] - this.wo[1], 2 * d * h[2] - this.wo[2]]
      return wi[2] > 0 ? wi : null
    }
    const r = Math.sqrt(u)
    const angle = 2 * Math.PI * v
    return [r * Math.cos(angle), r * Math.sin(angle), Math.sqrt(Math.max(1e-9, 1 - u))]
  }
}
