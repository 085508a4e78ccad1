import { describe, expect, it } from 'vitest'
import { greenOf, normalsOfPictures, type NormalSource } from '#core/dense/normalPicture'
import { exrPicture } from '#core/exchange/readExr'
import { readPicture, type Picture } from '#core/evaluate/pictures'
import type { Mesh } from '#core/mesh/mesh'
import { encode } from 'fast-png'
import { readNormals } from '../../node/bake/readPicture'
import { compressor, tangents } from '../../node/bake/compress'
import { kernels } from '../helpers'

type Vector = [number, number, number]
const unit = (v: readonly number[]): Vector => {
  const length = Math.hypot(...v)
  return v.map(x => x / length) as Vector
}
const cross = (a: Vector, b: Vector): Vector => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
]

/**
 * Quads that stand in space by their right and upper sides; their UVs fill a quarter of the tile each, laid as is said.
 */
function quads(list: { right: Vector; up: Vector; lay: (s: number, t: number) => [number, number] }[]): Mesh {
  const positions: number[] = []
  const normals: number[] = []
  const uvs: number[] = []
  const indices: number[] = []
  list.forEach(({ right, up, lay }, i) => {
    const normal = cross(right, up)
    for (const [s, t] of [
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ] as const) {
      positions.push(...[0, 1, 2].map(k => right[k]! * s + up[k]! * t + (k === 0 ? i * 3 : 0)))
      normals.push(...normal)
      const [u, v] = lay(s, t)
      uvs.push((u * 0.9 + 0.05 + (i % 2)) / 2, (v * 0.9 + 0.05 + (i >> 1)) / 2)
    }
    const base = i * 4
    indices.push(base, base + 1, base + 2, base, base + 2, base + 3)
  })
  return {
    positions: Float32Array.from(positions),
    normals: Float32Array.from(normals),
    uvs: Float32Array.from(uvs),
    indices: Uint32Array.from(indices),
    objects: list.map((_, i) => ({
      name: `quad ${i}`,
      firstTriangle: i * 2,
      triangles: 2,
      firstVertex: i * 4,
      vertices: 4,
    })),
    materials: list.map((_, i) => ({ name: `coat ${i}`, firstTriangle: i * 2, triangles: 2 })),
    maps: [],
    warnings: [],
  }
}
const right = unit([1, 2, -0.5])
const up = unit(cross(cross(right, [0, 1, 0]), right))
const normal = cross(right, up)
/**
 * Where right and up run in the picture, in each quad: upright, turned by a quarter, mirrored. The fourth has no
 * picture.
 */
const laid = quads([
  { right, up, lay: (s, t) => [s, 1 - t] },
  { right, up, lay: (s, t) => [t, s] },
  { right, up, lay: (s, t) => [1 - s, 1 - t] },
  { right, up, lay: (s, t) => [s, 1 - t] },
])

const flat = (rgb: Vector): Picture => ({
  name: 'flat',
  width: 1,
  height: 1,
  data: Uint8Array.of(...rgb.map(x => Math.round((x * 0.5 + 0.5) * 255)), 255),
})
const bent = unit([0.4, 0.25, 0.8])
const sources = (more: Partial<NormalSource> = {}): NormalSource[] =>
  [0, 1, 2].map(i => ({ picture: flat(bent), green: 'up' as const, material: `coat ${i}`, ...more }))

function facing(list: readonly NormalSource[]): Vector[] {
  const bytes = normalsOfPictures(kernels.texels, laid, list, 64, tangents, compressor)
  const picture = exrPicture('n.exr', bytes)
  const reading = { linear: true, across: 'edge', down: 'edge', nearest: true } as const
  return [0, 1, 2, 3].map(
    i => [0, 1, 2].map(k => readPicture(picture, k, reading, 0.25 + (i % 2) / 2, 0.25 + (i >> 1) / 2)) as Vector,
  )
}
/** What a normal of the picture is in space where its red grows along one direction and its green along another. */
const inSpace = (red: Vector, greens: Vector, n: Vector): Vector =>
  unit([0, 1, 2].map(k => red[k]! * n[0] + greens[k]! * n[1] + normal[k]! * n[2]))
/** A plain picture of one normal as a PNG file of some bits to a number, read back. */
const through = (n: Vector, depth: 8 | 16) => {
  const most = 2 ** depth - 1
  const numbers = [...n.map(x => Math.round(((x + 1) / 2) * most)), most]
  const data = depth === 16 ? Uint16Array.from(numbers) : Uint8Array.from(numbers)
  return readNormals('n.png', encode({ width: 1, height: 1, data, channels: 4, depth }))
}
it('are read with all of their bits', () => {
  // A slope of a thousandth is lost in 8 bits, and right to a hundredth of itself in 16.
  const n = unit([0.001, 0, 1])
  expect(Math.abs((through(n, 16).data[0]! * 2 - 1) / n[0] - 1)).toBeLessThan(0.02)
  expect(through(n, 16).data).toBeInstanceOf(Float32Array)
  expect(through(n, 8).data).toEqual(Uint8Array.of(128, 128, 255, 255))
})
const minus = (v: Vector): Vector => v.map(x => -x) as Vector
const near = (got: Vector, want: Vector) => got.forEach((x, k) => expect(x).toBeCloseTo(want[k]!, 2))

describe('Pictures of normals', () => {
  it('are turned with the island that they lie on, also where it is mirrored', () => {
    const [upright, quarter, mirrored, bare] = facing(sources())
    near(upright!, inSpace(right, up, bent))
    // u grows with up, and v, which runs down, with right.
    near(quarter!, inSpace(up, minus(right), bent))
    near(mirrored!, inSpace(minus(right), up, bent))
    near(bare!, normal)
  })
  it('may have green down, and be weaker or stronger', () => {
    near(facing(sources({ green: 'down' }))[0]!, inSpace(right, up, [bent[0], -bent[1], bent[2]]))
    near(facing(sources({ strength: 0.5 }))[0]!, inSpace(right, up, [bent[0] / 2, bent[1] / 2, bent[2]]))
  })
  it('tell by themselves which way green grows', () => {
    const size = 24
    const bumps = (down: boolean): Picture => {
      const data = new Uint8Array(size * size * 4)
      const height = (x: number, y: number) => Math.sin(x * 0.7 + y * 0.4) + Math.cos(x * 0.3 - y * 0.8)
      for (let y = 0; y < size; y++) {
        for (let x = 0; x < size; x++) {
          const rise = height(x + 0.5, y) - height(x - 0.5, y)
          // Rows run down.
          const upward = height(x, y - 0.5) - height(x, y + 0.5)
          const n = unit([-rise, down ? upward : -upward, 1])
          data.set([...n.map(c => Math.round((c * 0.5 + 0.5) * 255)), 255], (y * size + x) * 4)
        }
      }
      return { name: 'bumps', width: size, height: size, data }
    }
    expect(greenOf(bumps(false))).toBe('up')
    expect(greenOf(bumps(true))).toBe('down')
    expect(greenOf({ name: 'even', width: 8, height: 8, data: new Uint8Array(256).fill(128) })).toBeUndefined()
  })
})
