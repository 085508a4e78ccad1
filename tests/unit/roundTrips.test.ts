import { materialXOf } from '../usdMaterialX'
import { WebIO, type Material, type Texture } from '@gltf-transform/core'
import { ALL_EXTENSIONS, type DiffuseTransmission } from '@gltf-transform/extensions'
import { XMLParser } from 'fast-xml-parser'
import { decode } from 'fast-png'
import validator from 'gltf-validator'
import { MeshoptDecoder } from 'meshoptimizer'
import { FloatType } from 'three'
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js'
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js'
import { beforeAll, describe, expect, it } from 'vitest'
import { LoneEvaluator } from '#core/evaluate/loneEvaluator'
import { comparePictures } from '#core/color/compare'
import { colorDifference } from '#core/color/difference'
import { CHANNEL_NAMES, type Channel } from '#core/graph/types'
import type { Compression } from '#core/exchange/compression'
import { writeGlb } from '#core/exchange/writeGlb'
import type { Mesh } from '#core/mesh/mesh'
import { pointSet } from '#core/mesh/sample'
import { lower, reader } from '#core/program/lower'
import { plan } from '#core/program/plan'
import { TraceScene } from '#core/trace/scene'
import { readWebp } from '../../node/bake/webp'
import { delivered } from '../delivered'
import { boxes, kernels, lookOf, notSo, row, tablesOf } from '../helpers'

// What leaves is read back as the standards say, by code that shares nothing with what wrote it, and compared in
// numbers with what the kernels compute: every channel has values of its own in every part, and the height rises along
// x.

const BOXES = 4
const look = {
  ...lookOf(
    {
      hue: ['partRandom', { seed: 11 }],
      color: ['varyColor', { hue: 300, lightness: 40 }],
      metal: ['partRandom', { seed: 12 }],
      rough: ['partRandom', { seed: 13 }],
      rises: ['positionGradient', { axis: 'X', space: 'mesh' }],
      glow: ['partRandom', { seed: 14 }],
      light: ['varyColor', { hue: 200, lightness: 60 }],
      solid: ['partRandom', { seed: 15 }],
      through: ['partRandom', { seed: 16 }],
      leaf: ['varyColor', { hue: 100, lightness: 50 }],
      finish: ['finish', { heightScale: 900, intensity: 3 }],
    },
    [
      'hue.value > color.hueBy',
      'color.color > finish.baseColor',
      'metal.value > finish.metalness',
      'rough.value > finish.roughness',
      'rises.value > finish.height',
      'glow.value > light.hueBy',
      'light.color > finish.emission',
      'solid.value > finish.opacity',
      'through.value > finish.translucency',
      'through.second > leaf.hueBy',
      'leaf.color > finish.throughColor',
      'finish.finish > result.finish',
    ],
  ),
  name: 'Tried',
}
const mesh = row(BOXES)
const tables = tablesOf(mesh)
const triangles = mesh.indices.length / 3

/** All channels in the middle of every triangle, by the kernels. */
const truth: Record<Channel, number[][]> = (() => {
  const program = lower(look, [])
  const roots = CHANNEL_NAMES.flatMap(c => program.result[c])
  const evaluator = new LoneEvaluator(kernels, plan(program, roots), tables)
  evaluator.refresh(reader(look))
  const points = pointSet(triangles)
  points.u.fill(1 / 3)
  points.v.fill(1 / 3)
  for (let t = 0; t < triangles; t++) points.triangle[t] = t
  const columns = roots.map(() => new Float32Array(triangles))
  evaluator.evaluate(points, columns)
  let at = 0
  return Object.fromEntries(
    CHANNEL_NAMES.map(c => {
      const own = columns.slice(at, (at += program.result[c].length))
      return [c, Array.from({ length: triangles }, (_, t) => own.map(column => column[t]!))]
    }),
  ) as Record<Channel, number[][]>
})()
const mean = (values: ArrayLike<number>, size: number, t: number): number[] =>
  Array.from(
    { length: size },
    (_, k) => [0, 1, 2].reduce((sum, c) => sum + values[mesh.indices[t * 3 + c]! * size + k]!, 0) / 3,
  )
/** The normal of a surface that stands out as the height says: tilted against its rise (J. Blinn, 1978). */
function tilted(t: number): number[] {
  const n = mean(mesh.normals, 3, t)
  const long = (BOXES - 1) * 2 + 1
  const rise = [0.9 / long, 0, 0]
  const along = rise.map((x, k) => x - n[k]! * rise.reduce((sum, y, j) => sum + y * n[j]!, 0))
  const out = n.map((x, k) => x - along[k]!)
  return out.map(x => x / Math.hypot(...out))
}

interface Picture {
  width: number
  height: number
  channels: number
  /** Row by row from the top. */
  data: ArrayLike<number>
  /** What a stored 1 is. */
  one: number
}
function pictureOf(path: string, bytes: Uint8Array): Picture {
  if (path.endsWith('.exr')) {
    const { data, width, height } = new EXRLoader()
      .setDataType(FloatType)
      .parse(bytes.slice().buffer as ArrayBuffer) as { data: Float32Array; width: number; height: number }
    // That loader's rows begin at the bottom, as WebGL wants them.
    const channels = data.length / width / height
    const down = new Float32Array(data.length)
    const row = width * channels
    for (let y = 0; y < height; y++) down.set(data.subarray(y * row, (y + 1) * row), (height - 1 - y) * row)
    return { width, height, channels, data: down, one: 1 }
  }
  const { width, height, channels, data, depth } = decode(bytes)
  return { width, height, channels, data, one: depth === 16 ? 65535 : 255 }
}
const decodeSrgb = (x: number): number => (x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4)
/** The texel at a place, with v running down from the top. One number is read as gray. */
function texel(p: Picture, u: number, v: number, srgb: boolean): number[] {
  const x = Math.floor((u - Math.floor(u)) * p.width)
  const y = Math.floor((v - Math.floor(v)) * p.height)
  const at = (y * p.width + x) * p.channels
  const raw = Array.from({ length: p.channels }, (_, k) => Number(p.data[at + k]) / p.one)
  const rgb = raw.length < 3 ? [raw[0]!, raw[0]!, raw[0]!] : raw
  return srgb ? rgb.map((x, k) => (k < 3 ? decodeSrgb(x) : x)) : rgb
}
/** @param within how far numbers may lie apart: what a step of the picture is, and what a texel spans */
function expectAll(what: string, read: (t: number) => number[], wanted: (t: number) => number[], within: number): void {
  for (let t = 0; t < triangles; t++)
    read(t).forEach((x, k) =>
      expect(Math.abs(x - wanted(t)[k]!), `${what} ${k} of triangle ${t}: ${x} for ${wanted(t)[k]}`).toBeLessThan(
        within,
      ),
    )
}
const STEP = 1.5 / 255
/** Meters of height that a texel spans, and a step of eight bits. */
const HEIGHT = 0.008

let files: Map<string, Uint8Array>
let raw: Map<string, Uint8Array>
beforeAll(async () => {
  const settings = {
    meshes: ['glb', 'ply', 'usda'],
    materials: ['baked'],
    relief: 'both',
    size: 512,
    vertexMaps: [{ name: 'wear', lanes: ['roughness', 'metalness'] }],
  }
  files = (await delivered(mesh, look, settings)).files
  raw = (await delivered(mesh, look, { ...settings, meshes: ['usda'], format: 'float' })).files
}, 120_000)
const text = (name: string, from = files): string => new TextDecoder().decode(from.get(name))
const used = new Map<Uint8Array, Picture>()
function picture(path: string, from = files): Picture {
  const bytes = from.get(path)
  if (!bytes) throw new Error(`There is no ${path}.`)
  if (!used.has(bytes)) used.set(bytes, pictureOf(path, bytes))
  return used.get(bytes)!
}

describe('a GLB, read as glTF 2.0 says', () => {
  let material: Material
  const placed: { uv: number[]; normal: number[]; tangent: number[] }[] = []
  const pixels = new Map<Texture, Picture>()
  const sample = (texture: Texture, t: number, srgb: boolean): number[] => {
    if (!pixels.has(texture)) pixels.set(texture, pictureOf('x.png', texture.getImage()!))
    return texel(pixels.get(texture)!, placed[t]!.uv[0]!, placed[t]!.uv[1]!, srgb)
  }
  beforeAll(async () => {
    const document = await new WebIO().registerExtensions(ALL_EXTENSIONS).readBinary(files.get('it.glb')!)
    material = document.getRoot().listMaterials()[0]!
    for (const node of document.getRoot().listNodes()) {
      const primitive = node.getMesh()?.listPrimitives()[0]
      if (!primitive) continue
      const index = primitive.getIndices()!.getArray()!
      const means = (semantic: string, t: number): number[] => {
        const values = primitive.getAttribute(semantic)!
        const corners = [0, 1, 2].map(c => values.getElement(index[t * 3 + c]!, []))
        return corners[0]!.map((_, k) => corners.reduce((sum, c) => sum + c[k]!, 0) / 3)
      }
      for (let t = 0; t < index.length / 3; t++)
        placed.push({ uv: means('TEXCOORD_0', t), normal: means('NORMAL', t), tangent: means('TANGENT', t) })
    }
  })

  it('has the base color, and the opacity in its alpha', () => {
    expect(placed).toHaveLength(triangles)
    const read = (t: number) => sample(material.getBaseColorTexture()!, t, true)
    const factor = material.getBaseColorFactor()
    expectAll(
      'base color',
      t =>
        read(t)
          .slice(0, 3)
          .map((x, k) => x * factor[k]!),
      t => truth.baseColor[t]!,
      STEP,
    )
    expectAll(
      'opacity',
      t => [read(t)[3]! * factor[3]],
      t => truth.opacity[t]!,
      STEP,
    )
    expect(material.getAlphaMode()).toBe('BLEND')
  })
  it('has roughness in green and metalness in blue, each with a factor of one', () => {
    const read = (t: number) => sample(material.getMetallicRoughnessTexture()!, t, false)
    expectAll(
      'roughness',
      t => [read(t)[1]! * material.getRoughnessFactor()],
      t => truth.roughness[t]!,
      STEP,
    )
    expectAll(
      'metalness',
      t => [read(t)[2]! * material.getMetallicFactor()],
      t => truth.metalness[t]!,
      STEP,
    )
  })
  it('has the emission, with its strength', () => {
    const strength = material.getExtension<never>('KHR_materials_emissive_strength') as unknown as {
      getEmissiveStrength(): number
    }
    const factor = material.getEmissiveFactor()
    expectAll(
      'emission',
      t =>
        sample(material.getEmissiveTexture()!, t, true)
          .slice(0, 3)
          .map((x, k) => x * factor[k]! * strength.getEmissiveStrength()),
      t => truth.emission[t]!,
      STEP * 3,
    )
  })
  it('has how much light passes through in an alpha, and its color beside', () => {
    const through = material.getExtension<DiffuseTransmission>('KHR_materials_diffuse_transmission')!
    const color = through.getDiffuseTransmissionColorFactor()
    expectAll(
      'translucency',
      t => {
        const share = sample(through.getDiffuseTransmissionTexture()!, t, true)[3]!
        return [share * through.getDiffuseTransmissionFactor()]
      },
      t => [truth.translucency[t]![0]!],
      STEP,
    )
    expectAll(
      'translucency color',
      t =>
        sample(through.getDiffuseTransmissionColorTexture()!, t, true)
          .slice(0, 3)
          .map((x, k) => x * color[k]!),
      t => truth.translucency[t]!.slice(1),
      STEP,
    )
  })
  it('has normals that tilt against the rise of the height, through its own tangents', () => {
    expectAll(
      'normal',
      t => {
        const [x, y, z] = sample(material.getNormalTexture()!, t, false).map(c => c * 2 - 1) as [number, number, number]
        const { normal: n, tangent } = placed[t]!
        const across = [
          n[1]! * tangent[2]! - n[2]! * tangent[1]!,
          n[2]! * tangent[0]! - n[0]! * tangent[2]!,
          n[0]! * tangent[1]! - n[1]! * tangent[0]!,
        ].map(c => c * tangent[3]!)
        const out = n.map((c, k) => tangent[k]! * x + across[k]! * y + c * z)
        return out.map(c => c / Math.hypot(...out))
      },
      tilted,
      0.03,
    )
  })
  it('without UVs has what passes through as numbers', async () => {
    const { uvs: _, ...bare } = row(2)
    const params = { sets: ['baseColor', 'translucency'], translucency: 0.3, throughColor: [0.9, 0.5, 0.1] }
    const plain = lookOf({ finish: ['finish', params] }, ['finish.finish > result.finish'])
    const found = await delivered(bare as Mesh, plain, { colorIn: 'vertices' })
    const document = await new WebIO().registerExtensions(ALL_EXTENSIONS).readBinary(found.files.get('it.glb')!)
    const [bareMaterial] = document.getRoot().listMaterials()
    const through = bareMaterial!.getExtension<DiffuseTransmission>('KHR_materials_diffuse_transmission')!
    expect(through.getDiffuseTransmissionFactor()).toBeCloseTo(0.3, 5)
    through.getDiffuseTransmissionColorFactor().forEach((x, k) => expect(x).toBeCloseTo([0.9, 0.5, 0.1][k]!, 5))
  })
  it('without UVs has metalness and roughness as numbers, each where it belongs', async () => {
    const { uvs: _, ...bare } = row(2)
    const plain = lookOf({ finish: ['finish', { metalness: 0.2, roughness: 0.7 }] }, ['finish.finish > result.finish'])
    const found = await delivered(bare as Mesh, plain, { colorIn: 'vertices' })
    const document = await new WebIO().readBinary(found.files.get('it.glb')!)
    const [m] = document.getRoot().listMaterials()
    expect(m!.getMetallicFactor()).toBeCloseTo(0.2, 5)
    expect(m!.getRoughnessFactor()).toBeCloseTo(0.7, 5)
  })
})

describe('a PLY', () => {
  it('has the base color at its vertices, and named values in their order', () => {
    const loader = new PLYLoader()
    loader.setCustomPropertyNameMapping({ wear: ['wear_x', 'wear_y'] })
    const geometry = loader.parse(files.get('it.ply')!.slice().buffer as ArrayBuffer)
    const index = geometry.index!.array
    const means = (name: string, t: number): number[] => {
      const { array, itemSize } = geometry.getAttribute(name)
      return Array.from(
        { length: itemSize },
        (_, k) => [0, 1, 2].reduce((sum, c) => sum + array[index[t * 3 + c]! * itemSize + k]!, 0) / 3,
      )
    }
    expectAll(
      'wear',
      t => means('wear', t),
      t => [truth.roughness[t]![0]!, truth.metalness[t]![0]!],
      1e-5,
    )
  })
})

/** The value of an input of a shader of a USD layer in text, by the rules of UsdPreviewSurface 2.6. */
function usdReader(layer: string, from: Map<string, Uint8Array>) {
  const shaders = new Map<string, string>()
  for (const [, id, body] of layer.matchAll(/def Shader "(\w+)"\s*\{([^}]*)\}/g)) shaders.set(id!, body!)
  const sts = [...layer.matchAll(/texCoord2f\[\] primvars:st = \[(.*)\]/g)].flatMap(([, list]) =>
    [...list!.matchAll(/\(([^)]*)\)/g)].map(m => m[1]!.split(', ').map(Number)),
  )
  const four = (body: string, name: string, otherwise: number[]): number[] =>
    new RegExp(`float4 inputs:${name} = \\(([^)]*)\\)`).exec(body)?.[1]?.split(', ').map(Number) ?? otherwise
  return (input: string) => {
    const wire = new RegExp(`inputs:${input}\\.connect = <[^>]*/(\\w+)\\.outputs:(\\w+)>`).exec(shaders.get('surface')!)
    if (!wire) throw new Error(`${input} is not connected`)
    const body = shaders.get(wire[1]!)!
    expect(body).toContain('inputs:wrapS = "repeat"')
    expect(body).toContain('inputs:wrapT = "repeat"')
    const path = /asset inputs:file = @([^@]*)@/.exec(body)![1]!.replace('<UDIM>', '1001')
    const scale = four(body, 'scale', [1, 1, 1, 1])
    const bias = four(body, 'bias', [0, 0, 0, 0])
    const srgb = body.includes('sourceColorSpace = "sRGB"')
    const lanes = wire[2] === 'rgb' ? [0, 1, 2] : ['r', 'g', 'b', 'a'].indexOf(wire[2]!)
    return (t: number): number[] => {
      // Coordinates begin at the lower left.
      const [s, v] = [0, 1].map(k => (sts[t * 3]![k]! + sts[t * 3 + 1]![k]! + sts[t * 3 + 2]![k]!) / 3) as [
        number,
        number,
      ]
      const rgb = texel(picture(path, from), s, 1 - v, srgb).map((x, k) => x * scale[k]! + bias[k]!)
      return typeof lanes === 'number' ? [rgb[lanes]!] : rgb.slice(0, 3)
    }
  }
}
describe.each([
  ['eight bits', () => files],
  ['floats', () => raw],
])('a USD layer with pictures of %s, read as UsdPreviewSurface says', (_, of) => {
  it('gives every input the values of its channel', () => {
    const input = usdReader(text('it.usda', of()), of())
    expectAll('diffuseColor', input('diffuseColor'), t => truth.baseColor[t]!, STEP)
    expectAll('metallic', input('metallic'), t => truth.metalness[t]!, STEP)
    expectAll('roughness', input('roughness'), t => truth.roughness[t]!, STEP)
    expectAll('opacity', input('opacity'), t => truth.opacity[t]!, STEP)
    expectAll('emissiveColor', input('emissiveColor'), t => truth.emission[t]!, STEP * 3)
    expectAll('displacement', input('displacement'), t => [truth.height[t]![0]! / 1000], HEIGHT)
  })
  it('has normals of length one that lean as much as the height rises', () => {
    const input = usdReader(text('it.usda', of()), of())('normal')
    for (let t = 0; t < triangles; t++) {
      const normal = input(t)
      expect(Math.hypot(...normal)).toBeCloseTo(1, 1)
      const flat = mean(mesh.normals, 3, t)
      expect(normal[2]).toBeCloseTo(
        tilted(t).reduce((sum, x, k) => sum + x * flat[k]!, 0),
        1,
      )
    }
  })
})

/** Values of a MaterialX document by the standard's node definitions: images, arithmetic and outputs. */
function materialXReader(xml: string, from: Map<string, Uint8Array>) {
  interface Input {
    name: string
    type: string
    value?: string
    nodename?: string
    nodegraph?: string
    output?: string
    colorspace?: string
  }
  interface Element {
    name: string
    kind: string
    input: Input[]
    nodename?: string
  }
  const parsed = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: '', preserveOrder: true }).parse(
    xml,
  ) as Record<string, unknown>[]
  const elements = new Map<string, Element>()
  const visit = (list: Record<string, unknown>[]): void => {
    for (const item of list) {
      const kind = Object.keys(item).find(k => k !== ':@')!
      const attributes = (item[':@'] ?? {}) as Record<string, string>
      const inner = item[kind] as Record<string, unknown>[]
      if (!Array.isArray(inner)) continue
      if (attributes.name && kind !== 'input')
        elements.set(attributes.name, {
          ...attributes,
          name: attributes.name,
          kind,
          input: inner.filter(c => 'input' in c).map(c => c[':@'] as unknown as Input),
        })
      visit(inner)
    }
  }
  visit(parsed)
  const value = (input: Input, t: number): number[] => {
    if (input.value !== undefined) return input.value.split(', ').map(Number)
    return of(elements.get(input.output ?? input.nodename!)!, t)
  }
  const of = (e: Element, t: number): number[] => {
    const input = (name: string) => e.input.find(i => i.name === name)!
    const pair = (work: (a: number, b: number) => number): number[] => {
      const b = value(input('in2'), t)
      return value(input('in1'), t).map((x, k) => work(x, b[k] ?? b[0]!))
    }
    switch (e.kind) {
      case 'output':
        return of(elements.get(e.nodename!)!, t)
      case 'image': {
        const file = input('file')
        const [u, v] = mean(mesh.uvs!, 2, t) as [number, number]
        const path = file.value!.replace('<UDIM>', '1001')
        // Where nothing is said, coordinates begin at the lower left, and so do pictures: what is stored first is on
        // top.
        const rgb = texel(picture(path, from), u, v, file.colorspace === 'srgb_texture')
        return (e as unknown as { type: string }).type === 'float' ? [rgb[0]!] : rgb.slice(0, 3)
      }
      case 'multiply':
        return pair((a, b) => a * b)
      case 'add':
        return pair((a, b) => a + b)
      case 'subtract':
        return pair((a, b) => a - b)
      case 'normalmap':
        return value(input('in'), t)
      default:
        throw new Error(`${e.kind} is not known here`)
    }
  }
  return (surface: string, name: string) => {
    const input = elements.get(surface)!.input.find(i => i.name === name)!
    return (t: number): number[] => value(input, t)
  }
}
describe.each([
  ['eight bits', () => files],
  ['floats', () => raw],
])('a baked MaterialX document with pictures of %s', (_, of) => {
  it('gives every input of both surfaces the values of its channel, and the displacement meters', () => {
    const xml = text('it.mtlx', of())
    const input = materialXReader(xml, of())
    const [open, gltf, moved] = ['SR_Tried_openpbr', 'SR_Tried_gltf', 'DS_Tried']
    expectAll('base_color', input(open, 'base_color'), t => truth.baseColor[t]!, STEP)
    expectAll('base_metalness', input(open, 'base_metalness'), t => truth.metalness[t]!, STEP)
    expectAll('specular_roughness', input(open, 'specular_roughness'), t => truth.roughness[t]!, STEP)
    expectAll('emission_color', input(open, 'emission_color'), t => truth.emission[t]!, STEP * 3)
    expectAll('geometry_opacity', input(open, 'geometry_opacity'), t => truth.opacity[t]!, STEP)
    expectAll('subsurface_weight', input(open, 'subsurface_weight'), t => [truth.translucency[t]![0]!], STEP)
    expectAll('subsurface_color', input(open, 'subsurface_color'), t => truth.translucency[t]!.slice(1), STEP)
    expectAll('base_color', input(gltf, 'base_color'), t => truth.baseColor[t]!, STEP)
    expectAll('metallic', input(gltf, 'metallic'), t => truth.metalness[t]!, STEP)
    expectAll('roughness', input(gltf, 'roughness'), t => truth.roughness[t]!, STEP)
    expectAll('emissive', input(gltf, 'emissive'), t => truth.emission[t]!, STEP * 3)
    expectAll('alpha', input(gltf, 'alpha'), t => truth.opacity[t]!, STEP)
    const [scale] = input(moved, 'scale')(0)
    expectAll(
      'displacement',
      t => input(moved, 'displacement')(t).map(x => x * scale!),
      t => [truth.height[t]![0]! / 1000],
      HEIGHT,
    )
  })
})

describe.each([
  ['eight bits', () => files],
  ['floats', () => raw],
])('the MaterialX network of a USD layer with pictures of %s', (_, of) => {
  it('gives every input the values of its channel, and the displacement meters', () => {
    const input = materialXReader(materialXOf(text('it.usda', of())), of())
    const open = (name: string) => input('mtlx_surface', name)
    expectAll('base_color', open('base_color'), t => truth.baseColor[t]!, STEP)
    expectAll('base_metalness', open('base_metalness'), t => truth.metalness[t]!, STEP)
    expectAll('specular_roughness', open('specular_roughness'), t => truth.roughness[t]!, STEP)
    expectAll('emission_color', open('emission_color'), t => truth.emission[t]!, STEP * 3)
    expect(open('emission_luminance')(0)).toEqual([1])
    expectAll('geometry_opacity', open('geometry_opacity'), t => truth.opacity[t]!, STEP)
    expectAll('subsurface_weight', open('subsurface_weight'), t => [truth.translucency[t]![0]!], STEP)
    expectAll('subsurface_color', open('subsurface_color'), t => truth.translucency[t]!.slice(1), STEP)
    const moved = input('mtlx_displacement', 'displacement')
    expect(input('mtlx_displacement', 'scale')(0)).toEqual([1])
    expectAll('displacement', moved, t => [truth.height[t]![0]! / 1000], HEIGHT)
  })
})

it('a GLB has occlusion in red, which is what the map of that name leaves open', async () => {
  const closed = Float32Array.from({ length: mesh.positions.length / 3 }, (_, v) => (v % 24) / 30)
  const shut = { ...mesh, maps: [{ name: 'occlusion', components: 1, values: closed }] }
  const found = await delivered(shut, look, { size: 512 })
  const document = await new WebIO().registerExtensions(ALL_EXTENSIONS).readBinary(found.files.get('it.glb')!)
  const [material] = document.getRoot().listMaterials()
  const p = pictureOf('x.png', material!.getOcclusionTexture()!.getImage()!)
  expectAll(
    'occlusion',
    t => [texel(p, ...(mean(mesh.uvs!, 2, t) as [number, number]), false)[0]!],
    t => [1 - mean(closed, 1, t)[0]!],
    STEP * 2,
  )
})

describe('a packed GLB', () => {
  const settings = { size: 256, identity: true, vertexMaps: [{ name: 'wear', lanes: ['roughness', 'metalness'] }] }
  /** Numbers of every vertex, in the world, in the order of the file's triangles. */
  async function corners(compression: Compression) {
    const { files: made } = await delivered(mesh, look, { ...settings, compression })
    const bytes = made.get('it.glb')!
    const io = new WebIO()
      .registerExtensions(ALL_EXTENSIONS)
      .registerDependencies({ 'meshopt.decoder': MeshoptDecoder })
    const document = await io.readBinary(bytes)
    const all: Record<string, number[]> = {}
    for (const node of document.getRoot().listNodes()) {
      const [sx, sy, sz] = node.getWorldScale()
      const at = node.getWorldTranslation()
      for (const primitive of node.getMesh()?.listPrimitives() ?? []) {
        const index = primitive.getIndices()!.getArray()!
        for (const semantic of primitive.listSemantics()) {
          const values = primitive.getAttribute(semantic)!
          const placed = (e: number[]) => (semantic === 'POSITION' ? e.map((x, k) => x * [sx, sy, sz][k]! + at[k]!) : e)
          const read = [...index].flatMap(v => placed(values.getElement(v, [])))
          ;(all[semantic] ??= []).push(...read)
        }
      }
    }
    const root = document.getRoot()
    const packed = root.listExtensionsUsed().map(e => e.extensionName)
    const ids = root.listScenes()[0]!.getExtras().partKeys
    return { all, packed, ids }
  }

  it('has the same numbers as one that is not, or places within half a step of sixteen bits', async () => {
    await MeshoptDecoder.ready
    const [plain, exact, quantized] = [await corners('none'), await corners('exact'), await corners('quantized')]
    expect(plain.packed).not.toContain('EXT_meshopt_compression')
    for (const found of [exact, quantized]) {
      expect(found.packed).toContain('EXT_meshopt_compression')
      expect(found.ids).toEqual(plain.ids)
      expect(Object.keys(found.all).sort()).toEqual(Object.keys(plain.all).sort())
    }
    for (const [semantic, values] of Object.entries(plain.all)) {
      expect(exact.all[semantic], semantic).toHaveLength(values.length)
      expect(
        notSo(values, (x, i) => Object.is(exact.all[semantic]![i], x)),
        semantic,
      ).toEqual([])
    }
    expect(quantized.packed).toContain('KHR_mesh_quantization')
    const furthest = (semantic: string): number =>
      Math.max(...plain.all[semantic]!.map((x, i) => Math.abs(x - quantized.all[semantic]![i]!)))
    // The boxes are a meter wide at most.
    expect(furthest('POSITION')).toBeLessThan(1 / 131_000)
    expect(furthest('TEXCOORD_0')).toBeLessThan(1 / 131_000)
    expect(furthest('NORMAL')).toBeLessThan(1 / 2047)
    expect(quantized.all['_wear']).toEqual(plain.all['_wear'])
    expect(quantized.all['_FEATURE_ID_0']).toEqual(plain.all['_FEATURE_ID_0'])
  })

  it('is smaller where objects have many vertices, the more so as whole numbers', async () => {
    const one = boxes(Array.from({ length: 300 }, (_, i) => ({ object: 'one', at: [i * 1.3, 0, 0] as const })))
    const size = async (compression: Compression): Promise<number> => {
      const variants = [{ name: 'plain', tiles: new Map([[1001, {}]]) }]
      return (await writeGlb(one, 'one', { variants, compression })).length
    }
    const [plain, exact, quantized] = [await size('none'), await size('exact'), await size('quantized')]
    expect(exact).toBeLessThan(plain * 0.8)
    expect(quantized).toBeLessThan(exact * 0.9)
  })
})

describe('a GLB with WebP inside', () => {
  const settings = { size: 256, seeds: [0, 3] }
  const texturesOf = async (glb: Uint8Array) => {
    const document = await new WebIO().registerExtensions(ALL_EXTENSIONS).readBinary(glb)
    const required = document
      .getRoot()
      .listExtensionsRequired()
      .map(e => e.extensionName)
    const materials = document.getRoot().listMaterials()
    return { textures: document.getRoot().listTextures(), required, materials }
  }
  const pixelsOf = async (bytes: Uint8Array, type: string): Promise<number[]> => {
    if (type === 'image/webp') return [...((await readWebp(bytes)).data as Uint8ClampedArray)]
    const { data, channels, width, height } = decode(bytes)
    return Array.from({ length: width * height * 4 }, (_, i) => {
      if (i % 4 === 3) return channels === 4 ? data[i]! : 255
      return data[Math.floor(i / 4) * channels + (channels < 3 ? 0 : i % 4)]!
    })
  }

  it('has every pixel of one with PNG, says so as it must, and is smaller', async () => {
    const [png, webp] = await Promise.all(
      (['png', 'webp'] as const).map(async glbPictures => {
        const { files: made } = await delivered(mesh, look, { ...settings, glbPictures })
        return made.get('it.glb')!
      }),
    )
    const [plain, packed] = [await texturesOf(png!), await texturesOf(webp!)]
    expect(plain.required).toEqual([])
    expect(packed.required).toEqual(['EXT_texture_webp'])
    expect(packed.textures.map(t => t.getName())).toEqual(plain.textures.map(t => t.getName()))
    expect(packed.textures.length).toBeGreaterThan(4)
    for (const [i, t] of packed.textures.entries()) {
      expect(t.getMimeType()).toBe('image/webp')
      const other = plain.textures[i]!
      expect(await pixelsOf(t.getImage()!, 'image/webp'), t.getName()).toEqual(
        await pixelsOf(other.getImage()!, 'image/png'),
      )
    }
    // Opacity is somewhere 0, and the color behind it stays.
    expect(packed.materials.map(m => m.getBaseColorTexture()!.getName())).toEqual(
      plain.materials.map(m => m.getBaseColorTexture()!.getName()),
    )
    expect(webp!.length).toBeLessThan(png!.length)
    const report = await validator.validateBytes(webp!)
    expect(report.issues.messages.filter(m => m.severity === 0)).toEqual([])
  })

  it('is traced like one with PNG, and refused in a sentence where nobody reads WebP', async () => {
    const { files: made } = await delivered(mesh, look, { size: 256, glbPictures: 'webp' })
    const [webp, png] = [
      await TraceScene.read(made.get('it.glb')!, readWebp),
      await TraceScene.read((await delivered(mesh, look, { size: 256 })).files.get('it.glb')!),
    ]
    const seen = (scene: TraceScene) => [0, 7, 20].map(t => scene.at(t, firstCorner(scene, t), [0, 0, -1]))
    expect(seen(webp)).toEqual(seen(png))
    await expect(TraceScene.read(made.get('it.glb')!)).rejects.toThrow(/neither PNG nor WebP/)
  })
  const firstCorner = (scene: TraceScene, t: number): [number, number, number] => {
    const v = mesh.indices[t * 3]! * 3
    return [scene.positions[v]!, scene.positions[v + 1]!, scene.positions[v + 2]!]
  }
})

it('documents read the height once: as normals, or as displacement, or as both where that is asked for', async () => {
  const asked = { meshes: ['usda'], materials: ['baked'], size: 256 }
  for (const [relief, bent, moved] of [
    [undefined, true, false],
    ['normal', true, false],
    ['displacement', false, true],
    ['both', true, true],
  ] as const) {
    const { files: made } = await delivered(mesh, look, { ...asked, ...(relief && { relief }) })
    const [layer, document] = [text('it.usda', made), text('it.mtlx', made)]
    const found = {
      usd: [layer.includes('inputs:normal.connect'), layer.includes('inputs:displacement.connect')],
      materialX: [document.includes('<normalmap'), document.includes('<displacement')],
      pictures: ['it_normal.png', 'it_height.png'].map(name => made.has(`textures/${name}`)),
    }
    const wanted = [bent, moved]
    expect(found, relief).toEqual({ usd: wanted, materialX: wanted, pictures: wanted })
  }
})

it('an object on two tiles has the material of its tile on each of its triangles', async () => {
  const two = boxes([
    { object: 'both', at: [0, 0, 0] },
    { object: 'both', at: [2, 0, 0] },
  ])
  const far = { ...two, uvs: two.uvs!.map((x, i) => (i % 2 === 0 && i >= 48 ? x + 1 : x)) }
  const found = await delivered(far, look, { size: 256 })
  const document = await new WebIO().registerExtensions(ALL_EXTENSIONS).readBinary(found.files.get('it.glb')!)
  const told = document
    .getRoot()
    .listMeshes()
    .flatMap(m => m.listPrimitives())
    .map(p => {
      const u = p.getAttribute('TEXCOORD_0')!
      const tiles = [...p.getIndices()!.getArray()!].map(v => Math.floor(u.getElement(v, [])[0]!))
      return [p.getMaterial()!.getName().slice(-4), [...new Set(tiles)]]
    })
  expect(told).toEqual([
    ['1001', [0]],
    ['1002', [1]],
  ])
})

describe('a comparison of two pictures', () => {
  it('leaves out what is empty in both, and says mean, largest, what 99 of 100 are below, and how many are alike', () => {
    const gray = (values: number[]) => Uint8ClampedArray.from(values.flatMap(v => [v, v, v, 255]))
    const a = gray([0, ...Array.from({ length: 100 }, () => 100)])
    const b = gray([0, ...Array.from({ length: 100 }, (_, i) => (i < 90 ? 100 : 100 + (i - 89) * 3))])
    const found = comparePictures(a, b, [0, 0, 0])
    const of = (v: number) =>
      colorDifference(...([100, v].map(x => Array(3).fill(decodeSrgb(x / 255))) as [number[], number[]]))
    expect(found.pixels).toBe(100)
    expect(found.largest).toBeCloseTo(of(130), 6)
    expect(found.most).toBeCloseTo(of(130), 6)
    expect(found.alike).toBe(0.9)
    expect(found.mean).toBeCloseTo(
      Array.from({ length: 10 }, (_, i) => of(103 + i * 3)).reduce((s, d) => s + d, 0) / 100,
      6,
    )
    expect([...found.picture.slice(0, 4)]).toEqual([0, 0, 0, 255])
  })

  it('takes numbers between bytes as they are', () => {
    const halfway = comparePictures(
      Float32Array.of(100, 100, 100, 255),
      Float32Array.of(100.5, 100, 100, 255),
      [0, 0, 0],
    )
    const linear = (r: number) => [r, 100, 100].map(x => decodeSrgb(x / 255)) as [number, number, number]
    expect(halfway.mean).toBeCloseTo(colorDifference(linear(100), linear(100.5)), 6)
    expect(halfway.mean).toBeGreaterThan(0.1)
    // The ground behind may differ by what halves round.
    const behind = comparePictures(
      Float32Array.of(99.9, 100, 100, 255),
      Float32Array.of(100.1, 100, 100, 255),
      [100, 100, 100],
    )
    expect(behind.pixels).toBe(0)
  })
})

describe('pictures as files', () => {
  it.each([
    ['png16', STEP / 100],
    ['half', 2e-3],
    ['float', 1e-5],
  ] as const)('of %s hold every channel as it is', async (format, within) => {
    const maps = [
      'baseColor',
      'metalness',
      'roughness',
      'orm',
      'emission',
      'opacity',
      'translucency',
      'translucencyColor',
    ]
    const { files: own, manifest } = await delivered(mesh, look, { meshes: [], maps, size: 512, format })
    const ending = format === 'png16' ? 'png' : 'exr'
    const scale = format === 'png16' ? manifest.scales[0]!.emission : 1
    const read = (name: string, srgb: boolean) => (t: number) => {
      const [u, v] = mean(mesh.uvs!, 2, t) as [number, number]
      return texel(picture(`textures/it_${name}.${ending}`, own), u, v, srgb && format === 'png16')
    }
    const one =
      (name: string, k = 0) =>
      (t: number) => [read(name, false)(t)[k]!]
    expectAll(
      'base color',
      t => read('baseColor', true)(t).slice(0, 3),
      t => truth.baseColor[t]!,
      within,
    )
    expectAll('metalness', one('metalness'), t => truth.metalness[t]!, within)
    expectAll('roughness', one('roughness'), t => truth.roughness[t]!, within)
    expectAll('roughness of three', one('orm', 1), t => truth.roughness[t]!, within)
    expectAll('metalness of three', one('orm', 2), t => truth.metalness[t]!, within)
    expectAll(
      'emission',
      t =>
        read(
          'emission',
          true,
        )(t)
          .slice(0, 3)
          .map(x => x * scale),
      t => truth.emission[t]!,
      within * 10,
    )
    expectAll('opacity', one('opacity'), t => truth.opacity[t]!, within)
    expectAll('translucency', one('translucency'), t => [truth.translucency[t]![0]!], within)
    expectAll(
      'translucency color',
      t => read('translucencyColor', true)(t).slice(0, 3),
      t => truth.translucency[t]!.slice(1),
      within,
    )
  })
})
