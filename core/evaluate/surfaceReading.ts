import { READING_BINS, type MapReading } from '../mesh/mapReading'
import type { Mesh } from '../mesh/mesh'
import { samplePoints, valueAt } from '../mesh/sample'
import { readPicture, type Picture } from './pictures'

/** Points over the surface behind a reading. */
const POINTS = 65_536
const READING = { linear: true, across: 'edge', down: 'edge', nearest: true } as const

/** How many numbers a surface map has at a place: one, or three. */
export const lanesOfMap = ({ lanes = 4 }: Pick<Picture, 'lanes'>): 1 | 3 => (lanes === 1 ? 1 : 3)

/** One number of a surface map at a place of the first UV set: that of the texel there, as it is. */
export const surfaceValue = (picture: Picture, lane: number, u: number, v: number): number =>
  readPicture(picture, lane, READING, u, v)

/**
 * Reads one number of a surface map over the surface, at points spread evenly by area. Bins run from `low` to `high`;
 * the vertices named are those nearest to the lowest and the highest value.
 */
export function readSurfaceMap(mesh: Mesh, picture: Picture, lane: number): MapReading {
  const shares = new Array<number>(READING_BINS).fill(0)
  const { uvs, indices } = mesh
  if (!uvs) return { low: 0, high: 0, mean: 0, lowest: 0, highest: 0, shares }
  const { count, triangle, u, v } = samplePoints(mesh, POINTS)
  const values = new Float32Array(count)
  let lowest = 0
  let highest = 0
  let sum = 0
  for (let i = 0; i < count; i++) {
    const at = (k: number): number => valueAt(indices, uvs, 2, k, triangle[i]!, u[i]!, v[i]!)
    const x = (values[i] = surfaceValue(picture, lane, at(0), at(1)))
    sum += x
    if (x < values[lowest]!) lowest = i
    if (x > values[highest]!) highest = i
  }
  const low = values[lowest]!
  const high = values[highest]!
  for (const x of values) {
    const t = high > low ? (x - low) / (high - low) : 0
    shares[Math.min(READING_BINS - 1, Math.floor(t * READING_BINS))]! += 1 / count
  }
  const cornerAt = (i: number): number => {
    const weights = [1 - u[i]! - v[i]!, u[i]!, v[i]!]
    return indices[triangle[i]! * 3 + weights.indexOf(Math.max(...weights))]!
  }
  return { low, high, mean: sum / count, lowest: cornerAt(lowest), highest: cornerAt(highest), shares }
}
