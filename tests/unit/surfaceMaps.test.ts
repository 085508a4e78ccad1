import { describe, expect, it } from 'vitest'
import { LaidLook } from '#core/evaluate/laidLook'
import { lanesOf } from '#core/bake/lanes'
import { curvatureOfNormals } from '#core/dense/curvature'
import { occlusionOfPictures } from '#core/dense/occlusionPicture'
import type { LaidPicture } from '#core/dense/laidPicture'
import { exrPicture } from '#core/exchange/readExr'
import { readPicture, type Picture } from '#core/evaluate/pictures'
import { checkValues } from '#core/evaluate/checks'
import { Workpiece } from '#core/evaluate/workpiece'
import { readSurfaceMap, surfaceValue } from '#core/evaluate/surfaceReading'
import { lanesIn, picturesOf } from '#core/evaluate/visible'
import { check } from '#core/graph/check'
import { setParam } from '#core/graph/edit'
import type { Look } from '#core/graph/look'
import { still } from '#core/light/still'
import { findParts } from '#core/mesh/parts'
import { emptyPreparation, parsePreparation, type Preparation } from '#core/mesh/preparation'
import { samplePoints, pointSet, type SurfacePoints } from '#core/mesh/sample'
import { lower } from '#core/program/lower'
import { compressor } from '../../node/bake/compress'
import { at, kernels, lookOf, row, square, tablesOf } from '../helpers'

const PLAIN = { linear: true, across: 'edge', down: 'edge', nearest: true } as const

const tables = (...pictures: Picture[]) => ({ ...tablesOf(square), pictures })
/** Numbers on the square, by its place in meters, x to the right and y up. */
function numbers(name: string, size: number, value: (x: number, y: number) => number | number[]): Picture {
  const list = Array.from({ length: size * size }, (_, i) =>
    value(((i % size) + 0.5) / size, 1 - (Math.floor(i / size) + 0.5) / size),
  )
  if (typeof list[0] === 'number')
    return { name, width: size, height: size, lanes: 1, data: Float32Array.from(list as number[]) }
  return { name, width: size, height: size, data: Float32Array.from((list as number[][]).flatMap(v => [...v, 1])) }
}
const plainLook = lookOf({ f: ['finish'] }, ['f.finish > result.finish'])
const rises = (millimeters: number) =>
  lookOf({ g: ['positionGradient', { axis: 'X', space: 'mesh' }], f: ['finish', { heightScale: millimeters }] }, [
    'g.value > f.height',
    'f.finish > result.finish',
  ])
const on = (look: Look, laid: Record<string, string>): Look =>
  Object.entries(laid).reduce((l, [param, name]) => setParam(l, 'result', param, name), look)
const middle = (): SurfacePoints => {
  const one = pointSet(1)
  one.u[0] = 0.25
  one.v[0] = 0.25
  return one
}
function lane(look: Look, names: string[], ...pictures: Picture[]): number[] {
  return lanesOf(LaidLook.of(kernels, tables(...pictures), look), names)
    .at(middle())
    .map(c => c[0]!)
}

describe('Curvature of a picture of normals', () => {
  const radius = 0.1
  const { texels } = kernels
  const found = (bend: number, across: boolean) => {
    // A cylinder's normals, or a ball's, near the middle: they turn by the way from there over the radius.
    const normals = numbers('n', 64, (x, y) => {
      const n = [bend * (x - 0.5), across ? bend * (y - 0.5) : 0, 1]
      return n.map(v => v / Math.hypot(...n))
    })
    const made = curvatureOfNormals(texels, { mesh: square, parts: findParts(square) }, normals, radius, compressor)
    return [made.convexity, made.concavity].map(bytes => readPicture(exrPicture('c.exr', bytes), 0, PLAIN, 0.5, 0.5))
  }
  const standsOut = (q: number) => (2 * q) / (1 + q * q)
  it('is that of a ball and of a cylinder, outward and inward', () => {
    // Mean curvature of a ball of radius 1 / 4 is 4, of such a cylinder 2.
    expect(found(4, true)).toEqual([expect.closeTo(standsOut(4 * radius), 2), 0])
    expect(found(4, false)).toEqual([expect.closeTo(standsOut(2 * radius), 2), 0])
    expect(found(-4, true)).toEqual([0, expect.closeTo(standsOut(4 * radius), 2)])
    expect(found(0, true)).toEqual([0, 0])
    expect(found(40, true)).toEqual([1, 0])
  })
})

describe('What a look lies on', () => {
  const high = numbers('high.exr', 8, () => 3)
  const flat = numbers('flat.exr', 8, () => [0, 0, 1])

  it('is part of the height that leaves, and of the slope where no normals say it already', () => {
    const slope = numbers('slope.exr', 64, x => 1000 * x)
    expect(lane(rises(10), ['height'])).toEqual([expect.closeTo(5, 3)])
    expect(lane(on(rises(10), { heights: 'high.exr' }), ['height'], high)).toEqual([expect.closeTo(8, 3)])
    // Nothing of its own, and still a height.
    expect(lane(on(plainLook, { heights: 'high.exr' }), ['height'], high)).toEqual([expect.closeTo(3, 5)])
    expect(lower(on(plainLook, { heights: 'high.exr' }), []).sets.has('height')).toBe(true)
    // A meter over a meter is 45 degrees.
    const [x, , z] = lane(on(plainLook, { heights: 'slope.exr' }), ['normal.x', 'normal.y', 'normal.z'], slope)
    expect([x, z]).toEqual([expect.closeTo(-Math.SQRT1_2, 2), expect.closeTo(Math.SQRT1_2, 2)])
    const both = on(plainLook, { heights: 'slope.exr', normals: 'flat.exr' })
    expect(lane(both, ['normal.x', 'height'], slope, flat)).toEqual([expect.closeTo(0, 5), expect.closeTo(500, 0)])
  })

  it("is the mesh's own where its preparation names a picture, unless the look names another", () => {
    const leaning = numbers('leaning.exr', 8, () => [0.6, 0, 0.8])
    const normalOn = (look: Look, preparation: Preparation) => {
      const piece = new Workpiece(square, preparation)
      piece.setPictures([leaning, flat])
      const names = ['normal.x', 'normal.y', 'normal.z']
      const baked = lanesOf(LaidLook.of(kernels, piece.tables, look), names).at(middle())
      return baked.map(c => c[0]!)
    }
    const own = { ...emptyPreparation(), normals: 'leaning.exr' }
    const near = (n: readonly number[]) => n.map(x => expect.closeTo(x, 5) as number)
    expect(normalOn(plainLook, emptyPreparation())).toEqual(near([0, 0, 1]))
    expect(normalOn(plainLook, own)).toEqual(near([0.6, 0, 0.8]))
    expect(normalOn(on(plainLook, { normals: 'flat.exr' }), own)).toEqual(near([0, 0, 1]))
    expect(parsePreparation(JSON.parse(JSON.stringify(own)))).toEqual(own)
    const piece = new Workpiece(square, own)
    piece.apply(emptyPreparation())
    expect(piece.tables.mesh.ownNormals).toBeUndefined()
  })

  it("says where the project does not have the picture of the mesh's own normals", () => {
    const piece = new Workpiece(square, { ...emptyPreparation(), normals: 'gone.exr' })
    const said = (look: Look) => checkValues(kernels, piece.tables, look).map(f => f.message)
    expect(said(plainLook)).toEqual([expect.stringMatching(/normals of "gone.exr", and the project has no picture/)])
    piece.setPictures([flat])
    expect(said(on(plainLook, { normals: 'flat.exr' }))).toEqual([])
  })

  it('takes light from all around away, on the stage and in what leaves, but not from what shines', () => {
    const half = numbers('half.exr', 8, () => 0.25)
    const look = on(plainLook, { occlusion: 'half.exr' })
    expect(lane(look, ['occlusion'], half)).toEqual([0.25])
    expect(lane(plainLook, ['occlusion'], half)).toEqual([1])
    const program = lower(look, [])
    const pictures = picturesOf(program)
    expect(pictures).toContain('through')
    const roots = lanesIn(pictures, program, [0, 0, 0])
    expect(roots[pictures.indexOf('through') * 4 + 3]).toBe(program.closed)
    expect(picturesOf(lower(plainLook, []))).not.toContain('through')
    const seen = (l: Look) => {
      const size = { width: 32, height: 32 }
      const without = ['ground', 'shadows', 'contact'] as const
      const data = still(kernels, tables(half), l, { ...size, rig: 'overcast', background: [0, 0, 0], without })
      return data[(16 * 32 + 16) * 4]!
    }
    expect(seen(look)).toBeLessThan(seen(plainLook) * 0.75)
    const shines = (l: Look) =>
      setParam(setParam(l, 'finish1', 'sets', ['emission']), 'finish1', 'emission', [0.3, 0.3, 0.3])
    const glow = seen(shines(look))
    expect(glow).toBeGreaterThan(seen(look))
  })

  it('is one picture for all materials, at the strength of each', () => {
    const white = { name: '', width: 1, height: 1, data: Uint8Array.of(51, 0, 0, 255) }
    const laid = (more: Partial<LaidPicture>) =>
      readPicture(
        exrPicture('o.exr', occlusionOfPictures(kernels.texels, square, [{ picture: white, ...more }], 16, compressor)),
        0,
        PLAIN,
        0.5,
        0.5,
      )
    expect(laid({})).toBeCloseTo(0.2, 3)
    expect(laid({ strength: 0.5 })).toBeCloseTo(0.6, 3)
    expect(laid({ material: 'another coat' })).toBe(1)
    expect(() => laid({ uvSet: 1 })).toThrow('The mesh has no UV set 2')
  })
})

describe('Surface maps', () => {
  it('are read over the surface by area, and at a place', () => {
    const ramp = numbers('ramp.exr', 256, x => x * 4 - 1)
    const reading = readSurfaceMap(square, ramp, 0)
    expect(reading.low).toBeCloseTo(-1, 1)
    expect(reading.high).toBeCloseTo(3, 1)
    expect(reading.mean).toBeCloseTo(1, 2)
    expect(reading.shares.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 6)
    expect(Math.max(...reading.shares)).toBeLessThan(1.6 / reading.shares.length)
    // The lowest is near a vertex on the left, the highest near one on the right.
    expect([reading.lowest, reading.highest].map(v => square.positions[v * 3])).toEqual([0, 1])
    expect(surfaceValue(ramp, 0, 0.75, 0.1)).toBeCloseTo(2, 1)
    const way = numbers('way.exr', 4, (x, y) => [x, y, 1])
    expect(surfaceValue(way, 1, 0.1, 0.9)).toBeCloseTo(0.125, 5)
  })

  it('do not warn of seams, which they meet across', () => {
    const said = (picture: string) => {
      const look = lookOf({ p: ['picture', { picture }], f: ['finish'] }, [
        'p.red > f.roughness',
        'f.finish > result.finish',
      ])
      const list = [numbers(picture, 4, () => 0.5)]
      return checkValues(kernels, { ...tablesOf(row(2)), pictures: list }, look).filter(f => /seams/.test(f.message))
        .length
    }
    expect([said('paint.png'), said('dense height.exr')]).toEqual([1, 0])
  })
})

describe('Draws for parts that only the dense mesh has', () => {
  // Four quarters, each a part; their numbers are as they are taken, multiples of 2 to the power of -24.
  const NAMES = [1, 2 ** 23 + 1, 2 ** 23 + 2, 2 ** 24 - 1].map(n => n / 2 ** 24)
  const parts = numbers('parts.exr', 8, (x, y) => NAMES[Number(x > 0.5) + 2 * Number(y > 0.5)]!)
  const points = samplePoints(square, 4000)
  const byPart = (values: Float32Array): Map<number, Set<number>> => {
    const sets = new Map<number, Set<number>>()
    for (let i = 0; i < points.count; i++) {
      const { indices, positions } = square
      const t = points.triangle[i]! * 3
      const [x, y] = [0, 1].map(k => {
        const a = positions[indices[t]! * 3 + k]!
        const b = positions[indices[t + 1]! * 3 + k]!
        const c = positions[indices[t + 2]! * 3 + k]!
        return a * (1 - points.u[i]! - points.v[i]!) + b * points.u[i]! + c * points.v[i]!
      }) as [number, number]
      const quarter = Number(x > 0.5) + 2 * Number(y > 0.5)
      sets.set(quarter, (sets.get(quarter) ?? new Set()).add(values[i]!))
    }
    return sets
  }
  const drawn = (params: Record<string, unknown> = {}, port = 'value') => {
    const look = lookOf(
      { p: ['partRandom', { level: 'densePart', parts: 'parts.exr', ...params } as never], f: ['finish'] },
      ['p.value > f.roughness', 'f.finish > result.finish'],
    )
    return byPart(at(look, tables(parts), `partRandom1/${port}`, points)[0]!)
  }
  const values = (sets: Map<number, Set<number>>) => [0, 1, 2, 3].map(q => [...sets.get(q)!])

  it('are one for each, other ones for another seed, and for numbers that hardly differ', () => {
    const first = values(drawn())
    for (const own of first) expect(own).toHaveLength(1)
    expect(new Set(first.flat()).size).toBe(4)
    for (const x of first.flat()) expect(x >= 0 && x < 1).toBe(true)
    expect(values(drawn())).toEqual(first)
    for (const other of [drawn({ seed: 2 }), drawn({ offset: 1 }), drawn({}, 'second')])
      values(other).forEach((own, q) => expect(own[0]).not.toBe(first[q]![0]))
  })

  it('are spread evenly', () => {
    const many = numbers('many.exr', 64, (x, y) => (Math.floor(x * 64) * 64 + Math.floor(y * 64)) / 2 ** 24)
    const look = lookOf({ p: ['partRandom', { level: 'densePart', parts: 'many.exr' }], f: ['finish'] }, [
      'p.value > f.roughness',
      'f.finish > result.finish',
    ])
    const list = at(look, tables(many), 'partRandom1/value', points)[0]!
    const bins = new Array<number>(10).fill(0)
    for (const x of list) bins[Math.floor(x * 10)]!++
    for (const n of bins) expect(Math.abs(n / list.length - 0.1)).toBeLessThan(0.025)
  })

  it('choose colors of a palette in their shares', () => {
    const many = numbers('many.exr', 64, (x, y) => (Math.floor(x * 64) * 64 + Math.floor(y * 64) * 4096 + 1) / 2 ** 24)
    const colors = [
      { at: 0.6, color: [1, 0, 0] },
      { at: 0.3, color: [0, 1, 0] },
      { at: 0.1, color: [0, 0, 1] },
    ]
    const look = lookOf({ p: ['palette', { level: 'densePart', parts: 'many.exr', colors } as never], f: ['finish'] }, [
      'p.color > f.baseColor',
      'f.finish > result.finish',
    ])
    const columns = at(look, tables(many), 'palette1/color', points)
    columns.forEach((column, k) => {
      const share = column.reduce((a, b) => a + b, 0) / column.length
      expect(Math.abs(share - colors[k]!.at)).toBeLessThan(0.03)
    })
  })

  it('are asked for what they are drawn by, at this level alone', () => {
    const said = (params: Record<string, unknown>) =>
      check(
        lookOf({ p: ['partRandom', params as never], f: ['finish'] }, [
          'p.value > f.roughness',
          'f.finish > result.finish',
        ]),
        { pictures: [] },
      ).map(f => f.message)
    expect(said({})).toEqual([])
    expect(said({ level: 'densePart' })).toEqual([expect.stringMatching(/has no picture chosen/)])
    expect(said({ level: 'densePart', parts: 'gone.exr' })).toEqual([expect.stringMatching(/no picture "gone.exr"/)])
  })
})
