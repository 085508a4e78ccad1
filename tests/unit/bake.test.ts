import { decode } from 'fast-png'
import validator from 'gltf-validator'
import { describe, expect, it } from 'vitest'
import { dilate } from '#core/bake/dilate'
import { rasterizeUvs } from '#core/bake/raster'
import { bakeTextures } from '#core/bake/textures'
import { partValues, partValuesCsv } from '#core/bake/values'
import { Workpiece } from '#core/evaluate/workpiece'
import { emptyPreparation } from '#core/mesh/preparation'
import { decodeSrgb } from '#core/color/convert'
import { deliverGlb, DeliveryError, type GlbOptions } from '#core/exchange/deliver'
import { readMesh } from '#core/exchange/readMesh'
import { lower, reader } from '#core/program/lower'
import type { Mesh } from '#core/mesh/mesh'
import { at, boxes, kernels, lookOf, positionsOf, row, tablesOf } from '../helpers'

const read = reader
const GLB = { size: 512, dilation: 8, colorIn: 'texture' as const }

/** A flat square from (0, 0) to (1, 1) in x and y, its UVs as given: `u = x`, `v = 1 - y` unless mirrored. */
function square(mirrored = false): Mesh {
  return {
    positions: Float32Array.of(0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0), normals: Float32Array.of(0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1),
    uvs: Float32Array.from([[0, 1], [1, 1], [1, 0], [0, 0]].flatMap(([u, v]) => [mirrored ? 1 - u! : u!, v!])), indices: Uint32Array.of(0, 1, 2, 0, 2, 3),
    objects: [{ name: 'square', firstVertex: 0, vertices: 4, firstTriangle: 0, triangles: 2 }], materials: [{ name: '', firstTriangle: 0, triangles: 2 }], maps: [], warnings: [],
  }
}

describe('rasterizing UVs', () => {
  it('covers every texel of a full square once, each with the point at its center', () => {
    for (const mirrored of [false, true]) {
      const mesh = square(mirrored), { texel, points } = rasterizeUvs(mesh, 16)
      expect([...texel].sort((a, b) => a - b)).toEqual([...Array(256).keys()])
      positionsOf(tablesOf(mesh), points).forEach(([x, y], i) => {
        const column = texel[i]! % 16, line = texel[i]! >> 4
        expect(x).toBeCloseTo(mirrored ? 1 - (column + 0.5) / 16 : (column + 0.5) / 16, 5)
        expect(y).toBeCloseTo(1 - (line + 0.5) / 16, 5)
      })
    }
  })
  it('wraps what lies outside the unit square', () => {
    const mesh = square(), moved = { ...mesh, uvs: mesh.uvs!.map((x, i) => x + (i % 2 ? -2 : 3)) }
    expect([...rasterizeUvs(moved, 8).texel].sort((a, b) => a - b)).toEqual([...Array(64).keys()])
  })
  it('keeps islands apart: no texel belongs to two boxes', () => {
    const { mesh, parts } = tablesOf(row(9)), { texel, points } = rasterizeUvs(mesh, 96)
    expect(new Set(texel).size).toBe(texel.length)
    const cell = (i: number) => Math.floor(texel[i]! / 96 / 32) * 3 + Math.floor(texel[i]! % 96 / 32)
    points.triangle.forEach((t, i) => expect(Number(mesh.objects[parts.parts[parts.partOfTriangle[t]!]!.object]!.name.slice(4))).toBe(cell(i)))
  })
})

describe('dilation', () => {
  it('grows ring by ring with the mean of its neighbors and never changes what is covered', () => {
    const size = 9, image = new Float32Array(81), covered = new Uint8Array(81)
    image[40] = 6
    covered[40] = 1
    dilate(image, 1, size, covered, 2)
    expect(covered.reduce((a, x) => a + x)).toBe(25)
    expect(image.filter((_, i) => covered[i]).every(x => x === 6)).toBe(true)
    const two = new Float32Array(81), both = new Uint8Array(81)
    ;[39, 41].forEach((at, i) => {
      two[at] = i ? 8 : 2
      both[at] = 1
    })
    dilate(two, 1, size, both, 1)
    expect([two[39], two[40], two[41], two[38]]).toEqual([2, 5, 8, 2])
  })
})

describe('textures', () => {
  const gradient = lookOf({ x: ['positionGradient', { axis: 'X' }], y: ['positionGradient', { axis: 'Y' }], finish: ['finish', { metalness: 0.25 }] },
    ['x.value > finish.baseColor', 'y.value > finish.roughness', 'finish.finish > result.finish'])
  it('hold the right values at the right texels, encoded as glTF asks', () => {
    for (const mirrored of [false, true]) {
      const tables = tablesOf(square(mirrored)), done = bakeTextures(kernels, tables, lower(gradient, []), read(gradient), { size: 64, dilation: 0 })
      const color = decode(done.baseColor), packed = decode(done.metallicRoughness)
      expect([color.width, color.height, color.channels, color.depth]).toEqual([64, 64, 3, 8])
      for (let i = 0; i < 64 * 64; i += 7) {
        const x = (i % 64 + 0.5) / 64, y = 1 - ((i >> 6) + 0.5) / 64
        expect(decodeSrgb(Number(color.data[i * 3]) / 255)).toBeCloseTo(mirrored ? 1 - x : x, 1.9)
        expect(Number(packed.data[i * 3 + 1])).toBe(Math.round(y * 255))
        expect(Number(packed.data[i * 3 + 2])).toBe(Math.round(0.25 * 255))
      }
    }
  })
})

describe('a delivered GLB', () => {
  const look = lookOf({ random: ['partRandom'], vary: ['varyColor', { hue: 300, lightness: 40 }], noise: ['noise', { size: 40 }], finish: ['finish'] },
    ['random.value > vary.hueBy', 'random.second > vary.lightnessBy', 'vary.color > finish.baseColor', 'noise.value > finish.roughness', 'finish.finish > result.finish'])
  const validate = async (bytes: Uint8Array) => (await validator.validateBytes(bytes)).issues as { numErrors: number, numWarnings: number }

  it('passes the validator of the standard, with textures or vertex colors, with or without UVs', async () => {
    const { uvs: _, ...bare } = row(3)
    for (const mesh of [row(3), bare as Mesh]) {
      for (const colorIn of mesh.uvs ? ['texture', 'vertices'] as const : ['vertices'] as const) {
        const withMaps = { ...mesh, maps: [{ name: 'COLOR_0', components: 4, values: new Float32Array(288).fill(1) }, { name: 'wet', components: 1, values: new Float32Array(72) }] }
        const glb = await deliverGlb(kernels, tablesOf(withMaps as Mesh), look, { ...GLB, colorIn })
        expect(await validate(glb)).toMatchObject({ numErrors: 0, numWarnings: 0 })
      }
    }
  })

  it('carries in its texture the mean color of each part that the table says', async () => {
    const tables = tablesOf(row(5)), program = lower(look, []), rows = partValues(kernels, tables, program, read(look))
    const { data } = decode(bakeTextures(kernels, tables, program, read(look), { size: 256, dilation: 4 }).baseColor)
    const { texel, points } = rasterizeUvs(tables.mesh, 256)
    rows.forEach((r, p) => {
      const own = [...texel].filter((_, i) => tables.parts.partOfTriangle[points.triangle[i]!] === p)
      r.channels.baseColor.forEach((x, k) => expect(own.reduce((sum, at) => sum + decodeSrgb(Number(data[at * 3 + k]) / 255), 0) / own.length).toBeCloseTo(x, 2))
      expect(r.area).toBeCloseTo(6, 5)
    })
    expect(new Set(rows.map(r => r.channels.baseColor.join())).size).toBe(5)
  })

  it('has the same color per vertex when asked, and then no base color texture to multiply it with', async () => {
    const tables = tablesOf(row(2)), glb = await deliverGlb(kernels, tables, look, { ...GLB, colorIn: 'vertices' }), back = await readMesh(glb, 'mesh.glb')
    const colors = back.maps.find(m => m.name === 'COLOR_0')!
    expect(colors.components).toBe(3)
    partValues(kernels, tables, lower(look, []), read(look)).forEach((r, p) => {
      const v = tables.parts.partOfVertex.indexOf(p)
      r.channels.baseColor.forEach((x, k) => expect(colors.values[v * 3 + k]).toBeCloseTo(x, 4))
    })
    const json = JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + new DataView(glb.buffer, glb.byteOffset).getUint32(12, true)))) as { materials: { pbrMetallicRoughness: object }[] }
    expect(Object.keys(json.materials[0]!.pbrMetallicRoughness)).toEqual(['metallicRoughnessTexture'])
  })

  it('is refused with a reason where textures are asked for and there are no UVs', async () => {
    const { uvs: _, ...bare } = row(1)
    await expect(deliverGlb(kernels, tablesOf(bare), look, GLB)).rejects.toThrow(DeliveryError)
    await expect(deliverGlb(kernels, tablesOf(bare), look, GLB)).rejects.toThrow('Textures need UVs, and the mesh has none; vertex colors work without.')
  })

  it('through textures has the vertices of the file with the pictures of the refined mesh; in vertex colors, the refined ones', async () => {
    const piece = new Workpiece(row(2), { ...emptyPreparation(), edge: 0.2 }), { plain, tables } = { plain: piece.mesh, tables: piece.tables }
    const delivered = async (options: Partial<GlbOptions>) => readMesh(await deliverGlb(kernels, tables, look, { ...GLB, ...options }), 'x.glb')
    const [file, refined, colors] = [await delivered({ plain }), await delivered({}), await delivered({ plain, colorIn: 'vertices' })]
    expect([file, refined, colors].map(m => m.indices.length)).toEqual([plain, tables.mesh, tables.mesh].map(m => m.indices.length))
    expect(refined.indices.length).toBeGreaterThan(file.indices.length)
    const pictures = (m: Mesh) => m.surfaces![0]!.textures.map(t => Buffer.from(t.bytes).toString('base64'))
    expect(pictures(file)).toHaveLength(2)
    expect(pictures(file)).toEqual(pictures(refined))
  })

  it('keeps the parts and their draws: the delivery read again draws the same', async () => {
    const mesh = boxes([{ object: 'a', at: [0, 0, 0] }, { object: 'a', at: [2, 0, 0] }, { object: 'b', at: [4, 1, 0] }]), tables = tablesOf(mesh)
    const again = tablesOf(await readMesh(await deliverGlb(kernels, tables, look, GLB), 'mesh.glb'))
    expect(again.parts.parts.map(p => p.key)).toEqual(tables.parts.parts.map(p => p.key))
    expect(at(look, again, 'partRandom1/value')[0]).toEqual(at(look, tables, 'partRandom1/value')[0])
  })
})

it('writes the table as CSV with quoted names', () => {
  const rows = [{ key: 'k', name: 'a, "b"', area: 0.12345678, channels: { baseColor: [0.1, 0.2, 0.3], metalness: [0], roughness: [0.5], height: [0.2], emission: [0, 0, 0], opacity: [1], translucency: [0, 1, 1, 1] } }]
  expect(partValuesCsv(rows)).toBe('key,name,area,baseColor.r,baseColor.g,baseColor.b,metalness,roughness,height,emission.r,emission.g,emission.b,opacity,translucency,translucency.r,translucency.g,translucency.b\r\nk,"a, ""b""",0.123457,0.1,0.2,0.3,0,0.5,0.2,0,0,0,1,0,1,1,1\r\n')
})
