import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { LaidLook } from '#core/evaluate/laidLook'
import { lanesOf } from '#core/bake/lanes'
import { rasterizeTile } from '#core/bake/raster'
import { decodeSrgb } from '#core/color/convert'
import { footprintsOf, pixelSizeOf, SHARPEST } from '#core/evaluate/footprints'
import { LoneEvaluator } from '#core/evaluate/loneEvaluator'
import { readPicture, type Picture } from '#core/evaluate/pictures'
import { pyramidOf, readOver } from '#core/evaluate/pyramid'
import type { Look } from '#core/graph/look'
import type { ParamValue } from '#core/nodes/declare'
import { pointSet, type Footprint } from '#core/mesh/sample'
import { uvDensities } from '#core/mesh/uvs'
import { lower, reader, refsOf } from '#core/program/lower'
import { plan } from '#core/program/plan'
import { kernels, lookOf, row, tablesOf } from '../helpers'

const RAW = { linear: true, across: 'repeat', down: 'repeat', nearest: false } as const
const bytes = (width: number, height: number, value: (x: number, y: number, lane: number) => number): Picture => ({
  name: 'p.png',
  width,
  height,
  data: Uint8Array.from({ length: width * height * 4 }, (_, i) =>
    value((i >> 2) % width, Math.floor((i >> 2) / width), i % 4),
  ),
})
/** Squares of one texel, black and white. */
const checkers = bytes(64, 64, (x, y, lane) => (lane === 3 || (x + y) % 2 ? 255 : 0))

describe('Pictures seen from afar', () => {
  it('keep their mean, whatever their sides', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 23 }), fc.integer({ min: 1, max: 23 }), fc.integer(), (w, h, seed) => {
        const data = Float32Array.from({ length: w * h }, (_, i) => ((i * 7919 + seed) % 1009) / 1009)
        const levels = pyramidOf({ name: 'n.exr', width: w, height: h, lanes: 1, data }, true)
        const mean = (list: ArrayLike<number>) => Array.from(list).reduce((a, b) => a + b, 0) / list.length
        expect(levels.at(-1)).toMatchObject({ width: 1, height: 1 })
        levels.slice(1).forEach((level, i) => {
          const before = levels[i]!
          expect(level.width).toBe(Math.max(1, before.width >> 1))
          expect(level.height).toBe(Math.max(1, before.height >> 1))
          expect(mean(level.data)).toBeCloseTo(mean(before.data), 5)
        })
      }),
      { numRuns: 40 },
    )
  })

  it('are the mean of light where they hold colors, and of numbers where they hold data', () => {
    const last = (linear: boolean) => pyramidOf(checkers, linear).at(-1)!.data[0]!
    expect(last(true)).toBe(128)
    expect(decodeSrgb(last(false) / 255)).toBeCloseTo(0.5, 2)
    expect(pyramidOf(checkers, true)).toBe(pyramidOf(checkers, true))
  })

  it('are read at the size of what is seen, with no step between two sizes', () => {
    const at = (over: number) => readOver(checkers, 0, RAW, 0.3, 0.7, over, over)
    expect(at(0)).toBe(readPicture(checkers, 0, RAW, 0.3, 0.7))
    expect(at(1 / 64)).toBe(at(0))
    expect(at(2 / 64)).toBeCloseTo(0.5, 2)
    expect(at(-2 / 64)).toBe(at(2 / 64))
    expect(at(100)).toBeCloseTo(0.5, 2)
    for (let over = 0.5 / 64; over < 2; over *= 1.02) expect(Math.abs(at(over) - at(over * 1.02))).toBeLessThan(0.02)
    // The wider of both ways counts.
    expect(readOver(checkers, 0, RAW, 0.3, 0.7, 0, 2 / 64)).toBe(at(2 / 64))
    expect(readOver({ ...checkers, covers: [0, 0, 2, 2] }, 0, RAW, 0.6, 1.4, 4 / 64, 0)).toBeCloseTo(at(2 / 64), 5)
  })
})

describe('How wide the surface is that a point stands for', () => {
  const mesh = row(1)
  const tables = { ...tablesOf(mesh), pictures: [checkers] }
  const densities = uvDensities(mesh)

  it('is as long in UV as its triangle is laid out', () => {
    // A box of one meter whose faces are rectangles in UV: the mean of both sides, one times the other.
    const { uvs, indices, positions } = mesh
    const apart = (list: Float32Array, n: number, a: number, b: number) =>
      Math.hypot(...Array.from({ length: n }, (_, k) => list[a * n + k]! - list[b * n + k]!))
    const [a, b, c] = indices as unknown as [number, number, number]
    const along = (p: number, q: number) => apart(uvs!, 2, p, q) / apart(positions, 3, p, q)
    expect(densities[0]).toBeCloseTo(Math.sqrt(along(a, b) * along(b, c)), 5)
    expect(densities[0]).toBeGreaterThan(0.01)
  })

  it('grows with the way from the eye, and where it is seen at an angle', () => {
    // A camera at (0, 0, 3) that looks along −z, 90 degrees high and wide, 100 pixels.
    const view = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, -3, 1]
    const clip = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, -1, -1, 0, 0, 2.8, 3]
    const size = pixelSizeOf({ clip, view, width: 100 })
    expect(size).toEqual({ perDepth: 0.02, fixed: 0, eye: [0, 0, 3, 1] })
    expect(pixelSizeOf({ clip, view, width: 25 }, 4)).toEqual(size)
    // The last of sixteen pictures stands for a sixteenth of each pixel.
    expect(pixelSizeOf({ clip, view, width: 100 }, 1, 15)).toEqual({ ...size, perDepth: 0.005 })
    const flat = {
      positions: Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0),
      normals: Float32Array.of(0, 0, 1, 0, 0, 1, 0, 0, 1),
      indices: Uint32Array.of(0, 1, 2),
    }
    const one = pointSet(1)
    const seen = (normal: number[]) =>
      footprintsOf(
        { ...flat, normals: Float32Array.from([0, 0, 0].flatMap(() => normal)) },
        one,
        Float32Array.of(3),
        size,
      )[0]
    expect(seen([0, 0, 1])).toBeCloseTo(0.06, 6)
    expect(seen([Math.sqrt(3) / 2, 0, -0.5])).toBeCloseTo(0.06 * Math.SQRT2, 5)
    expect(seen([1, 0, 0])).toBeCloseTo(0.06 / Math.sqrt(SHARPEST), 5)
    // Without perspective it is the same everywhere.
    const parallel = [0.5, 0, 0, 0, 0, 0.5, 0, 0, 0, 0, -1, 0, 0, 0, 0, 1]
    expect(pixelSizeOf({ clip: parallel, view, width: 100 })).toEqual({ perDepth: 0, fixed: 0.04, eye: [0, 0, 1, 0] })
  })

  const value = (params: Record<string, ParamValue>, footprint?: Footprint): number => {
    const look: Look = lookOf({ p: ['picture', { picture: 'p.png', space: 'linear', ...params }] }, [])
    const program = lower(look, [])
    const roots = refsOf(program.outputs.get('picture1/red')!)
    const evaluator = new LoneEvaluator(kernels, plan(program, roots), tables)
    const one = { ...pointSet(1), ...(footprint && { footprint }) }
    one.u[0] = 0.31
    one.v[0] = 0.17
    const columns = roots.map(() => new Float32Array(1))
    evaluator.refresh(reader(look))
    evaluator.evaluate(one, columns)
    return columns[0]![0]!
  }
  const meters = (x: number): Footprint => ({ meters: () => Float32Array.of(x) })

  it('is what a picture is read over, on the UVs and in space, unless the nearest texel is asked for', () => {
    const [at] = [value({})]
    expect(value({}, { uv: 1 / 64 })).toBe(at)
    expect(value({}, { uv: 8 / 64 })).toBeCloseTo(0.5, 2)
    expect(value({}, meters(8 / 64 / densities[0]!))).toBeCloseTo(value({}, { uv: 8 / 64 }), 4)
    // A picture that is repeated four times is a quarter as large.
    expect(value({ width: 25, height: 25 }, { uv: 2 / 64 })).toBeCloseTo(0.5, 2)
    expect(value({ between: 'nearest' }, { uv: 8 / 64 })).toBe(value({ between: 'nearest' }))
    const planar = { sits: 'planar', width: 100, height: 100 }
    expect(value(planar, meters(0.001))).toBe(value(planar))
    expect(value(planar, meters(8 / 64))).toBeCloseTo(0.5, 2)
  })

  it('is a texel where something is baked', () => {
    const look = lookOf({ p: ['picture', { picture: 'p.png', space: 'linear' }], f: ['finish'] }, [
      'p.red > f.roughness',
      'f.finish > result.finish',
    ])
    const program = lower(look, [])
    const lanes = lanesOf(new LaidLook(kernels, tables, program, reader(look)), ['roughness'])
    const baked = (size: number) => {
      const [column] = lanes.at(rasterizeTile(kernels.texels, mesh, size).points)
      return [Math.min(...column!), Math.max(...column!)]
    }
    // At a quarter of the picture's size each texel holds sixteen squares; at its own every square is itself.
    for (const x of baked(16)) expect(x).toBeCloseTo(0.5, 2)
    expect(baked(64).map(x => Number(x.toFixed(5)))).toEqual([0, 1])
  })
})
