import fc from 'fast-check'
import { PerspectiveCamera } from 'three'
import { describe, expect, it } from 'vitest'
import { paintOfMesh, plainView, type OfMesh } from '#core/evaluate/ofMesh'
import { rasterize } from '#core/evaluate/rasterize'
import { GROUND, GROUND_PART, SEEN_WORDS } from '#core/evaluate/visible'
import { lineOf } from '../../app/stage/sightline'
import { boxes, kernels, tablesOf } from '../helpers'

const SIZE = 24
/** A camera at a place, looking at another. */
function cameraAt(from: readonly [number, number, number], to: readonly [number, number, number]): PerspectiveCamera {
  const camera = new PerspectiveCamera(40, 1, 0.05, 50)
  camera.position.set(...from)
  camera.lookAt(...to)
  camera.updateMatrixWorld()
  return camera
}
// Two boxes side by side, one part and six patches each.
const tables = await tablesOf(boxes([-1, 1].map(x => ({ object: 'crate', at: [x, 0, 0] }))))
const { mesh, parts } = tables

function told(camera: PerspectiveCamera, what: OfMesh): { seen: Uint32Array; lanes: Float32Array } {
  const line = lineOf(camera, SIZE, SIZE)
  const seen = rasterize(kernels, mesh, parts.partOfTriangle, line, { first: 0, rows: SIZE })
  return { seen, lanes: paintOfMesh(seen, mesh, parts, what, plainView(line)) }
}
const pixelsOf = (seen: Uint32Array): number[] =>
  Array.from({ length: SIZE * SIZE }, (_, i) => i).filter(i => seen[i * SEEN_WORDS]!)

/** Where the surface is at a pixel, by the words of the surface pass. */
function placeAt(seen: Uint32Array, pixel: number, axis: number): number {
  const words = seen.slice(pixel * SEEN_WORDS, pixel * SEEN_WORDS + SEEN_WORDS)
  const [, v, w] = new Float32Array(words.buffer)
  const corner = (k: number) => mesh.positions[mesh.indices[(words[0]! - 1) * 3 + k]! * 3 + axis]!
  return corner(0) * (1 - v! - w!) + corner(1) * v! + corner(2) * w!
}

describe('what is told of the mesh itself at what is seen', () => {
  const camera = cameraAt([2, 1.5, 5], [0, 0, 0])

  it('has the value of a vertex map between the corners, the way and the part', () => {
    const heights = Float32Array.from({ length: mesh.positions.length / 3 }, (_, v) => mesh.positions[v * 3 + 1]!)
    const { seen, lanes } = told(camera, { kind: 'values', values: heights })
    const pixels = pixelsOf(seen)
    expect(pixels.length).toBeGreaterThan(60)
    const floats = new Float32Array(seen.buffer)
    for (const pixel of pixels) {
      expect(lanes[pixel * 4]).toBeCloseTo(placeAt(seen, pixel, 1), 5)
      expect(lanes[pixel * 4 + 1]).toBe(floats[pixel * SEEN_WORDS + 3])
      expect(lanes[pixel * 4 + 3]).toBe(placeAt(seen, pixel, 0) < 0 ? 1 : 2)
    }
    const empty = pixels.length < SIZE * SIZE ? seen.findIndex((w, i) => i % SEEN_WORDS === 0 && w === 0) : -1
    expect([...lanes.slice(empty, empty + 4)]).toEqual([0, 0, 0, 0])
  })

  it('has the UVs, and the number of the patch', () => {
    const at = told(camera, { kind: 'uv' })
    const patch = told(camera, { kind: 'patch' })
    for (const pixel of pixelsOf(at.seen)) {
      const words = at.seen.slice(pixel * SEEN_WORDS, pixel * SEEN_WORDS + SEEN_WORDS)
      const [, v, w] = new Float32Array(words.buffer)
      const corner = (k: number, lane: number) => mesh.uvs![mesh.indices[(words[0]! - 1) * 3 + k]! * 2 + lane]!
      const mix = (lane: number) => corner(0, lane) * (1 - v! - w!) + corner(1, lane) * v! + corner(2, lane) * w!
      expect(at.lanes[pixel * 4]).toBeCloseTo(mix(0), 5)
      expect(at.lanes[pixel * 4 + 2]).toBeCloseTo(mix(1), 5)
      expect(patch.lanes[pixel * 4]).toBe(parts.patchOfTriangle[words[0]! - 1])
    }
  })

  it('is lit from over the left shoulder of the camera, wherever that is, and from both sides', () => {
    // Straight at a face: its normal is the way back, so the light is what the shoulder has of it.
    const straight = 0.85 / Math.hypot(0.3, 0.5, 0.85)
    const looks = [
      cameraAt([1, 0, 4], [1, 0, 0]),
      cameraAt([1, 0, -4], [1, 0, 0]),
      cameraAt([5, 0, 0], [1, 0, 0]),
      // From inside of the box.
      cameraAt([1, 0, 0], [1, 0, 1]),
    ]
    for (const look of looks) {
      const { lanes } = told(look, { kind: 'part' })
      const middle = (SIZE / 2) * SIZE + SIZE / 2
      expect(lanes[middle * 4 + 3]).toBe(2)
      expect(lanes[middle * 4 + 2]).toBeCloseTo(straight, 5)
    }
    // The light comes from the left: a face turned that way is brighter than one turned to the right.
    const onto = (x: number): number => {
      const { lanes, seen } = told(cameraAt([1 + x, 0, 3], [1, 0, 0.5]), { kind: 'part' })
      const side = pixelsOf(seen).find(p => Math.abs(placeAt(seen, p, 0) - (1 + Math.sign(x) * 0.5)) < 1e-4)!
      return lanes[side * 4 + 2]!
    }
    // Seen from the left, the left face is turned to the left in the picture, and the other way round.
    expect(onto(-3)).toBeGreaterThan(onto(3) + 0.2)
  })

  it('stays between 0 and 1 from everywhere', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 6.28, noNaN: true }),
        fc.double({ min: -1.4, max: 1.4, noNaN: true }),
        (a, b) => {
          const from = [4 * Math.cos(a) * Math.cos(b), 4 * Math.sin(b), 4 * Math.sin(a) * Math.cos(b)] as const
          const { lanes, seen } = told(cameraAt(from, [0, 0, 0]), { kind: 'part' })
          for (const pixel of pixelsOf(seen)) {
            const light = lanes[pixel * 4 + 2]!
            expect(light >= 0 && light <= 1).toBe(true)
          }
        },
      ),
      { numRuns: 30 },
    )
  })

  it('tells the ground from the mesh and from nothing', () => {
    const seen = Uint32Array.of(GROUND, 0, 0, 0x40a00000)
    const view = { eye: [0, 0, 0, 1], light: [0, 0, 1] } as const
    expect([...paintOfMesh(seen, mesh, parts, { kind: 'part' }, view)]).toEqual([0, 5, 0, GROUND_PART])
  })
})
