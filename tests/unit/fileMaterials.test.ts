import type { Document, Material } from '@gltf-transform/core'
import { KHRMaterialsEmissiveStrength, KHRTextureTransform } from '@gltf-transform/extensions'
import { decode } from 'fast-png'
import { strToU8, zipSync } from 'fflate'
import { Texture, Vector2 } from 'three'
import { describe, expect, it } from 'vitest'
import { decodeSrgb } from '#core/color/convert'
import { readMesh } from '#core/exchange/readMesh'
import { rgbaOf, type Picture } from '#core/evaluate/pictures'
import { Workpiece } from '#core/evaluate/workpiece'
import { check } from '#core/graph/check'
import { startFromFile, type FileStart } from '#core/graph/fileMaterials'
import { emptyLook } from '#core/graph/look'
import type { Mesh } from '#core/mesh/mesh'
import { emptyPreparation } from '#core/mesh/preparation'
import { pointSet, type SurfacePoints } from '#core/mesh/sample'
import { LoneEvaluator } from '#core/evaluate/loneEvaluator'
import { lower, reader } from '#core/program/lower'
import { plan } from '#core/program/plan'
import type { Channel } from '#core/graph/types'
import { kernels } from '../helpers'
import { HEIGHT, png, squares, texels, texture, WIDTH } from '../squares'

interface Begun extends FileStart {
  mesh: Mesh
  at: (channel: Channel, square: number, u: number, v: number) => number[]
}
/** Reads a file, starts from its materials, and evaluates what came of it. */
async function begin(bytes: Uint8Array, name = 'tiles.glb'): Promise<Begun> {
  const mesh = await readMesh(bytes, name)
  const bare = new Workpiece(mesh, emptyPreparation())
  const start = startFromFile({ look: emptyLook(), preparation: emptyPreparation() }, bare.mesh, bare.parts, [])
  const piece = new Workpiece(mesh, start.preparation)
  piece.setPictures(start.pictures.map((p): Picture => ({ name: p.name, ...rgbaOf(decode(p.bytes)) })))
  const { tables } = piece
  const program = lower(start.look, mesh.maps)
  return {
    ...start,
    mesh,
    at(channel, square, u, v) {
      // Corners 0 (left below), 1 (right below), 2 (right above), 3: the weights of the second and third corner.
      const below = u >= v
      const points: SurfacePoints = pointSet(1)
      points.triangle[0] = square * 2 + (below ? 0 : 1)
      points.u[0] = below ? u - v : u
      points.v[0] = below ? v : v - u
      const roots = program.result[channel]
      const evaluator = new LoneEvaluator(kernels, plan(program, roots), tables)
      const columns = roots.map(() => new Float32Array(1))
      evaluator.refresh(reader(start.look))
      evaluator.evaluate(points, columns)
      return columns.map(column => column[0]!)
    },
  }
}

/** What glTF says a texture is at UVs (v downward), by the texture matrix of three.js, texels read here. */
function wanted(
  u: number,
  v: number,
  channel: number,
  placed?: { move: number[]; turn: number; scale: number[] },
): number {
  const t = new Texture()
  if (placed) {
    t.offset.fromArray(placed.move)
    t.rotation = placed.turn
    t.repeat.fromArray(placed.scale)
  }
  t.updateMatrix()
  const p = new Vector2(u, v).applyMatrix3(t.matrix)
  const x = p.x * WIDTH - 0.5
  const y = p.y * HEIGHT - 0.5
  const turned = (i: number, n: number) => ((i % n) + n) % n
  const texel = (i: number, j: number) => {
    const raw = texels[(turned(j, HEIGHT) * WIDTH + turned(i, WIDTH)) * 4 + channel]! / 255
    return channel === 3 ? raw : decodeSrgb(raw)
  }
  const [i, j] = [Math.floor(x), Math.floor(y)]
  const mix = (a: number, b: number, s: number) => a + (b - a) * s
  return mix(mix(texel(i, j), texel(i + 1, j), x - i), mix(texel(i, j + 1), texel(i + 1, j + 1), x - i), y - j)
}
const PLACES = [
  [0.1, 0.2],
  [0.45, 0.4],
  [0.62, 0.7],
  [0.9, 0.33],
] as const

describe('Starting from the materials of a file', () => {
  it('gives each material its own factors on its own parts', async () => {
    const begun = await begin(
      await squares([
        m => m.setBaseColorFactor([0.8, 0.1, 0.05, 1]).setMetallicFactor(0).setRoughnessFactor(0.3),
        m => m.setBaseColorFactor([0.1, 0.2, 0.7, 1]).setMetallicFactor(1).setRoughnessFactor(0.6),
        (m, d) =>
          m
            .setBaseColorFactor([0.5, 0.5, 0.5, 1])
            .setEmissiveFactor([0.5, 0.25, 1])
            .setExtension(
              'KHR_materials_emissive_strength',
              d.createExtension(KHRMaterialsEmissiveStrength).createEmissiveStrength().setEmissiveStrength(6),
            ),
      ]),
    )
    const near = (got: number[], want: number[]) => got.forEach((x, i) => expect(x).toBeCloseTo(want[i]!, 5))
    near(begun.at('baseColor', 0, 0.3, 0.3), [0.8, 0.1, 0.05])
    near(begun.at('baseColor', 1, 0.3, 0.3), [0.1, 0.2, 0.7])
    near([...begun.at('metalness', 0, 0.3, 0.3), ...begun.at('metalness', 1, 0.3, 0.3)], [0, 1])
    near([...begun.at('roughness', 0, 0.3, 0.3), ...begun.at('roughness', 1, 0.3, 0.3)], [0.3, 0.6])
    near(begun.at('emission', 2, 0.3, 0.3), [3, 1.5, 6])
    near(begun.at('emission', 1, 0.3, 0.3), [0, 0, 0])
    expect(begun.preparation.sets.map(s => s.name)).toEqual(['Coat B', 'Coat C'])
    expect(begun.look.notes).toBeUndefined()
    expect(check(begun.look, { maps: [], sets: begun.preparation.sets.map(s => s.name), pictures: [] })).toEqual([])
  })

  it('lays pictures as the file does: UV set, scale, turn and shift, times factor and vertex color', async () => {
    const placed = { move: [0.3, -0.2] as [number, number], turn: 0.7, scale: [2, 2] as [number, number] }
    const stretched = { move: [0.1, 0.6] as [number, number], turn: 0, scale: [-1.5, 3] as [number, number] }
    const moved = (m: Material, d: Document, t: typeof placed) =>
      m
        .setBaseColorTexture(texture(d))
        .getBaseColorTextureInfo()!
        .setExtension(
          'KHR_texture_transform',
          d
            .createExtension(KHRTextureTransform)
            .createTransform()
            .setOffset(t.move)
            .setRotation(t.turn)
            .setScale(t.scale),
        )
    const begun = await begin(
      await squares(
        [
          (m, d) => m.setBaseColorTexture(texture(d)).setBaseColorFactor([0.5, 1, 0.25, 1]),
          (m, d) => moved(m, d, placed),
          (m, d) => moved(m, d, stretched),
          (m, d) => m.setBaseColorTexture(texture(d)).getBaseColorTextureInfo()!.setTexCoord(1),
        ],
        true,
      ),
    )
    expect(begun.pictures).toHaveLength(1)
    const same = (square: number, u: number, v: number, want: (channel: number) => number) => {
      // Across the square the red of the corners grows from 0 to 1, and green falls from 1 to a half on the way up.
      const color = [u, 1 - v / 2, 1]
      begun
        .at('baseColor', square, u, v)
        .forEach((x, channel) => expect(x).toBeCloseTo(want(channel) * color[channel]!, 4))
    }
    for (const [u, v] of PLACES) {
      same(0, u, v, channel => wanted(u, 1 - v, channel) * [0.5, 1, 0.25][channel]!)
      same(1, u, v, channel => wanted(u, 1 - v, channel, placed))
      same(2, u, v, channel => wanted(u, 1 - v, channel, stretched))
      same(3, u, v, channel => wanted(u * 3, (1 - v) * 3, channel))
    }
    expect(begun.notes).toEqual([])
  })

  it('reads metalness, roughness, emission and alpha from their channels, and cuts out where the file does', async () => {
    const begun = await begin(
      await squares([
        (m, d) =>
          m
            .setMetallicRoughnessTexture(texture(d))
            .setMetallicFactor(0.5)
            .setRoughnessFactor(1)
            .setEmissiveTexture(texture(d))
            .setEmissiveFactor([1, 0.5, 0]),
        (m, d) => m.setBaseColorTexture(texture(d)).setAlphaMode('BLEND').setBaseColorFactor([1, 1, 1, 0.5]),
        (m, d) => m.setBaseColorTexture(texture(d)).setAlphaMode('MASK').setAlphaCutoff(0.45),
        (m, d) => m.setBaseColorTexture(texture(d)),
      ]),
    )
    const encoded = (x: number) => (x <= 0.0031308 ? x * 12.92 : 1.055 * x ** (1 / 2.4) - 0.055)
    const atTexel = (i: number, j: number) => [(i + 0.5) / WIDTH, 1 - (j + 0.5) / HEIGHT] as const
    for (const [i, j] of [
      [0, 0],
      [1, 2],
      [3, 1],
    ] as const) {
      const [u, v] = atTexel(i, j)
      const raw = (channel: number) => texels[(j * WIDTH + i) * 4 + channel]! / 255
      expect(begun.at('metalness', 0, u, v)[0]).toBeCloseTo(raw(2) * 0.5, 4)
      expect(begun.at('roughness', 0, u, v)[0]).toBeCloseTo(raw(1), 4)
      const glow = begun.at('emission', 0, u, v)
      expect(encoded(glow[0]!)).toBeCloseTo(raw(0), 4)
      expect(glow[1]).toBeCloseTo(decodeSrgb(raw(1)) * 0.5, 4)
      expect(glow[2]).toBe(0)
      expect(begun.at('opacity', 1, u, v)[0]).toBeCloseTo(raw(3) * 0.5, 4)
      expect(begun.at('opacity', 2, u, v)[0]).toBe(Number(raw(3) >= 0.45))
      expect(begun.at('opacity', 3, u, v)[0]).toBe(1)
      expect(begun.at('opacity', 0, u, v)[0]).toBe(1)
    }
  })

  it('knows what lies beyond the edge of a picture, and the nearest texel', async () => {
    const begun = await begin(
      await squares([
        (m, d) =>
          m
            .setBaseColorTexture(texture(d))
            .getBaseColorTextureInfo()!
            .setTexCoord(1)
            .setWrapS(33071)
            .setWrapT(33648)
            .setMagFilter(9728),
      ]),
    )
    // The second set runs from 0 to 3: beyond the first tile the last column goes on, and every other row of tiles is
    // upside down.
    const texel = (i: number, j: number) => decodeSrgb(texels[(j * WIDTH + i) * 4]! / 255)
    const got = (u: number, down: number) => begun.at('baseColor', 0, u / 3, 1 - down / 3)[0]!
    expect(got(0.6, 0.2)).toBeCloseTo(texel(2, 0), 4)
    expect(got(2.3, 0.2)).toBeCloseTo(texel(3, 0), 4)
    expect(got(0.1, 1.1)).toBeCloseTo(texel(0, 2), 4)
    expect(got(0.1, 2.1)).toBeCloseTo(texel(0, 0), 4)
  })

  it('says what it leaves out, and keeps what was in the look', async () => {
    const bytes = await squares([
      (m, d) => {
        m.setNormalTexture(texture(d)).setNormalScale(0.5)
        m.setOcclusionTexture(texture(d)).setOcclusionStrength(0.7)
      },
      m => m.setRoughnessFactor(0.2),
    ])
    const mesh = await readMesh(bytes, 'tiles.glb')
    const piece = new Workpiece(mesh, emptyPreparation())
    const look = emptyLook()
    const old = { id: 'noise1', kind: 'noise', at: [10, 20] as [number, number], params: { seed: 5 } }
    const start = startFromFile(
      { look: { ...look, nodes: [...look.nodes, old] }, preparation: emptyPreparation() },
      piece.mesh,
      piece.parts,
      ['Coat A occlusion.png'],
    )
    expect(start.normals).toMatchObject([{ material: 'Coat A', texture: { use: 'normal', strength: 0.5 } }])
    expect(start.occlusions).toMatchObject([{ material: 'Coat A', texture: { use: 'occlusion', strength: 0.7 } }])
    expect(start.pictures).toEqual([])
    expect(start.look.nodes.find(n => n.id === 'noise1')).toEqual(old)
    const made = start.look.nodes.filter(n => n.id !== 'noise1' && n.kind !== 'result')
    expect(Math.min(...made.map(n => n.at[1]))).toBeGreaterThan(20 + 100)
  })

  it('says so where the file has no materials', async () => {
    const mesh = await readMesh(strToU8('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3'), 'bare.obj')
    const piece = new Workpiece(mesh, emptyPreparation())
    expect(() =>
      startFromFile({ look: emptyLook(), preparation: emptyPreparation() }, piece.mesh, piece.parts, []),
    ).toThrow('The file says nothing of its materials.')
  })

  it('reads a material library: highlights as roughness, what is let through, and how pictures lie', async () => {
    const library = [
      'newmtl shiny',
      'Kd 0.5 0.5 0.5',
      'Ns 98',
      'd 0.25',
      'newmtl told',
      'Pr 0.9',
      'Ns 98',
      'Ke 1 0.5 0',
      'map_Kd -s 2 3 -o 0.1 0.2 -clamp on paint.png',
    ]
    const object = [
      'mtllib tiles.mtl',
      'v 0 0 0',
      'v 1 0 0',
      'v 1 1 0',
      'v 0 1 0',
      'vt 0 0',
      'vt 1 0',
      'vt 1 1',
      'vt 0 1',
      'usemtl told',
      'f 1/1 2/2 3/3',
      'f 1/1 3/3 4/4',
      'v 2 0 0',
      'v 3 0 0',
      'v 3 1 0',
      'usemtl shiny',
      'f 5/1 6/2 7/3',
    ]
    const begun = await begin(
      zipSync({
        'tiles.obj': strToU8(object.join('\n')),
        'tiles.mtl': strToU8(library.join('\n')),
        'paint.png': png,
      }),
      'tiles.zip',
    )
    const [shiny, told] = begun.mesh.surfaces!
    // (2 / (98 + 2)) to the power of 1/4.
    expect(shiny!.roughness).toBeCloseTo(0.37606, 5)
    expect(shiny!.opacity).toBe(0.25)
    expect(told).toMatchObject({ roughness: 0.9, emission: [1, decodeSrgb(0.5), 0] })
    expect(told!.opacity).toBeUndefined()
    // At v = 0.1 from below the picture is read at 3 * 0.1 + 0.2 from below, and u at 2 * 0.3 + 0.1.
    const [i, j] = [2, 1]
    const [u, up] = [((i + 0.5) / WIDTH - 0.1) / 2, (1 - (j + 0.5) / HEIGHT - 0.2) / 3]
    begun
      .at('baseColor', 0, u, up)
      .forEach((x, k) =>
        expect(x).toBeCloseTo(decodeSrgb(texels[(j * WIDTH + i) * 4 + k]! / 255) * told!.baseColor[k]!, 4),
      )
    // Beyond its edge the last column goes on.
    const edge = begun.at('baseColor', 0, 0.9, up)
    edge.forEach((x, k) =>
      expect(x).toBeCloseTo(decodeSrgb(texels[(j * WIDTH + 3) * 4 + k]! / 255) * told!.baseColor[k]!, 4),
    )
  })
})
