import type { Document, Material } from '@gltf-transform/core'
import { KHRMaterialsEmissiveStrength, KHRTextureTransform } from '@gltf-transform/extensions'
import { expect } from '@playwright/test'
import { decode, encode } from 'fast-png'
import { normalsOfPictures } from '../../core/dense/normalPicture'
import { occlusionOfPictures } from '../../core/dense/occlusionPicture'
import { rgbaOf, type Picture } from '../../core/evaluate/pictures'
import { Workpiece } from '../../core/evaluate/workpiece'
import { exrPicture } from '../../core/exchange/readExr'
import { readMesh } from '../../core/exchange/readMesh'
import { setParam } from '../../core/graph/edit'
import { startFromFile } from '../../core/graph/fileMaterials'
import { emptyLook } from '../../core/graph/look'
import { still } from '../../core/light/still'
import { boundsOf } from '../../core/mesh/mesh'
import { emptyPreparation } from '../../core/mesh/preparation'
import { RESULT } from '../../core/nodes'
import { compressor, tangents } from '../../node/bake/compress'
import { colorDifferences, shareBelow } from '../colorDifferences'
import { kernels } from '../helpers'
import { squares, texture } from '../squares'
import { alone as test } from './day'
import type { Asked } from './harness/loader'
import { load } from './support'

// What a file means by its materials: the look that begins with them, against three.js's own loader in the same light.

type Dress = (m: Material, d: Document) => void
const transformed: Dress = (m, d) =>
  m
    .setMetallicFactor(0)
    .setBaseColorTexture(texture(d))
    .getBaseColorTextureInfo()!
    .setExtension(
      'KHR_texture_transform',
      d.createExtension(KHRTextureTransform).createTransform().setOffset([0.3, -0.2]).setRotation(0.7).setScale([2, 2]),
    )
const second: Dress = (m, d) =>
  m.setMetallicFactor(0).setBaseColorTexture(texture(d)).getBaseColorTextureInfo()!.setTexCoord(1)

const MODELS: { name: string; dresses: Dress[]; colored?: boolean }[] = [
  {
    name: 'factors of color, metalness and roughness',
    dresses: [
      m => m.setBaseColorFactor([0.8, 0.1, 0.05, 1]).setMetallicFactor(0).setRoughnessFactor(0.3),
      m => m.setBaseColorFactor([0.1, 0.2, 0.7, 1]).setMetallicFactor(1).setRoughnessFactor(0.6),
      m => m.setBaseColorFactor([0.9, 0.6, 0.2, 1]).setMetallicFactor(1).setRoughnessFactor(0.1),
    ],
  },
  {
    name: 'emission and its strength',
    dresses: [
      (m, d) =>
        m
          .setMetallicFactor(0)
          .setEmissiveFactor([0.5, 0.25, 0.1])
          .setExtension(
            'KHR_materials_emissive_strength',
            d.createExtension(KHRMaterialsEmissiveStrength).createEmissiveStrength().setEmissiveStrength(1.5),
          ),
      (m, d) => m.setMetallicFactor(0).setEmissiveTexture(texture(d)).setEmissiveFactor([1, 0.5, 0.2]),
    ],
  },
  { name: 'a picture of color, on the transform that the file gives it', dresses: [transformed] },
  { name: 'a picture of color on the second UVs', dresses: [second] },
  { name: 'colors of vertices as a factor', dresses: [m => m.setMetallicFactor(0)], colored: true },
  {
    name: 'a picture of metalness and roughness',
    dresses: [(m, d) => m.setMetallicRoughnessTexture(texture(d)).setMetallicFactor(0.5).setRoughnessFactor(0.9)],
  },
  {
    name: 'what is cut out',
    dresses: [
      (m, d) => m.setMetallicFactor(0).setBaseColorTexture(texture(d)).setAlphaMode('MASK').setAlphaCutoff(0.45),
    ],
  },
  {
    name: 'a picture of normals, half as strong',
    dresses: [
      (m, d) =>
        m
          .setMetallicFactor(1)
          .setRoughnessFactor(0.4)
          .setNormalTexture(d.createTexture('bumps').setImage(bumps()).setMimeType('image/png'))
          .setNormalScale(0.5),
    ],
  },
  {
    name: 'a picture of occlusion',
    dresses: [(m, d) => m.setMetallicFactor(0).setRoughnessFactor(0.7).setOcclusionTexture(texture(d))],
  },
  {
    name: 'a picture of occlusion on the second UVs of a metal, at less than its full strength',
    dresses: [
      (m, d) => {
        m.setMetallicFactor(1).setRoughnessFactor(0.3).setOcclusionTexture(texture(d)).setOcclusionStrength(0.6)
        m.getOcclusionTextureInfo()!.setTexCoord(1)
      },
    ],
  },
]
/** A picture of normals in tangent space, green up: soft bumps, three to a side. */
function bumps(): Uint8Array {
  const side = 48
  const data = new Uint8Array(side * side * 4).fill(255)
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const angle = (at: number): number => (((at + 0.5) / side) * 3 * 2 * Math.PI) % (2 * Math.PI)
      const n = [-0.6 * Math.cos(angle(x)), 0.6 * Math.cos(angle(y)), 1]
      const length = Math.hypot(...n)
      n.forEach((v, k) => (data[(y * side + x) * 4 + k] = Math.round(((v / length) * 0.5 + 0.5) * 255)))
    }
  return encode({ width: side, height: side, data, channels: 4 })
}
const SIZE = { width: 320, height: 240 }
const GRAY = 0.5

/** A still of the look that begins with a file's materials, without what only the stage adds. */
async function ours(bytes: Uint8Array): Promise<{ picture: Uint8ClampedArray; asked: Asked }> {
  const mesh = await readMesh(bytes, 'tiles.glb')
  const bare = new Workpiece(mesh, emptyPreparation())
  const start = startFromFile({ look: emptyLook(), preparation: emptyPreparation() }, bare.mesh, bare.parts, [])
  const piece = new Workpiece(mesh, start.preparation)
  const pictures = start.pictures.map((p): Picture => ({ name: p.name, ...rgbaOf(decode(p.bytes)) }))
  const laid = (list: typeof start.normals) =>
    list.map(({ material, texture: { bytes, type: _, use: __, ...lies } }) => ({
      ...lies,
      material,
      green: 'up' as const,
      picture: { name: '', ...rgbaOf(decode(bytes)) },
    }))
  const sources = laid(start.normals)
  const closing = laid(start.occlusions)
  let { look } = start
  if (closing.length) {
    const made = occlusionOfPictures(kernels.texels, piece.mesh, closing, 512, compressor)
    pictures.push(exrPicture('occlusion.exr', made))
    look = setParam(look, look.nodes.find(n => n.kind === RESULT)!.id, 'occlusion', 'occlusion.exr')
  }
  if (sources.length) {
    const turned = normalsOfPictures(kernels.texels, piece.mesh, sources, 512, tangents, compressor)
    pictures.push(exrPicture('normals.exr', turned))
    look = setParam(look, look.nodes.find(n => n.kind === RESULT)!.id, 'normals', 'normals.exr')
  }
  piece.setPictures(pictures)
  const { tables } = piece
  const picture = still(kernels, tables, look, {
    ...SIZE,
    rig: 'overcast',
    background: [GRAY, GRAY, GRAY],
    without: ['ground', 'shadows', 'contact'],
  })
  return { picture, asked: { ...SIZE, gray: GRAY, box: boundsOf(tables.mesh.positions, tables.mesh.indices) } }
}

/** The share of the pixels with surface in either picture whose colors differ by less than 2 in CIEDE2000. */
function shareAlike(a: ArrayLike<number>, b: ArrayLike<number>): number {
  const isPlain = (p: ArrayLike<number>, at: number): boolean =>
    [0, 1, 2].every(k => Math.abs(p[at + k]! - GRAY * 255) <= 1)
  const found = colorDifferences(a, b, isPlain)
  expect(found.length).toBeGreaterThan(1000)
  return shareBelow(found, 2)
}

test("the look of a file is what three.js's loader shows of it", async ({ page }) => {
  test.setTimeout(180_000)
  await load(page, 'loader')
  await page.waitForFunction(() => 'shown' in window)
  for (const { name, dresses, colored } of MODELS) {
    const bytes = await squares(dresses, colored)
    const { picture, asked } = await ours(bytes)
    const theirs = await page.evaluate(
      ([glb, settings]) =>
        (window as unknown as { shown(glb: string, settings: Asked): Promise<string> }).shown(glb, settings),
      [Buffer.from(bytes).toString('base64'), asked] as const,
    )
    // Edges are smooth in both, not quite alike.
    expect(shareAlike(picture, Buffer.from(theirs, 'latin1')), name).toBeGreaterThan(0.95)
  }
})
