import { encodeSrgb } from '../color/convert'
import { ditherAt } from '../evaluate/visible'
import type { Vector } from '../mesh/vector'
import { neutral } from '../trace/trace'
import { albedo } from './albedo'
import type { KeyLight } from './keyLight'
import type { Prefiltered } from './prefiltered'
import type { ShadowMap } from './shadowMap'
import { clamp, cross3, dot3, normalize, placeAt, toCamera, toWorld, type Shot } from './shot'

/** What falls on the mesh. */
export interface Lighting {
  environment: Prefiltered
  /** The lamp that casts a shadow, as it stands to the mesh. */
  key: KeyLight
  /** How far the mesh is turned about the vertical under the surroundings, in degrees. */
  turn: number
  /** Linear. */
  background: Vector
  /** Where the key does not reach, and its share that reaches each pixel; undefined where it reaches everywhere. */
  shadow?: { map: ShadowMap; reached: Float32Array }
  /** How much of the sky each pixel sees; undefined where it sees all. */
  open?: Float32Array
  /** Whether the look sets heights. */
  tilts: boolean
  /** How far light goes through a translucent surface until a third of it is left, in meters. */
  typical: number
}

/**
 * How far light goes through parts of some sizes until a third of it is left: a quarter of what a typical one measures,
 * in meters.
 * @param sizes in growing order
 */
export const typicalDepth = (sizes: readonly number[]): number => Math.max(1e-6, (sizes[sizes.length >> 1] ?? 1) * 0.25)

/** The least roughness, so that a mirror still has a highlight, and what a dielectric reflects straight on. */
const SMOOTHEST = 0.045
const DIELECTRIC = 0.04
/** Mean of what a surface reflects over all directions, beyond what it does straight on. */
const MEAN_RISE = 1 / 21

const vector = (): Float64Array => new Float64Array(3)

const place = vector()
const eye = vector()
const plain = vector()
const normal = vector()
const beside = vector()
const mirror = vector()
const world = vector()
const outward = vector()
const facing = vector()
const toMirror = vector()
const falling = vector()
const mirrored = vector()
const behind = vector()
const ways = [vector(), vector()] as const
const sides = [vector(), vector()] as const
const reflects = new Float64Array(2)

/** How much of the key light reaches each pixel, 0 to 1. */
export function reachedIn(shot: Shot, map: ShadowMap): Float32Array {
  const { width, painted, lens, sample } = shot
  const relief = painted.relief!
  return Float32Array.from({ length: relief.length / 4 }, (_, pixel) => {
    const part = relief[pixel * 4 + 3]!
    if (part === 0) return 1
    const [x, y] = [pixel % width, Math.floor(pixel / width)]
    seeAt(shot, pixel)
    if (part < 0) outward.set(UP)
    else {
      faceAt(shot, pixel)
      toWorld(lens, normal, outward)
    }
    return map.reached(world[0]!, world[1]!, world[2]!, outward, ditherAt(x, y, sample))
  })
}
const UP = [0, 1, 0]

/**
 * Finds the place that is seen at a pixel, in the camera's axes and in the world, and the way from there to the eye.
 */
function seeAt(shot: Shot, pixel: number): void {
  const { width, painted, lens } = shot
  placeAt(shot, (pixel % width) + 0.5, Math.floor(pixel / width) + 0.5, painted.relief![pixel * 4 + 1]!, place)
  for (let k = 0; k < 3; k++) eye[k] = -place[k]!
  normalize(eye)
  toWorld(lens, place, world)
  for (let k = 0; k < 3; k++) world[k]! += lens.eye[k]!
}

/**
 * The normal between the vertices in the camera's axes, as it is, and where a picture says which way the surface faces,
 * no farther away from the place found last than it can be seen.
 */
function faceAt(shot: Shot, pixel: number): void {
  normalAt(shot, pixel, plain)
  normal.set(plain)
  if (!shot.bends) return
  const front = dot3(normal, eye)
  if (front < 0.05) {
    for (let k = 0; k < 3; k++) normal[k]! += (0.05 - front) * eye[k]!
    normalize(normal)
  }
}
function normalAt({ painted: { facing }, lens }: Shot, pixel: number, into: Float64Array): void {
  toCamera(lens, facing![pixel * 4]!, facing![pixel * 4 + 1]!, facing![pixel * 4 + 2]!, into)
  normalize(into)
}

/**
 * Lights one shot as the stage does: three.js's physically based material under surroundings, less what the key's
 * shadow and near surfaces take away, then Khronos PBR Neutral.
 * @returns takes a pixel, and gives its color, encoded for display
 */
export function shader(shot: Shot, lighting: Lighting): (pixel: number) => Vector {
  const { width, painted } = shot
  const sine = Math.sin((lighting.turn * Math.PI) / 180)
  const cosine = Math.cos((lighting.turn * Math.PI) / 180)
  const encoded = (v: number): number => encodeSrgb(clamp(v, 0, 1))
  const sky = lighting.background.map(encoded) as Vector

  /** Numbers of the surroundings seen in a direction of the world, which is turned under them. */
  const around = (d: Float64Array): [number, number, number] => [
    d[0]! * cosine + d[2]! * sine,
    d[1]!,
    d[2]! * cosine - d[0]! * sine,
  ]

  return pixel => {
    const part = painted.relief![pixel * 4 + 3]!
    if (part === 0) return sky
    return (part < 0 ? onGround(pixel) : onSurface(pixel)).map(encoded) as Vector
  }

  /** The ground is the background, less what does not fall on it. */
  function onGround(pixel: number): Vector {
    const { key, shadow, open, background } = lighting
    const held = shadow ? 1 - shadow.reached[pixel]! : 0
    return background.map((b, k) => {
      const ofKey = Math.min((key.irradiance[k]! * Math.max(0, key.from[1])) / Math.max(key.onGround[k]!, 1e-6), 0.95)
      return b * clamp((open?.[pixel] ?? 1) - held * ofKey, 0, 1)
    }) as Vector
  }

  function onSurface(pixel: number): Vector {
    const { key, environment, shadow, open } = lighting
    const { color, facing: ofFacing, glow, through: ofThrough } = painted
    const [x, y] = [pixel % width, Math.floor(pixel / width)]
    seeAt(shot, pixel)
    faceAt(shot, pixel)
    const roughness = Math.min(1, Math.max(ofFacing![pixel * 4 + 3]!, SMOOTHEST) + turnsBeside(pixel, x, y))
    if (lighting.tilts) tilt(pixel, x, y)
    toWorld(shot.lens, normal, facing)
    const cos = clamp(dot3(normal, eye), 0, 1)
    // (1) What falls on it, and what it mirrors.
    environment.falling(...around(facing), falling)
    const straight = 2 * dot3(normal, eye)
    const bent = roughness ** 4
    for (let k = 0; k < 3; k++) toMirror[k] = straight * normal[k]! - eye[k]!
    toWorld(shot.lens, toMirror, mirror)
    for (let k = 0; k < 3; k++) toMirror[k]! += (normal[k]! - toMirror[k]!) * bent
    toWorld(shot.lens, toMirror, beside)
    environment.mirrored(...around(beside), roughness, mirrored)
    // (2) Less what comes from the key where that does not reach.
    const held = shadow ? 1 - shadow.reached[pixel]! : 0
    if (held > 0) {
      const leans = Math.max(0, dot3(facing, key.from))
      const apart = Math.acos(clamp(dot3(mirror, key.from), -1, 1))
      const lobe = key.radius + roughness * roughness * 0.9
      const dims = 1 - held * Math.exp((-apart * apart) / (2 * lobe * lobe))
      for (let k = 0; k < 3; k++) {
        falling[k]! -= held * Math.min(key.irradiance[k]! * leans, falling[k]! * 0.95)
        mirrored[k]! *= dims
      }
    }
    // (3) What of it is sent to the eye.
    albedo(roughness, cos, reflects)
    const through = glow ? translucency(pixel) : undefined
    const seen = (open?.[pixel] ?? 1) * (1 - (ofThrough?.[pixel * 4 + 3] ?? 0))
    const seenMirror = clamp((cos + seen) ** (2 ** (-16 * roughness - 1)) - 1 + seen, 0, 1)
    const metalness = color![pixel * 4 + 3]!
    const sent = [0, 1, 2].map(k => {
      const base = color![pixel * 4 + k]!
      const even = falling[k]! / Math.PI
      const [single, multiple] = scattered(DIELECTRIC)
      const [metal, multipleOfMetal] = scattered(base)
      let diffuse = base * (1 - metalness) * (1 - single - multiple) * even
      if (through) diffuse += (through.light[k]! - diffuse) * through.share
      const mirrors =
        mirrored[k]! * (single + (metal - single) * metalness) +
        (multiple + (multipleOfMetal - multiple) * metalness) * even
      return diffuse * seen + mirrors * seenMirror + (glow?.[pixel * 4 + k] ?? 0)
    }) as Vector
    neutral(sent)
    return sent
  }

  /**
   * What a surface reflects once, and more than once (Fdez-Agüera, "A Multiple-Scattering Microfacet Model for
   * Real-Time Image-based Lighting", 2019).
   * @param straight what it does straight on
   */
  function scattered(straight: number): [single: number, multiple: number] {
    const [scale, bias] = reflects as unknown as [number, number]
    const single = straight * scale + bias
    const lost = 1 - scale - bias
    const mean = straight + (1 - straight) * MEAN_RISE
    return [single, ((single * mean) / (1 - lost * mean)) * lost]
  }

  /**
   * How much the surface turns to the other pixel of its pair, within its part: a highlight is no smaller than a pixel.
   */
  function turnsBeside(pixel: number, x: number, y: number): number {
    let most = 0
    for (const [ox, oy] of [
      [x ^ 1, y],
      [x, y ^ 1],
    ] as const) {
      const other = Math.min(oy, shot.height - 1) * width + Math.min(ox, width - 1)
      if (painted.relief![other * 4 + 3] !== painted.relief![pixel * 4 + 3]) continue
      normalAt(shot, other, beside)
      for (let k = 0; k < 3; k++) most = Math.max(most, Math.abs(beside[k]! - plain[k]!))
    }
    return most
  }

  /**
   * Tilts the normal by the height's slope: Mikkelsen, "Bump Mapping Unparametrized Surfaces on the GPU" (2010).
   * Heights in millimeters.
   */
  function tilt(pixel: number, x: number, y: number): void {
    const relief = painted.relief!
    const rises = [0, 0]
    for (const k of [0, 1] as const) {
      const [dx, dy] = k === 0 ? [1, 0] : [0, 1]
      const next = Math.min(y + dy, shot.height - 1) * width + Math.min(x + dx, width - 1)
      const last = Math.max(y - dy, 0) * width + Math.max(x - dx, 0)
      const step = (other: number): number => Math.abs(relief[other * 4 + 1]! - relief[pixel * 4 + 1]!)
      // Of two neighbors the one is taken that goes on from here, so that an edge of the surface is no slope.
      const forth = relief[next * 4 + 3]! > 0 && (relief[last * 4 + 3]! <= 0 || step(next) <= step(last))
      const other = forth ? next : last
      const sign = forth ? 1 : -1
      placeAt(shot, x + 0.5 + sign * dx, y + 0.5 + sign * dy, relief[other * 4 + 1]!, ways[k])
      for (let i = 0; i < 3; i++) ways[k][i] = sign * (ways[k][i]! - place[i]!)
      rises[k] = relief[other * 4 + 3]! > 0 ? sign * (relief[other * 4]! - relief[pixel * 4]!) : 0
    }
    cross3(ways[1], normal, sides[0])
    cross3(normal, ways[0], sides[1])
    const det = dot3(ways[0], sides[0])
    for (let i = 0; i < 3; i++) {
      const slope = Math.sign(det) * (rises[0]! * sides[0][i]! + rises[1]! * sides[1][i]!) * 0.001
      normal[i] = Math.abs(det) * normal[i]! - slope
    }
    normalize(normal)
  }

  /** Diffuse light from behind, less the deeper it has to go, and its share. */
  function translucency(pixel: number): { light: Vector; share: number } | undefined {
    const share = painted.glow![pixel * 4 + 3]! * (1 - painted.color![pixel * 4 + 3]!)
    if (share <= 0) return undefined
    const [x, y, z] = around(facing)
    lighting.environment.falling(-x, -y, -z, behind)
    const deep = lighting.shadow?.map.depth(world[0]!, world[1]!, world[2]!) ?? 0
    const left = Math.exp(-deep / lighting.typical)
    const light = [0, 1, 2].map(k => (behind[k]! / Math.PI) * painted.through![pixel * 4 + k]! * left) as Vector
    return { light, share }
  }
}
