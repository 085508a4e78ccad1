import fc from 'fast-check'
import { PerspectiveCamera, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { distanceFor, firstSide } from '#core/mesh/framing'
import type { Box } from '#core/mesh/mesh'

const boxOf = (wide: number, tall: number, deep: number): Box => ({
  min: [7, 1, -3],
  max: [7 + wide, 1 + tall, deep - 3],
})
/** Degrees above the horizon. */
const above = (box: Box): number => (Math.asin(firstSide(box)[1]) * 180) / Math.PI

describe('a mesh is looked at for the first time', () => {
  it('from a little above where it stands, and from the farther above the flatter it lies', () => {
    expect(above(boxOf(1, 2, 1))).toBeCloseTo(8.7, 1)
    expect(above(boxOf(1, 0.6, 1))).toBeCloseTo(8.7, 1)
    expect(above(boxOf(5, 1.5, 1))).toBeCloseTo(22.5, 1)
    expect(above(boxOf(1, 1.5, 5))).toBeCloseTo(22.5, 1)
    expect(above(boxOf(4, 0, 2))).toBeCloseTo(34.1, 1)
  })
  it('from the front and a little right', () => {
    const [x, , z] = firstSide(boxOf(4, 0.1, 2))
    expect(x / z).toBeCloseTo(0.32, 6)
    expect(z).toBeGreaterThan(0)
  })
  it('so that all of it is in view, and no smaller than the picture has room for', () => {
    const side = fc.double({ min: 0.01, max: 50, noNaN: true })
    const shape = fc.record({
      wide: side,
      tall: side,
      deep: side,
      aspect: fc.double({ min: 0.3, max: 3, noNaN: true }),
    })
    fc.assert(
      fc.property(shape, ({ wide, tall, deep, aspect }) => {
        const box = boxOf(wide, tall, deep)
        const middle = new Vector3(...box.min).lerp(new Vector3(...box.max), 0.5)
        const camera = new PerspectiveCamera(32, aspect, 1e-4, 1e4)
        const way = new Vector3(...firstSide(box))
        camera.position.copy(middle).addScaledVector(way, distanceFor(box, firstSide(box), 32, aspect))
        camera.lookAt(middle)
        camera.updateMatrixWorld()
        const corners = [0, 1, 2, 3, 4, 5, 6, 7].map(i =>
          new Vector3(...[0, 1, 2].map(k => ((i >> k) & 1 ? box.max : box.min)[k]!)).project(camera),
        )
        const farthest = Math.max(...corners.flatMap(c => [Math.abs(c.x), Math.abs(c.y)]))
        expect(farthest).toBeCloseTo(0.94, 3)
      }),
    )
  })
})
