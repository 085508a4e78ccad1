import fc from 'fast-check'
import { Matrix4, OrthographicCamera, PerspectiveCamera, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { TILE } from '#core/evaluate/painter'
import type { Box } from '#core/mesh/mesh'
import { Area, groundArea, leftOf, toClipOf, type Place } from '../../app/stage/groundArea'
import { Tiles } from '../../app/stage/tiles'

const BOX: Box = { min: [-1, 0, -0.5], max: [2, 1.5, 0.5] }
const share = fc.double({ min: 0, max: 1, noNaN: true })
const triple = fc.tuple(share, share, share)

function cameraAt(turn: number, up: number, away: number): PerspectiveCamera {
  const camera = new PerspectiveCamera(40, 1.4, 0.01, 1000)
  camera.position.set(Math.sin(turn) * away, 0.3 + up * away, Math.cos(turn) * away)
  camera.lookAt(0.5, 0.5, 0)
  camera.updateMatrixWorld()
  return camera
}
const isInside = (place: Place, area: readonly Place[]): boolean =>
  area.every((b, k) => leftOf(area.at(k - 1)!, b, place) >= -1e-6)
function placeOf(point: Vector3, toClip: Matrix4): Place {
  const { x, y } = point.clone().applyMatrix4(toClip)
  return [x, y]
}

describe('where the ground can be dark', () => {
  it('holds all shadows of the mesh, and all that is near it', () => {
    fc.assert(
      fc.property(triple, triple, share, share, share, (inBox, around, turn, up, height) => {
        const camera = cameraAt(turn * 6.28, up, 12)
        const from = new Vector3(Math.cos(turn * 9), 0.25 + height, Math.sin(turn * 9)).normalize()
        const toClip = toClipOf(camera)
        const margin = 0.2
        const area = groundArea(toClip, BOX, margin, from)
        if (!area) return
        const off = around.map(x => (x - 0.5) * 2 * margin)
        const point = new Vector3(
          ...(inBox.map((x, k) => BOX.min[k]! + x * (BOX.max[k]! - BOX.min[k]!) + off[k]!) as [number, number, number]),
        )
        const fallen = point.clone().addScaledVector(from, -point.y / from.y)
        expect(isInside(placeOf(point, toClip), area)).toBe(true)
        expect(isInside(placeOf(fallen, toClip), area)).toBe(true)
      }),
    )
  })

  it('is a part of the picture only, and without shadows a smaller one', () => {
    const toClip = toClipOf(cameraAt(0.4, 0.5, 14))
    const size = (area: readonly Place[]): number =>
      area.reduce((sum, [x, y], k) => sum + (area.at(k - 1)![0] * y - x * area.at(k - 1)![1]) / 2, 0)
    const near = groundArea(toClip, BOX, 0.1)!
    const both = groundArea(toClip, BOX, 0.1, new Vector3(0.8, 0.5, 0.2).normalize())!
    expect(size(near)).toBeGreaterThan(0.02)
    expect(size(both)).toBeGreaterThan(size(near) * 1.2)
    expect(size(both)).toBeLessThan(4)
    // Light from below throws no shadow onto the ground.
    expect(groundArea(toClip, BOX, 0.1, new Vector3(0, -1, 0))).toEqual(near)
  })

  it('may be anywhere where the eye is amid the mesh, or light comes from the horizon', () => {
    const amid = new PerspectiveCamera(40, 1, 0.01, 100)
    amid.position.set(0.5, 0.5, 0)
    amid.updateMatrixWorld()
    expect(groundArea(toClipOf(amid), BOX, 0.1)).toBeUndefined()
    expect(groundArea(toClipOf(cameraAt(0, 0.5, 14)), BOX, 0.1, new Vector3(1, 0.01, 0).normalize())).toBeUndefined()
    const straight = new OrthographicCamera(-5, 5, 5, -5, 0, 50)
    straight.position.set(0.5, 20, 0)
    straight.lookAt(0.5, 0, 0)
    straight.updateMatrixWorld()
    const area = groundArea(toClipOf(straight), BOX, 0)!
    const across = area.map(p => p[0])
    expect([Math.min(...across), Math.max(...across)].map(x => Number(x.toFixed(5)))).toEqual([-0.3, 0.3])
  })

  it('is drawn as triangles that cover it once', () => {
    const corners: Place[] = [
      [0, 0],
      [1, 0],
      [1.5, 1],
      [0.5, 2],
      [-0.5, 1],
    ]
    const area = new Area()
    area.set(corners)
    const { position } = area.geometry.attributes
    const index = area.geometry.index!
    let covered = 0
    for (let t = 0; t < area.geometry.drawRange.count; t += 3) {
      const [a, b, c] = [0, 1, 2].map((k): Place => [
        position!.getX(index.getX(t + k)),
        position!.getY(index.getX(t + k)),
      ])
      const twice = leftOf(a!, b!, c!)
      expect(twice).toBeGreaterThan(0)
      covered += twice / 2
    }
    expect(covered).toBeCloseTo(2.5, 6)
  })

  it('contacts are looked for where there is surface, and within the area around it', () => {
    const tiles = new Tiles(TILE * 5, TILE)
    tiles.add({ first: 0, across: 5, marks: Uint8Array.of(2, 2, 1, 2, 2) })
    const squares = (within?: Place[]): number => tiles.near(1, within).getAttribute('position').count / 6
    expect(squares()).toBe(3)
    // To the right of the middle: the square on the left has nothing of it.
    const right: Place[] = [
      [0.1, -1],
      [1, -1],
      [1, 1],
      [0.1, 1],
    ]
    expect(squares(right)).toBe(2)
    const left = right.map(([x, y]): Place => [-x, y]).toReversed()
    expect(squares(left)).toBe(2)
    const middle = right.map(([, y], k): Place => [k % 3 ? 0.1 : -0.1, y])
    expect(squares(middle)).toBe(1)
  })
})
