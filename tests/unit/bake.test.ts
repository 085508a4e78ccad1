import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js'
import { FloatType } from 'three'
import fc from 'fast-check'
import { decode } from 'fast-png'
import validator from 'gltf-validator'
import { deflateSync, inflateSync } from 'node:zlib'
import { describe, expect, it } from 'vitest'
import { LaidLook } from '#core/evaluate/laidLook'
import { Baker } from '#core/bake/baker'
import { bandsOf, bakeRows, PICTURE_DEFAULTS, type PictureSettings } from '#core/bake/band'
import { adlerJoined, crcOf, joined, type Adler } from '#core/bake/compress'
import { dilate, ringRoom } from '#core/bake/dilate'
import { exrBand, exrHead } from '#core/bake/exr'
import { mapOf, type MapSpec } from '#core/bake/maps'
import { pngBand, pngEnds, pngOf, type PngBand } from '#core/bake/png'
import { rasterizeTile, tilingOf, trianglesOf } from '#core/bake/raster'
import { partValues, partValuesCsv } from '#core/bake/values'
import { Workpiece } from '#core/evaluate/workpiece'
import { emptyPreparation } from '#core/mesh/preparation'
import { decodeSrgb, encodeSrgb } from '#core/color/convert'
import { DeliveryError } from '#core/deliver/settings'
import { readMesh } from '#core/exchange/readMesh'
import type { Look } from '#core/graph/look'
import { drawOf } from '#core/mesh/hash'
import type { Mesh } from '#core/mesh/mesh'
import type { SurfacePoints } from '#core/mesh/sample'
import type { MeshTables } from '#core/evaluate/tables'
import { compressor, tangents } from '../../node/bake/compress'
import { cornerTangents } from '#core/bake/tangents'
import { deliveredGlb } from '../delivered'
import * as plain from '../reference/texels'
import { at, ball, boxes, kernels, lookOf, meshOf, notSo, positionsOf, row, tablesOf } from '../helpers'

const { texels } = kernels

/** A flat square from (0, 0) to (1, 1) in x and y, its UVs as given: `u = x`, `v = 1 - y` unless mirrored. */
function square(mirrored = false): Mesh {
  return {
    positions: Float32Array.of(0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0),
    normals: Float32Array.of(0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1),
    uvs: Float32Array.from(
      [
        [0, 1],
        [1, 1],
        [1, 0],
        [0, 0],
      ].flatMap(([u, v]) => [mirrored ? 1 - u! : u!, v!]),
    ),
    indices: Uint32Array.of(0, 1, 2, 0, 2, 3),
    objects: [{ name: 'square', firstVertex: 0, vertices: 4, firstTriangle: 0, triangles: 2 }],
    materials: [{ name: '', firstTriangle: 0, triangles: 2 }],
    maps: [],
    warnings: [],
  }
}

/** Pictures of a look, decoded. */
function baked(
  tables: MeshTables,
  look: Look,
  specs: MapSpec[],
  settings: Partial<PictureSettings> & { tile?: number },
): ReturnType<typeof decode>[] {
  const baker = new Baker(kernels, tables, look, tables.mesh.uvs && cornerTangents(tables.mesh, tangents))
  const { tile = 1001, ...rest } = settings
  return baker.pictures(tile, specs, { ...PICTURE_DEFAULTS, ...rest }, compressor).map(f => decode(f))
}

describe('rasterizing UVs', () => {
  it('covers every texel of a full square once, each with the point at its center', () => {
    for (const mirrored of [false, true]) {
      const mesh = square(mirrored)
      const { texel, points } = rasterizeTile(texels, mesh, 16)
      expect([...texel].sort((a, b) => a - b)).toEqual([...Array(256).keys()])
      positionsOf(tablesOf(mesh), points).forEach(([x, y], i) => {
        const column = texel[i]! % 16
        const line = texel[i]! >> 4
        expect(x).toBeCloseTo(mirrored ? 1 - (column + 0.5) / 16 : (column + 0.5) / 16, 5)
        expect(y).toBeCloseTo(1 - (line + 0.5) / 16, 5)
      })
    }
  })
  it('wraps a layout that reaches where no tile is, and knows tiles by their numbers', () => {
    const mesh = square()
    const moved = (du: number, dv: number) => ({ ...mesh, uvs: mesh.uvs!.map((x, i) => x + (i % 2 ? dv : du)) })
    expect(tilingOf(moved(-3, 2))).toMatchObject({ tiles: [1001], repeats: true })
    expect([...rasterizeTile(texels, moved(-3, 2), 8).texel].sort((a, b) => a - b)).toEqual([...Array(64).keys()])
    expect(tilingOf(moved(3, -2))).toMatchObject({ tiles: [1024], repeats: false })
    expect([...rasterizeTile(texels, moved(3, -2), 8, 1024).texel].sort((a, b) => a - b)).toEqual([...Array(64).keys()])
    expect(rasterizeTile(texels, moved(3, -2), 8, 1001).texel).toHaveLength(0)
  })
  it('keeps islands apart: no texel belongs to two boxes', () => {
    const { mesh, parts } = tablesOf(row(9))
    const { texel, points } = rasterizeTile(texels, mesh, 96)
    expect(new Set(texel).size).toBe(texel.length)
    const cell = (i: number) => Math.floor(texel[i]! / 96 / 32) * 3 + Math.floor((texel[i]! % 96) / 32)
    const boxOf = (t: number) => Number(mesh.objects[parts.parts[parts.partOfTriangle[t]!]!.object]!.name.slice(4))
    expect(notSo(points.triangle, (t, i) => boxOf(t) === cell(i))).toEqual([])
  })
  it('finds, in any rows of any layout, to the bit what the plain rasterizer finds', () => {
    const corner = fc.tuple(
      fc.float({ min: Math.fround(-0.3), max: Math.fround(1.3), noNaN: true }),
      fc.float({ min: Math.fround(-0.3), max: Math.fround(1.3), noNaN: true }),
    )
    fc.assert(
      fc.property(
        fc.array(fc.tuple(corner, corner, corner), { minLength: 1, maxLength: 12 }),
        fc.boolean(),
        fc.integer({ min: 0, max: 40 }),
        fc.integer({ min: 1, max: 41 }),
        (triangles, repeats, a, b) => {
          const mesh = {
            uvs: Float32Array.from(triangles.flat(2)),
            indices: Uint32Array.from({ length: triangles.length * 3 }, (_, i) => i),
          }
          const all = Uint32Array.from(triangles, (_, i) => i)
          const tiling = { tiles: [1001], repeats, triangles: () => all }
          const from = Math.min(a, b)
          const to = Math.max(a + 1, b)
          const want = plain.rasterizeRows(mesh, { tiling, tile: 1001, triangles: all }, 41, from, to)
          const { texel, points } = rasterizeTile(texels, mesh, 41, 1001, tiling, from, to)
          const found = Array.from(texel, (q, i) => [q, points.triangle[i], points.u[i], points.v[i]]).sort(
            (x, y) => x[0]! - y[0]!,
          )
          expect(found).toEqual(
            Array.from(want.texel, (q, i) => [q, want.points.triangle[i], want.points.u[i], want.points.v[i]]),
          )
          expect([...points.triangle]).toEqual([...points.triangle].sort((x, y) => x - y))
        },
      ),
      { numRuns: 200 },
    )
  })
})

describe('dilation', () => {
  /** The kernels' dilation of images; leaves the covered texels as they become. */
  function dilated(images: readonly Float32Array[], width: number, covered: Uint8Array, rings: number): Float32Array[] {
    const mark = texels.mark()
    const apart = covered.length * 4
    const columns = texels.take(apart * images.length)
    const is = texels.take(covered.length)
    const ring = texels.take(ringRoom(width, covered.length / width))
    images.forEach((image, k) => texels.floats(columns + k * apart, covered.length).set(image))
    texels.bytes(is, covered.length).set(covered)
    dilate(texels, columns, apart, images.length, is, ring, width, covered.length / width, rings)
    texels.release(mark)
    return images.map((_, k) => texels.floats(columns + k * apart, covered.length).slice())
  }
  it('grows ring by ring with the mean of its neighbors and never changes what is covered', () => {
    const size = 9
    const image = new Float32Array(81)
    const covered = new Uint8Array(81)
    image[40] = 6
    covered[40] = 1
    const grown = dilated([image], size, covered, 2)[0]!
    expect(
      grown.every((x, at) => x === (Math.max(Math.abs((at % 9) - 4), Math.abs(Math.floor(at / 9) - 4)) <= 2 ? 6 : 0)),
    ).toBe(true)
    const two = new Float32Array(81)
    const both = new Uint8Array(81)
    ;[39, 41].forEach((at, i) => {
      two[at] = i ? 8 : 2
      both[at] = 1
    })
    const between = dilated([two], size, both, 1)[0]!
    expect([between[39], between[40], between[41], between[38]]).toEqual([2, 5, 8, 2])
  })
  it('is to the bit what the plain one gives', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 50 }),
        fc.integer({ min: 1, max: 20 }),
        fc.integer({ min: 0, max: 20 }),
        fc.integer(),
        fc.double({ min: 0.005, max: 0.9, noNaN: true }),
        (width, height, rings, seed, share) => {
          const covered = Uint8Array.from({ length: width * height }, (_, i) => Number(drawOf(String(i), seed) < share))
          const images = [1, 2].map(k => Float32Array.from(covered, (c, i) => c * (drawOf(String(i), seed + k) - 0.5)))
          const got = dilated(images, width, covered, rings)
          plain.dilate(images, width, covered, rings)
          expect(got).toEqual(images)
        },
      ),
      { numRuns: 100 },
    )
  })
  it('is the same whether the picture is baked in one band or in several, and bakes of the rows around only what shows', () => {
    const look = lookOf({ x: ['positionGradient', { axis: 'X' }], finish: ['finish'] }, [
      'x.value > finish.roughness',
      'finish.finish > result.finish',
    ])
    for (const [mesh, samples, whole] of [
      [row(5), 1, false],
      [row(5), 2, false],
      [square(), 1, true],
    ] as const) {
      const tables = tablesOf(mesh)
      const tiling = tilingOf(mesh)
      const { at, largest } = new Baker(kernels, tables, look)['lanesOf']([mapOf('roughness')]).lanes
      let points = 0
      const lanes = {
        largest,
        at: (p: SurfacePoints) => {
          points += p.count
          return at(p)
        },
      }
      const rows = (from: number, to: number): number[] => {
        const mark = texels.mark()
        const columns = bakeRows(
          { texels, tables, tiling, tile: 1001, ...trianglesOf(mesh, tiling, 1001), names: ['roughness'], lanes },
          { size: 96, dilation: 7, samples },
          from,
          to,
        )
        texels.release(mark)
        return [...texels.floats(columns.at[0]!, columns.count)]
      }
      const want = rows(0, 96)
      for (const cut of [13, 48, 90]) {
        points = 0
        expect([...rows(0, cut), ...rows(cut, 96)]).toEqual(want)
        if (whole) expect(points).toBe(96 * 96)
      }
    }
  })
})

describe('picture files', () => {
  const shapes = fc.record({
    size: fc.constantFrom(4, 16, 33),
    channels: fc.constantFrom(1, 2, 3, 4) as fc.Arbitrary<1 | 2 | 3 | 4>,
    seed: fc.integer(),
  })
  const noise = (n: number, seed: number, top: number) =>
    Array.from({ length: n }, (_, i) => Math.imul(i + 1, seed | 1) >>> 0).map(x => x % (top + 1))
  /** A band of a PNG from whole numbers. */
  function band(values: readonly number[], size: number, channels: number, depth: 8 | 16): PngBand {
    const mark = texels.mark()
    const count = values.length / channels
    const columns = Array.from({ length: channels }, () => texels.take(count * 4))
    columns.forEach((column, k) =>
      texels
        .floats(column, count)
        .set(Float32Array.from({ length: count }, (_, i) => values[i * channels + k]! / (2 ** depth - 1))),
    )
    const made = pngBand(
      texels,
      columns.map(column => ({ column, scale: 1, shift: 0, curved: false })),
      count,
      { size, depth },
      compressor,
    )
    texels.release(mark)
    return made
  }
  it('PNG of 8 and 16 bits come back exactly, from any number of bands', () => {
    fc.assert(
      fc.property(
        shapes,
        fc.constantFrom(8, 16) as fc.Arbitrary<8 | 16>,
        fc.integer({ min: 1, max: 3 }),
        ({ size, channels, seed }, depth, count) => {
          const values = noise(size * size * channels, seed, 2 ** depth - 1)
          const step = Math.ceil(size / count) * size * channels
          const bands = Array.from({ length: Math.ceil(values.length / step) }, (_, i) =>
            band(values.slice(i * step, (i + 1) * step), size, channels, depth),
          )
          const [head, tail] = pngEnds(
            { size, channels, depth, space: 'srgb' },
            bands.map(b => b.adler),
          )
          const back = decode(joined(head, ...bands.map(b => b.chunk), tail), { checkCrc: true })
          expect([back.width, back.height, back.channels, back.depth]).toEqual([size, size, channels, depth])
          expect([...back.data]).toEqual(values)
        },
      ),
      { numRuns: 40 },
    )
  })
  it('stores values on the curve of sRGB to the nearest step of 16 bits, and dithers 8 bits to the right mean', () => {
    const size = 256
    const count = size * size
    const ramp = Float32Array.from({ length: count }, (_, i) => i / (count - 1))
    const column = texels.take(count * 4)
    const stored = (depth: 8 | 16, curved: boolean, grains?: number) => {
      texels.floats(column, count).set(ramp)
      const { chunk, adler } = pngBand(
        texels,
        [{ column, scale: 1, shift: 0, curved }],
        count,
        { size, depth },
        compressor,
        grains,
      )
      const [head, tail] = pngEnds({ size, channels: 1, depth, space: 'linear' }, [adler])
      return [...decode(joined(head, chunk, tail)).data]
    }
    // Half a step, and what the function itself is off by in floats.
    expect(notSo(stored(16, true), (x, i) => Math.abs(x - encodeSrgb(ramp[i]!) * 65535) < 0.54)).toEqual([])
    const dithered = stored(8, false, 7)
    const means = Array.from(
      { length: 64 },
      (_, k) => dithered.slice(k * 1024, (k + 1) * 1024).reduce((a, b) => a + b) / 1024,
    )
    means.forEach((m, k) => expect(Math.abs(m - ((k * 1024 + 511.5) / (count - 1)) * 255)).toBeLessThan(0.06))
    expect(new Set(dithered.slice(30_000, 30_100)).size).toBeGreaterThan(1)
  })
  it('to be looked at come back as they are, of any shape, with and without opacity, and say that they are sRGB', () => {
    const side = fc.integer({ min: 1, max: 40 })
    const shape = fc.tuple(side, side, fc.constantFrom(3, 4) as fc.Arbitrary<3 | 4>)
    const pictures = shape.chain(([width, height, channels]) => {
      const length = width * height * channels
      const data = fc.uint8Array({ minLength: length, maxLength: length })
      return fc.record({
        width: fc.constant(width),
        height: fc.constant(height),
        channels: fc.constant(channels),
        data,
      })
    })
    fc.assert(
      fc.property(pictures, picture => {
        const file = pngOf(picture, compressor)
        const { width, height, channels, depth, data } = decode(file, { checkCrc: true })
        expect({ width, height, channels, data }).toEqual(picture)
        expect(depth).toBe(8)
        expect(Buffer.from(file).includes('sRGB')).toBe(true)
      }),
    )
  })
  it('say in their chunks whether they are sRGB or linear, and carry the checksum of zlib', () => {
    const one = band(noise(64, 7, 255), 8, 1, 8)
    for (const space of ['srgb', 'linear'] as const) {
      const [head, tail] = pngEnds({ size: 8, channels: 1, depth: 8, space }, [one.adler])
      const text = Buffer.from(joined(head, one.chunk, tail))
      expect(text.includes('sRGB')).toBe(space === 'srgb')
      expect(text.readUInt32BE(text.indexOf('gAMA') + 4)).toBe(space === 'srgb' ? 45455 : 100000)
      // Node's own inflate checks the sum at the end of the stream.
      const idat: Buffer[] = []
      for (let at = 8; at < text.length; at += 12 + text.readUInt32BE(at))
        if (text.toString('latin1', at + 4, at + 8) === 'IDAT')
          idat.push(text.subarray(at + 8, at + 8 + text.readUInt32BE(at)))
      expect(inflateSync(Buffer.concat(idat))).toHaveLength(8 * 9)
    }
  })
  it('joins checksums as if the bytes had been one stretch', () => {
    const adlerOf = (bytes: Uint8Array): Adler => {
      const mark = texels.mark()
      const at = texels.take(bytes.length)
      texels.bytes(at, bytes.length).set(bytes)
      texels.release(mark)
      return { sum: texels.run.adler(at, bytes.length) >>> 0, length: bytes.length }
    }
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 9000 }), fc.uint8Array({ maxLength: 9000 }), (a, b) => {
        const sum = adlerOf(joined(a, b)).sum
        expect(adlerJoined(adlerOf(a), adlerOf(b)).sum).toBe(sum)
        // What Node's zlib puts at the end of its own stream.
        expect(Buffer.from(compressor.zlib(joined(a, b))).readUInt32BE(compressor.zlib(joined(a, b)).length - 4)).toBe(
          sum,
        )
      }),
    )
    const full = new Uint8Array(100_000).fill(255)
    expect(adlerOf(full).sum).toBe(deflateSync(full).readUInt32BE(deflateSync(full).length - 4))
    expect(crcOf(Uint8Array.from(Buffer.from('IEND')))).toBe(0xae426082)
    expect(adlerOf(Uint8Array.from(Buffer.from('abc'))).sum).toBe(0x024d0127)
  })
  it("halves are those of the browser's own reader, nearest and even", () => {
    const value = (h: number) =>
      (h & 0x8000 ? -1 : 1) *
      ((h >> 10) & 31 ? 2 ** (((h >> 10) & 31) - 15) * (1 + (h & 1023) / 1024) : (h & 1023) / 2 ** 24)
    const halvesOf = (values: readonly number[]): number[] => {
      const mark = texels.mark()
      const from = texels.take(values.length * 4)
      const to = texels.take(values.length * 2)
      texels.floats(from, values.length).set(values)
      texels.run.halves(to, from, values.length)
      texels.release(mark)
      return [...new Uint16Array(texels.bytes(to, values.length * 2).slice().buffer)]
    }
    const all = [...Array(0x7c00).keys()]
    expect(halvesOf(all.map(value))).toEqual(all)
    fc.assert(
      fc.property(fc.float({ min: -65000, max: 65000, noNaN: true }), x => {
        const h = halvesOf([x])[0]!
        const near = Math.abs(value(h) - x)
        for (const other of [h - 1, h + 1])
          if ((other & 0x7fff) < 0x7c00 && (other & 0x8000) === (h & 0x8000))
            expect(near).toBeLessThanOrEqual(Math.abs(value(other) - x))
      }),
    )
    expect(halvesOf([65536, -1e9, Infinity])).toEqual([0x7c00, 0xfc00, 0x7c00])
  })
  it('EXR of floats and halves come back exactly through three.js', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(5, 16, 40),
        fc.integer({ min: 1, max: 100 }),
        fc.constantFrom('half', 'float') as fc.Arbitrary<'half' | 'float'>,
        (size, seed, pixel) => {
          const lanes = [0, 1, 2].map(k =>
            Float32Array.from({ length: size * size }, (_, i) =>
              pixel === 'float' ? Math.fround(Math.sin(i * seed + k) * 1000) : ((i * seed + k * 7) % 2048) / 16 - 40,
            ),
          )
          const cut = Math.min(16, size) * size
          const bands = size > 16 ? [lanes.map(l => l.slice(0, cut)), lanes.map(l => l.slice(cut))] : [lanes]
          const made = bands.map((b, i) => {
            const mark = texels.mark()
            const columns = b.map(l => texels.take(l.length * 4))
            columns.forEach((column, k) => texels.floats(column, b[k]!.length).set(b[k]!))
            const band = exrBand(
              texels,
              columns,
              b[0]!.length,
              { width: size, channels: ['R', 'G', 'B'], pixel },
              i * 16,
              compressor,
            )
            texels.release(mark)
            return band
          })
          const file = joined(
            exrHead(
              { width: size, height: size, channels: ['R', 'G', 'B'], pixel },
              made.flatMap(m => m.sizes),
            ),
            ...made.map(m => m.bytes),
          )
          const back = new EXRLoader().setDataType(FloatType).parse(file.slice().buffer as ArrayBuffer) as {
            width: number
            height: number
            data: Float32Array
          }
          expect([back.width, back.height]).toEqual([size, size])
          // three.js lays rows from the bottom, with alpha.
          const at = (i: number): number => ((size - 1 - Math.floor(i / size)) * size + (i % size)) * 4
          lanes.forEach((lane, k) => expect(notSo(lane, (x, i) => Object.is(back.data[at(i) + k], x))).toEqual([]))
        },
      ),
      { numRuns: 12 },
    )
  })
})

describe('textures', () => {
  const gradient = lookOf(
    {
      x: ['positionGradient', { axis: 'X' }],
      y: ['positionGradient', { axis: 'Y' }],
      finish: ['finish', { metalness: 0.25 }],
    },
    ['x.value > finish.baseColor', 'y.value > finish.roughness', 'finish.finish > result.finish'],
  )
  it('hold the right values at the right texels, encoded as glTF asks', () => {
    for (const mirrored of [false, true]) {
      for (const samples of [1, 2]) {
        const [color, packed] = baked(tablesOf(square(mirrored)), gradient, [mapOf('baseColor'), mapOf('orm')], {
          size: 64,
          dilation: 0,
          samples,
        })
        expect([color!.width, color!.height, color!.channels, color!.depth]).toEqual([64, 64, 3, 8])
        for (let i = 0; i < 64 * 64; i += 7) {
          const x = ((i % 64) + 0.5) / 64
          const y = 1 - ((i >> 6) + 0.5) / 64
          expect(decodeSrgb(Number(color!.data[i * 3]) / 255)).toBeCloseTo(mirrored ? 1 - x : x, 1.9)
          expect([...packed!.data.slice(i * 3, i * 3 + 3)]).toEqual([255, Math.round(y * 255), Math.round(0.25 * 255)])
        }
      }
    }
  })
  it('are right to 16 bits, and to a float in EXR', () => {
    const tables = tablesOf(square())
    const [packed] = baked(tables, gradient, [mapOf('roughness')], { size: 64, format: 'png16' })
    for (let i = 0; i < 4096; i += 13)
      expect(Math.abs(Number(packed!.data[i]) - (1 - ((i >> 6) + 0.5) / 64) * 65535)).toBeLessThanOrEqual(0.6)
    const exr = new Baker(kernels, tables, gradient).pictures(
      1001,
      [mapOf('roughness')],
      { ...PICTURE_DEFAULTS, size: 64, format: 'float' },
      compressor,
    )[0]!
    const { data } = new EXRLoader().setDataType(FloatType).parse(exr.slice().buffer as ArrayBuffer) as {
      data: Float32Array
    }
    for (let y = 0; y < 64; y++)
      expect(data[(((63 - y) * 64 + 9) * data.length) / 4096]).toBeCloseTo(1 - (y + 0.5) / 64, 6)
  })
  it('of two tiles each hold what belongs to them, up to the border between them', () => {
    // Twice as wide: the left half on tile 1001, the right one on 1002.
    const one = square()
    const tables = tablesOf({
      ...one,
      positions: Float32Array.from([0, 1].flatMap(d => [...one.positions].map((x, i) => (i % 3 ? x : x + d)))),
      normals: Float32Array.from([...one.normals, ...one.normals]),
      uvs: Float32Array.from([0, 1].flatMap(d => [...one.uvs!].map((x, i) => (i % 2 ? x : x + d)))),
      indices: Uint32Array.from([...one.indices, ...[...one.indices].map(v => v + 4)]),
      objects: [{ name: 'square', firstVertex: 0, vertices: 8, firstTriangle: 0, triangles: 4 }],
      materials: [{ name: '', firstTriangle: 0, triangles: 4 }],
    })
    const across = lookOf({ x: ['positionGradient', { axis: 'X' }], finish: ['finish'] }, [
      'x.value > finish.roughness',
      'finish.finish > result.finish',
    ])
    expect(tilingOf(tables.mesh).tiles).toEqual([1001, 1002])
    for (const tile of [1001, 1002]) {
      const [picture] = baked(tables, across, [mapOf('roughness')], { size: 32, format: 'png16', tile, dilation: 2 })
      for (let x = 0; x < 32; x++)
        expect(Number(picture!.data[5 * 32 + x]) / 65535).toBeCloseTo((tile - 1001 + (x + 0.5) / 32) / 2, 4)
    }
  })
  it('dithered keep their mean to a hundredth of a step, and differ from their neighbors', () => {
    const flat = lookOf({ finish: ['finish', { roughness: 0.3 + 0.4 / 255 }] }, ['finish.finish > result.finish'])
    const [picture] = baked(tablesOf(square()), flat, [mapOf('roughness')], { size: 256, dither: true })
    const mean = [...picture!.data].reduce((a, b) => a + Number(b), 0) / 65536
    expect(Math.abs(mean - (0.3 * 255 + 0.4))).toBeLessThan(0.01)
    expect(new Set(picture!.data).size).toBe(2)
  })
  it('hold a mask of any node, packed as asked', () => {
    const look = lookOf(
      { x: ['positionGradient', { axis: 'X' }], color: ['color', { color: [0.1, 0.5, 0.9] }], finish: ['finish'] },
      ['finish.finish > result.finish'],
    )
    const id = look.nodes.find(n => n.kind === 'positionGradient')!.id
    const c = look.nodes.find(n => n.kind === 'color')!.id
    const [picture] = baked(
      tablesOf(square()),
      look,
      [{ name: 'packed', lanes: ['1', `port:${id}/value`, `port:${c}/color.g`, '0'], space: 'linear' }],
      { size: 16 },
    )
    for (let x = 0; x < 16; x++)
      expect([...picture!.data.slice(x * 4, x * 4 + 4)]).toEqual([
        255,
        Math.round(((x + 0.5) / 16) * 255),
        Math.round(0.5 * 255),
        0,
      ])
    expect(() =>
      baked(tablesOf(square()), look, [{ name: 'none', lanes: ['port:nobody/value'], space: 'linear' }], { size: 16 }),
    ).toThrow('The look has no value at "nobody/value".')
  })
  it('tell parts apart by flat colors, the same in every bake', () => {
    const [picture] = baked(tablesOf(row(4)), gradient, [mapOf('parts')], { size: 64, dilation: 0 })
    const [again] = baked(tablesOf(row(4)), gradient, [mapOf('parts')], { size: 64, dilation: 0 })
    expect([...again!.data]).toEqual([...picture!.data])
    const colors = new Set(Array.from({ length: 4096 }, (_, i) => [...picture!.data.slice(i * 3, i * 3 + 3)].join()))
    colors.delete('0,0,0')
    expect(colors.size).toBe(4)
  })
  it('of a height of known slope have normals of that slope, also where islands are mirrored', () => {
    // 100 mm from one side of the meter to the other.
    const slope = lookOf({ x: ['positionGradient', { axis: 'X' }], finish: ['finish', { heightScale: 100 }] }, [
      'x.value > finish.height',
      'finish.finish > result.finish',
    ])
    for (const mirrored of [false, true]) {
      const [normal, height] = baked(tablesOf(square(mirrored)), slope, [mapOf('normal'), mapOf('height')], {
        size: 32,
        format: 'png16',
      })
      const length = Math.hypot(0.1, 1)
      for (const i of [100, 500, 900]) {
        const [x, y, z] = [0, 1, 2].map(k => Number(normal!.data[i * 3 + k]) / 32767.5 - 1) as [number, number, number]
        // The height falls toward growing u where the island is mirrored, so the normal leans the other way.
        expect(x).toBeCloseTo((mirrored ? 0.1 : -0.1) / length, 3)
        expect(y).toBeCloseTo(0, 3)
        expect(z).toBeCloseTo(1 / length, 3)
        // 0.5 is no height, and the scale is the next of 1, 2, 5, 10…
        const across = ((i % 32) + 0.5) / 32
        expect((Number(height!.data[i]) / 65535 - 0.5) * 2 * 200).toBeCloseTo(100 * (mirrored ? 1 - across : across), 1)
      }
    }
  })
  it('bake a band at a time, each about a million texels of whole blocks', () => {
    for (const size of [256, 1024, 4096, 8192]) {
      const rows = bandsOf(size)
      expect(rows.every((r, i) => r % 16 === 0 && r === i * (rows[1] ?? size))).toBe(true)
      expect((rows[1] ?? size) * size).toBeLessThanOrEqual(2 ** 20)
    }
  })
})

describe('values on the original vertices', () => {
  it('are the mean of the refined surface around them, and keep the integral over the surface', async () => {
    const mesh = meshOf(ball(1, 12, 8))
    const preparation = { ...emptyPreparation(), edge: 0.05 }
    const look = lookOf({ noise: ['noise', { size: 30 }], finish: ['finish'] }, [
      'noise.value > finish.roughness',
      'finish.finish > result.finish',
    ])
    const glb = async (on: string) =>
      readMesh(
        await deliveredGlb(
          mesh,
          look,
          {
            on,
            vertexMaps: [
              { name: 'rough', lanes: ['roughness'] },
              { name: 'tint', lanes: ['baseColor.r', 'baseColor.g', 'baseColor.b'] },
            ],
          },
          preparation,
        ),
        'x.glb',
      )
    const integral = (m: Mesh) => {
      const map = m.maps.find(v => v.name === 'rough')!
      let sum = 0
      for (let t = 0; t < m.indices.length; t += 3) {
        const [a, b, c] = [0, 1, 2].map(k => m.indices[t + k]!) as [number, number, number]
        const p = m.positions
        const u = [0, 1, 2].map(k => p[b * 3 + k]! - p[a * 3 + k]!)
        const v = [0, 1, 2].map(k => p[c * 3 + k]! - p[a * 3 + k]!)
        sum +=
          (Math.hypot(u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!) /
            6) *
          (map.values[a]! + map.values[b]! + map.values[c]!)
      }
      return sum
    }
    const [coarse, fine] = [await glb('file'), await glb('analysis')]
    expect(coarse.indices.length).toBe(mesh.indices.length)
    expect(fine.indices.length).toBeGreaterThan(mesh.indices.length * 8)
    expect(coarse.maps.find(m => m.name === 'tint')!.components).toBe(3)
    expect(integral(coarse)).toBeCloseTo(integral(fine), 3)
    // The noise is finer than the triangles, so vertices alone would miss much of it.
    expect(Math.abs(integral(coarse) - 0.5 * 12.5)).toBeGreaterThan(0.001)
  })
})

describe('a delivered GLB', () => {
  const look = lookOf(
    {
      random: ['partRandom'],
      vary: ['varyColor', { hue: 300, lightness: 40 }],
      noise: ['noise', { size: 40 }],
      finish: ['finish'],
    },
    [
      'random.value > vary.hueBy',
      'random.second > vary.lightnessBy',
      'vary.color > finish.baseColor',
      'noise.value > finish.roughness',
      'finish.finish > result.finish',
    ],
  )
  const validate = async (bytes: Uint8Array) =>
    (await validator.validateBytes(bytes)).issues as { numErrors: number; numWarnings: number }

  it('passes the validator of the standard, with textures or vertex colors, with or without UVs', async () => {
    const { uvs: _, ...bare } = row(3)
    for (const mesh of [row(3), bare as Mesh]) {
      for (const colorIn of mesh.uvs ? (['texture', 'vertices'] as const) : (['vertices'] as const)) {
        const withMaps = {
          ...mesh,
          maps: [
            { name: 'COLOR_0', components: 4, values: new Float32Array(288).fill(1) },
            { name: 'wet', components: 1, values: new Float32Array(72) },
          ],
        }
        const glb = await deliveredGlb(withMaps as Mesh, look, { colorIn })
        expect(await validate(glb)).toMatchObject({ numErrors: 0, numWarnings: 0 })
      }
    }
  })

  it('carries in its texture the mean color of each part that the table says', async () => {
    const tables = tablesOf(row(5))
    const rows = partValues(LaidLook.of(kernels, tables, look), look)
    const { data } = baked(tables, look, [mapOf('baseColor')], { size: 256, dilation: 4 })[0]!
    const { texel, points } = rasterizeTile(texels, tables.mesh, 256)
    rows.forEach((r, p) => {
      const own = [...texel].filter((_, i) => tables.parts.partOfTriangle[points.triangle[i]!] === p)
      r.channels.baseColor.forEach((x, k) =>
        expect(own.reduce((sum, at) => sum + decodeSrgb(Number(data[at * 3 + k]) / 255), 0) / own.length).toBeCloseTo(
          x,
          2,
        ),
      )
      expect(r.area).toBeCloseTo(6, 5)
    })
    expect(new Set(rows.map(r => r.channels.baseColor.join())).size).toBe(5)
  })

  it('has the same color per vertex when asked, and then no base color texture to multiply it with', async () => {
    const tables = tablesOf(row(2))
    const glb = await deliveredGlb(row(2), look, { colorIn: 'vertices' })
    const back = await readMesh(glb, 'mesh.glb')
    const colors = back.maps.find(m => m.name === 'COLOR_0')!
    expect(colors.components).toBe(3)
    partValues(LaidLook.of(kernels, tables, look), look).forEach((r, p) => {
      const v = tables.parts.partOfVertex.indexOf(p)
      r.channels.baseColor.forEach((x, k) => expect(colors.values[v * 3 + k]).toBeCloseTo(x, 4))
    })
    const json = JSON.parse(
      new TextDecoder().decode(glb.subarray(20, 20 + new DataView(glb.buffer, glb.byteOffset).getUint32(12, true))),
    ) as { materials: { pbrMetallicRoughness: object }[] }
    expect(Object.keys(json.materials[0]!.pbrMetallicRoughness)).toEqual(['metallicRoughnessTexture'])
  })

  it('is refused with a reason where textures are asked for and there are no UVs', async () => {
    const { uvs: _, ...bare } = row(1)
    await expect(deliveredGlb(bare, look)).rejects.toThrow(DeliveryError)
    await expect(deliveredGlb(bare, look)).rejects.toThrow(
      'Textures need UVs, and the mesh has none; vertex colors work without.',
    )
  })

  it('has the vertices of the file or of the analysis mesh, with the same pictures', async () => {
    const preparation = { ...emptyPreparation(), edge: 0.2 }
    const piece = new Workpiece(row(2), preparation)
    const [file, refined] = (await Promise.all(
      ['file', 'analysis'].map(async on => readMesh(await deliveredGlb(row(2), look, { on }, preparation), 'x.glb')),
    )) as [Mesh, Mesh]
    expect([file.indices.length, refined.indices.length]).toEqual([
      piece.mesh.indices.length,
      piece.tables.mesh.indices.length,
    ])
    expect(refined.indices.length).toBeGreaterThan(file.indices.length)
    const pictures = (m: Mesh) => m.surfaces![0]!.textures.map(t => Buffer.from(t.bytes).toString('base64'))
    expect(pictures(file)).toHaveLength(2)
    expect(pictures(file)).toEqual(pictures(refined))
  })

  it('keeps the parts and their draws: the delivery read again draws the same', async () => {
    const mesh = boxes([
      { object: 'a', at: [0, 0, 0] },
      { object: 'a', at: [2, 0, 0] },
      { object: 'b', at: [4, 1, 0] },
    ])
    const tables = tablesOf(mesh)
    const again = tablesOf(await readMesh(await deliveredGlb(mesh, look), 'mesh.glb'))
    expect(again.parts.parts.map(p => p.key)).toEqual(tables.parts.parts.map(p => p.key))
    expect(at(look, again, 'partRandom1/value')[0]).toEqual(at(look, tables, 'partRandom1/value')[0])
  })
})

it('writes the table as CSV with quoted names, spreads and draws', () => {
  const channels = {
    baseColor: [0.1, 0.2, 0.3],
    metalness: [0],
    roughness: [0.5],
    height: [0.2],
    emission: [0, 0, 0],
    opacity: [1],
    translucency: [0, 1, 1, 1],
  }
  const spread = {
    baseColor: [0, 0, 0],
    metalness: [0],
    roughness: [0.25],
    height: [0],
    emission: [0, 0, 0],
    opacity: [0],
    translucency: [0, 0, 0, 0],
  }
  const rows = [
    {
      key: 'k',
      name: 'a, "b"',
      object: 'o',
      area: 0.12345678,
      index: 3,
      group: { index: 1, name: 'String 2' },
      parents: ['Rack', 'Upper'],
      center: [0.5, 1, 2] as const,
      box: { min: [0, 0.5, 1.5] as const, max: [1, 1.5, 2.5] as const },
      channels,
      spread,
      draws: { 'Each part': 0.5, 'Glaze color': '#102030' },
    },
  ]
  const [head, line] = partValuesCsv(rows).trim().split('\r\n')
  expect(head).toMatch(
    /^key,name,object,area,index,group,parent,center x,center y,center z,min x,.*,max z,baseColor\.r,baseColor\.g,baseColor\.b,metalness,roughness,.*,roughness spread,.*,Each part,Glaze color$/,
  )
  expect(line).toBe(
    'k,"a, ""b""",o,0.123457,3,String 2,Rack/Upper,0.5,1,2,0,0.5,1.5,1,1.5,2.5,0.1,0.2,0.3,0,0.5,0.2,0,0,0,1,0,1,1,1,0,0,0,0,0.25,0,0,0,0,0,0,0,0,0,0.5,#102030',
  )
})

it('the table has the spread within a part and what was drawn for it', () => {
  const tables = tablesOf(row(6))
  const look = lookOf(
    {
      random: ['partRandom'],
      palette: ['palette'],
      x: ['positionGradient', { axis: 'X', space: 'part' }],
      finish: ['finish'],
    },
    [
      'random.value > finish.metalness',
      'palette.color > finish.baseColor',
      'x.value > finish.roughness',
      'finish.finish > result.finish',
    ],
  )
  const rows = partValues(LaidLook.of(kernels, tables, look), look)
  for (const r of rows) {
    expect(r.draws['Part random']).toBeCloseTo(r.channels.metalness[0]!, 5)
    expect(r.spread.metalness[0]).toBeLessThan(1e-6)
    // Two sides of a box are at the ends, four run across: the variance is (2/4 + 4/12) / 6.
    expect(r.spread.roughness[0]).toBeCloseTo(Math.sqrt((2 / 4 + 4 / 12) / 6), 1)
  }
  expect(rows.map(r => r.draws['Palette entry']).sort()).toEqual([1, 1, 1, 2, 2, 3])
})
