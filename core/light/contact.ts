import { TILE } from '../evaluate/painter'
import { ditherAt } from '../evaluate/visible'
import { clamp, cross3, dot3, normalize, placeAt, toCamera, type Shot } from './shot'

/** How far what is near may be, in shares of half the mesh's diagonal. */
export const CONTACT_REACH = 0.08
/** Directions that are looked along, forth and back, and steps of each. */
const DIRECTIONS = 3
const STEPS = 3
/** Squares around the surface in which contacts darken the ground. */
export const AROUND = 4
/** Directions repeat after so many pixels. */
const TURNS = 16

/** As a picture with a byte for each number keeps it. */
const byte = (x: number): number => Math.round(clamp(x, 0, 1) * 255) / 255

const at = new Float64Array(3)
const normal = new Float64Array(3)
const eye = new Float64Array(3)
const along = new Float64Array(3)
const sliceAcross = new Float64Array(3)
const sliceAlong = new Float64Array(3)
const inSlice = new Float64Array(3)
const tangent = new Float64Array(3)
const there = new Float64Array(3)
/** Whether the pixel that is asked for shows the ground. */
let onGround = false

/**
 * How much of the sky each pixel sees past what is near it, found from the depths of the picture (Jiménez et al.,
 * "Practical Real-Time Strategies for Accurate Indirect Occlusion", 2016), as the stage finds it.
 * @param reach how far what is near may be, in meters
 * @returns 0 to 1 for each pixel
 */
export function contactOf(shot: Shot, reach: number): Float32Array {
  const { width, height, painted } = shot
  const relief = painted.relief!
  const open = new Float32Array(width * height).fill(1)
  const near = squaresNear(shot)
  const across = Math.ceil(width / TILE)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const pixel = y * width + x
      if (relief[pixel * 4 + 3] === 0 || !near[Math.floor(y / TILE) * across + Math.floor(x / TILE)]) continue
      open[pixel] = byte(openAt(shot, x, y, reach))
    }
  return open
}

/** Squares of the picture in which the surface is seen, and those around: the ground is not darkened farther away. */
function squaresNear({ width, height, painted }: Shot): Uint8Array {
  const across = Math.ceil(width / TILE)
  const down = Math.ceil(height / TILE)
  const near = new Uint8Array(across * down)
  const done = new Uint8Array(near.length)
  for (let pixel = 0; pixel < width * height; pixel++) {
    if (painted.relief![pixel * 4 + 3]! <= 0) continue
    const [column, row] = [Math.floor((pixel % width) / TILE), Math.floor(pixel / width / TILE)]
    if (done[row * across + column]) continue
    done[row * across + column] = 1
    for (let y = Math.max(0, row - AROUND); y <= Math.min(down - 1, row + AROUND); y++)
      near.fill(1, y * across + Math.max(0, column - AROUND), y * across + Math.min(across - 1, column + AROUND) + 1)
  }
  return near
}

/** The normal in the camera's axes; of the surface turned or bent to the eye. */
function normalAt({ painted, lens }: Shot, pixel: number): void {
  const facing = painted.facing!
  onGround = painted.relief![pixel * 4 + 3]! < 0
  if (onGround) return toCamera(lens, 0, 1, 0, normal)
  toCamera(lens, facing[pixel * 4]!, facing[pixel * 4 + 1]!, facing[pixel * 4 + 2]!, normal)
  normalize(normal)
  const front = dot3(normal, eye)
  if (front < -0.5) for (let k = 0; k < 3; k++) normal[k]! *= -1
  else if (front < 0.1) {
    for (let k = 0; k < 3; k++) normal[k]! += (0.1 - front) * eye[k]!
    normalize(normal)
  }
}

function openAt(shot: Shot, x: number, y: number, reach: number): number {
  const { width, painted, sample } = shot
  const pixel = y * width + x
  placeAt(shot, x + 0.5, y + 0.5, painted.relief![pixel * 4 + 1]!, at)
  for (let k = 0; k < 3; k++) eye[k] = -at[k]!
  normalize(eye)
  normalAt(shot, pixel)
  const turn = ditherAt(x % TURNS, y % TURNS, sample) * 2 * Math.PI
  const [tx, ty] = [byte(Math.cos(turn) * 0.5 + 0.5) * 2 - 1, byte(Math.sin(turn) * 0.5 + 0.5) * 2 - 1]
  const length = Math.hypot(tx, ty)
  const [cos, sin] = [tx / length, ty / length]
  const far = reach * (0.5 + 0.5 * byte(ditherAt(y % TURNS, x % TURNS, sample + 7)))
  let sum = 0
  for (let i = 0; i < DIRECTIONS; i++) {
    const angle = (i / DIRECTIONS) * Math.PI
    const [c, s] = [Math.cos(angle), Math.sin(angle)]
    along[0] = cos * c - sin * s
    along[1] = sin * c + cos * s
    along[2] = 0
    sum += visibleAlong(shot, far, reach * 1.5)
  }
  return clamp(sum / DIRECTIONS, 0, 1)
}

/**
 * The share of the sky that is seen in the slice through the eye's way and a direction.
 * @param thickness of what is near, in meters
 */
function visibleAlong(shot: Shot, far: number, thickness: number): number {
  cross3(along, eye, sliceAcross)
  normalize(sliceAcross)
  cross3(sliceAcross, eye, sliceAlong)
  const off = dot3(normal, sliceAcross)
  for (let k = 0; k < 3; k++) inSlice[k] = normal[k]! - sliceAcross[k]! * off
  normalize(inSlice)
  cross3(inSlice, sliceAcross, tangent)
  const level = dot3(eye, tangent)
  let [forth, back] = [level, -level]
  for (let j = 0; j < STEPS; j++) {
    const way = (far * (j + 1)) / STEPS
    // Nearer steps count more: each raises the horizon by a smaller share.
    const share = 2 / (j + 2)
    forth += Math.max(0, horizonAt(shot, way, thickness, forth)) * share
    back += Math.max(0, horizonAt(shot, -way, thickness, back)) * share
  }
  const [sinForth, sinBack] = [Math.sqrt(Math.max(0, 1 - forth * forth)), Math.sqrt(Math.max(0, 1 - back * back))]
  const nx = dot3(inSlice, sliceAlong)
  const ny = dot3(inSlice, eye)
  const overX = 0.5 * (Math.acos(back) - Math.acos(forth) + sinForth * forth - sinBack * back)
  const overY = 0.5 * (2 - forth * forth - back * back)
  return nx * overX + ny * overY
}

/** By how much (as a cosine) the horizon rises above a level, so far along the direction. */
function horizonAt(shot: Shot, way: number, thickness: number, level: number): number {
  const { width, height, lens, shift, painted } = shot
  const [sx, sy, sz] = [at[0]! + along[0]! * way, at[1]! + along[1]! * way, at[2]! + along[2]! * way]
  const [across, up] = [sx / -sz, sy / -sz]
  const px = clamp(Math.floor(((across / lens.wide + shift[0]) * 0.5 + 0.5) * width), 0, width - 1)
  const py = clamp(Math.floor(((up / lens.tall + shift[1]) * 0.5 + 0.5) * height), 0, height - 1)
  const relief = painted.relief!
  const pixel = py * width + px
  const part = relief[pixel * 4 + 3]!
  // The sky hides nothing, nor does the ground, which is a plane, from itself.
  if (part === 0 || (part < 0 && onGround)) return 0
  const depth = relief[pixel * 4 + 1]!
  there[0] = across * depth - at[0]!
  there[1] = up * depth - at[1]!
  there[2] = -depth - at[2]!
  if (Math.abs(there[2]!) >= thickness) return 0
  normalize(there)
  return dot3(eye, there) - level
}
