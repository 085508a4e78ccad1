import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { readPicture } from '#core/evaluate/pictures'
import type { ParamValue } from '#core/nodes/declare'
import { samplePoints } from '#core/mesh/sample'
import { boxes, at, ball, lookOf, meshOf, outputsOf, positionsOf, row, tablesOf } from '../helpers'

const tables = tablesOf(row(3))
const points = samplePoints(tables.mesh, 400)
const value = (kind: string, params: Record<string, ParamValue>): Float32Array =>
  outputsOf(kind, params, tables, points).value![0]!
const unit = fc.float({ min: 0, max: 1, noNaN: true })

describe('Curve', () => {
  const through = (points: { x: number; y: number }[], v: number) => value('curve', { points, value: v })[0]!
  it('is a straight line at first', () =>
    fc.assert(
      fc.property(
        unit,
        v =>
          Math.abs(
            through(
              [
                { x: 0, y: 0 },
                { x: 1, y: 1 },
              ],
              v,
            ) - v,
          ) < 1e-6,
      ),
    ))
  it('passes through its points, in whatever order they are stored, and stays level beyond them', () => {
    const points = [
      { x: 0.7, y: 0.2 },
      { x: 0.2, y: 0.9 },
      { x: 0.4, y: 0.5 },
    ]
    for (const p of points) expect(through(points, p.x)).toBeCloseTo(p.y, 5)
    expect([0, 1].map(v => Number(through(points, v).toFixed(5)))).toEqual([0.9, 0.2])
  })
  it('never overshoots: between two points it stays between them, and rises where they do', () =>
    fc.assert(
      fc.property(fc.array(unit, { minLength: 3, maxLength: 6 }), ys => {
        const points = ys.map((y, i) => ({ x: i / (ys.length - 1), y }))
        for (let i = 1; i < points.length; i++) {
          const run = Array.from({ length: 9 }, (_, k) =>
            through(points, points[i - 1]!.x + ((points[i]!.x - points[i - 1]!.x) * k) / 8),
          )
          const up = Math.sign(points[i]!.y - points[i - 1]!.y)
          for (let k = 1; k < run.length; k++) expect((run[k]! - run[k - 1]!) * up).toBeGreaterThanOrEqual(-1e-5)
        }
      }),
      { numRuns: 12 },
    ))
})

describe('Position gradient', () => {
  // Two boxes of unlike size, so that boxes of parts and of the mesh differ.
  const mesh = boxes([
    { object: 'a', at: [0, 0, 0], size: [1, 2, 1] },
    { object: 'b', at: [3, 0, 0], size: [1, 1, 4] },
  ])
  const t = tablesOf(mesh)
  const places = samplePoints(mesh, 300)
  const at3 = positionsOf(t, places)
  const run = (params: Record<string, ParamValue>) => outputsOf('positionGradient', params, t, places).value![0]!
  const clamp = (x: number) => Math.min(1, Math.max(0, x))
  it('measures in millimeters from the lower side of the box', () => {
    run({ unit: 'mm', startMm: 250, endMm: 1250 }).forEach((x, i) =>
      expect(x).toBeCloseTo(clamp((at3[i]![1] + 1 - 0.25) / 1), 4),
    )
  })
  it('runs in any direction, from the first corner of the box that it meets to the last', () => {
    const turn = 30
    const tilt = 20
    const rad = Math.PI / 180
    const d = [
      Math.sin(turn * rad) * Math.cos(tilt * rad),
      Math.sin(tilt * rad),
      Math.cos(turn * rad) * Math.cos(tilt * rad),
    ]
    const along = at3.map(p => p.reduce((s, x, k) => s + x * d[k]!, 0))
    const low = [-0.5, -1, -2].reduce((s, x, k) => s + x * d[k]!, 0)
    const high = [3.5, 1, 2].reduce((s, x, k) => s + x * d[k]!, 0)
    run({ axis: 'any', turn, tilt }).forEach((x, i) => expect(x).toBeCloseTo((along[i]! - low) / (high - low), 4))
  })
  it('straight up is the vertical axis, and straight down its flip', () => {
    const up = run({})
    run({ axis: 'any', tilt: 90 }).forEach((x, i) => expect(x).toBeCloseTo(up[i]!, 4))
    run({ axis: 'any', tilt: -90 }).forEach((x, i) => expect(x).toBeCloseTo(1 - up[i]!, 4))
  })
  it('joins several axes by their shares, each with its own start, end and flip', () => {
    const got = run({ axis: 'several', shareX: 0.5, shareY: 1, startX: 0.25, endX: 0.75, flipY: true })
    got.forEach((x, i) =>
      expect(x).toBeCloseTo((0.5 * clamp(((at3[i]![0] + 0.5) / 4 - 0.25) / 0.5) + (1 - (at3[i]![1] + 1) / 2)) / 1.5, 4),
    )
  })
})

describe('Where patterns sit', () => {
  const round = tablesOf(meshOf(ball(1)))
  const dense = samplePoints(round.mesh, 4000)
  const places = positionsOf(round, dense)
  const noise = (params: Record<string, ParamValue>) =>
    outputsOf('noise', { size: 30, detail: 1, ...params }, round, dense).value![0]!
  it('projected from the front, does not change with depth', () => {
    const flat = noise({ sits: 'planar' })
    const seen = new Map<string, number>()
    places.forEach((p, i) => {
      const cell = `${p[0].toFixed(2)},${p[1].toFixed(2)}`
      const other = seen.get(cell)
      if (other !== undefined) expect(Math.abs(flat[i]! - other)).toBeLessThan(0.05)
      seen.set(cell, flat[i]!)
    })
    expect(seen.size).toBeLessThan(dense.count)
  })
  it("projected from three sides, is the side's own projection where the surface faces it", () => {
    const blended = noise({ sits: 'threeWay', blending: 0 })
    const front = noise({ sits: 'planar', plane: 'XY' })
    // The third coordinate of the front's projection is its own, so compare how they vary and not their values.
    const facing = places.flatMap((p, i) => (Math.abs(p[2]) > 0.9 ? [i] : []))
    const spread = (v: Float32Array) => Math.sqrt(facing.reduce((s, i) => s + (v[i]! - 0.5) ** 2, 0) / facing.length)
    expect(spread(blended) / spread(front)).toBeGreaterThan(0.4)
    expect(new Set(blended).size).toBeGreaterThan(1000)
    expect(blended.every(x => x >= 0 && x <= 1)).toBe(true)
  })
  it('a whole turn is no turn, and turning by 90 degrees carries X to Z', () => {
    const plain = noise({})
    const whole = noise({ turn: 360 })
    whole.forEach((x, i) => expect(x).toBeCloseTo(plain[i]!, 3))
    expect(noise({ turn: 90 }).some((x, i) => Math.abs(x - plain[i]!) > 0.1)).toBe(true)
  })
})

describe('Picture', () => {
  // Three by two: red, green, blue over white, black and half gray.
  const data = Uint8Array.of(
    255,
    0,
    0,
    255,
    0,
    255,
    0,
    255,
    0,
    0,
    255,
    255,
    255,
    255,
    255,
    255,
    0,
    0,
    0,
    255,
    128,
    128,
    128,
    64,
  )
  const picture = { name: 'six', width: 3, height: 2, data }
  const plainly = { linear: true, across: 'repeat', down: 'repeat', nearest: false } as const
  const read = (channel: number, u: number, v: number, linear = true) =>
    readPicture(picture, channel, { ...plainly, linear }, u, v)
  it("has each texel's value at its middle, blends between them, and repeats", () => {
    expect([1 / 6, 3 / 6, 5 / 6].map(u => [0, 1, 2].map(c => read(c, u, 0.25)))).toEqual([
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
    ])
    expect(read(0, 2 / 6, 0.25)).toBeCloseTo(0.5, 6)
    fc.assert(
      fc.property(
        fc.integer({ min: -3, max: 3 }),
        fc.integer({ min: -3, max: 3 }),
        unit,
        unit,
        (i, j, u, v) => Math.abs(read(1, u + i, v + j) - read(1, u, v)) < 1e-5,
      ),
    )
  })
  it('decodes colors and leaves alpha and data as they are', () => {
    expect(read(0, 5 / 6, 0.75, false)).toBeCloseTo(((128 / 255 + 0.055) / 1.055) ** 2.4, 5)
    expect([read(0, 5 / 6, 0.75, true), read(3, 5 / 6, 0.75, false)].map(x => Number(x.toFixed(4)))).toEqual([
      0.502, 0.251,
    ])
  })
  it('lies on the UVs as glTF lays it, and is black and opaque where there is none', () => {
    const with6 = { ...tables, pictures: [picture] }
    const got = outputsOf('picture', { picture: 'six', space: 'linear' }, with6, points)
    const uv = outputsOf('uv', {}, with6, points)
    const [u, v] = [uv.u![0]!, uv.v![0]!]
    got.color![0]!.forEach((x, i) => expect(x).toBeCloseTo(readPicture(picture, 0, plainly, u[i]!, v[i]!), 4))
    expect(outputsOf('picture', { picture: 'gone' }, with6, points).color!.map(c => c[0])).toEqual([0, 0, 0])
    expect(outputsOf('picture', { picture: 'gone' }, with6, points).alpha![0]![0]).toBe(1)
  })
})

describe('Echo', () => {
  it('is the port that it stands for, also through another echo, and nothing where it turns in a circle', () => {
    const look = lookOf(
      {
        n: ['noise', { seed: 4 }],
        e: ['echo', { of: 'noise1/value' }],
        f: ['echo', { of: 'echo1/out' }],
        i: ['invert'],
      },
      ['f.out > i.value'],
    )
    const noise = at(look, tables, 'noise1/value', points)[0]!
    at(look, tables, 'invert1/value', points)[0]!.forEach((x, i) => expect(x).toBeCloseTo(1 - noise[i]!, 5))
    expect(at(look, tables, 'echo2/out', points)[0]).toEqual(noise)
    const circle = lookOf(
      { e: ['echo', { of: 'echo2/out' }], f: ['echo', { of: 'echo1/out' }], i: ['invert', { value: 0.25 }] },
      ['e.out > i.value'],
    )
    expect(at(circle, tables, 'invert1/value', points)[0]![0]).toBe(0.75)
  })
})
