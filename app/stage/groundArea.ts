import { BufferAttribute, BufferGeometry, Matrix4, Vector3, Vector4, type Camera } from 'three'
import { CONTACT_REACH } from '#core/light/contact'
import type { Box } from '#core/mesh/mesh'

/** A light that comes from nearly as low as the ground throws its shadow farther than can be seen. */
const LOWEST = 0.02

/** A place in a picture: from -1 at its left and lower edge to 1. */
export type Place = readonly [x: number, y: number]

const cornersOf = ({ min, max }: Box, margin: number): Vector3[] =>
  Array.from({ length: 8 }, (_, i) => {
    const at = (k: number): number => ((i >> k) & 1 ? max[k]! + margin : min[k]! - margin)
    return new Vector3(at(0), at(1), at(2))
  })

/** Where parallel light through a point meets the ground. */
const thrown = (point: Vector3, from: Vector3, ground: number): Vector3 =>
  point.clone().addScaledVector(from, (ground - point.y) / from.y)

/** Above 0 where `c` lies to the left of the way from `a` to `b`. */
export const leftOf = (a: Place, b: Place, c: Place): number =>
  (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])

/** The convex hull of some places, counterclockwise (Andrew, "Another Efficient Algorithm for Convex Hulls", 1979). */
function hullOf(places: readonly Place[]): Place[] {
  const sorted = places.toSorted((a, b) => a[0] - b[0] || a[1] - b[1])
  const chain = (some: readonly Place[]): Place[] => {
    const kept: Place[] = []
    for (const place of some) {
      while (kept.length > 1 && leftOf(kept.at(-2)!, kept.at(-1)!, place) <= 0) kept.pop()
      kept.push(place)
    }
    return kept.slice(0, -1)
  }
  return [...chain(sorted), ...chain(sorted.toReversed())]
}

/** How far around a mesh its contacts darken the ground, in meters: things are near within so much, and a thickness. */
export const contactAround = ({ min, max }: Box): number =>
  CONTACT_REACH * Math.hypot(...max.map((x, k) => x - min[k]!))

/** From the world to the clip space of a camera. */
export const toClipOf = ({ projectionMatrix, matrixWorldInverse }: Camera): Matrix4 =>
  new Matrix4().multiplyMatrices(projectionMatrix, matrixWorldInverse)

/**
 * The part of a picture in which the ground can be darker than the background: where it is near the mesh, and in its
 * shadow.
 * @param toClip from the world to the clip space of the camera
 * @param margin in meters, around the mesh: as far as contacts reach, and the edge of the shadow is soft
 * @param from where the light comes from, of length 1; undefined without shadows
 * @returns its corners, counterclockwise; undefined where it may be anywhere
 */
export function groundArea(toClip: Matrix4, box: Box, margin: number, from?: Vector3): Place[] | undefined {
  const points = cornersOf(box, margin)
  if (from && from.y > 0) {
    if (from.y < LOWEST) return undefined
    points.push(...points.map(p => thrown(p, from, box.min[1])))
  }
  const seen = points.map(({ x, y, z }) => new Vector4(x, y, z, 1).applyMatrix4(toClip))
  // What is behind the eye is seen nowhere in particular.
  if (seen.some(({ z, w }) => w <= 0 || z < -w)) return undefined
  return hullOf(seen.map(({ x, y, w }): Place => [x / w, y / w]))
}

/** A convex area as triangles, for a pass over it. */
export class Area {
  readonly geometry = new BufferGeometry()
  private readonly places = new BufferAttribute(new Float32Array(MOST_CORNERS * 3), 3)

  constructor() {
    const fan = Array.from({ length: MOST_CORNERS - 2 }, (_, i) => [0, i + 1, i + 2]).flat()
    this.geometry.setAttribute('position', this.places)
    this.geometry.setIndex(fan)
  }

  set(corners: readonly Place[]): void {
    corners.forEach(([x, y], i) => this.places.setXY(i, x, y))
    this.places.needsUpdate = true
    this.geometry.setDrawRange(0, Math.max(0, corners.length - 2) * 3)
  }

  dispose(): void {
    this.geometry.dispose()
  }
}
/** A box, and its shadow. */
const MOST_CORNERS = 16
