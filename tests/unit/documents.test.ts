import fc from 'fast-check'
import { decode } from 'fast-png'
import validator from 'gltf-validator'
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js'
import { describe, expect, it } from 'vitest'
import { XMLParser } from 'fast-xml-parser'
import { decodeSrgb } from '#core/color/convert'
import { DeliveryError, parseDelivery } from '#core/deliver/settings'
import { packLook, unpackLook } from '#core/exchange/lookFile'
import { readLookFile } from '#core/exchange/readLookFile'
import { readMaterialX } from '#core/exchange/readMaterialX'
import { READ_LIMITS } from '#core/exchange/meshFile'
import { readMesh } from '#core/exchange/readMesh'
import { writePly } from '#core/exchange/writePly'
import { writeUsd } from '#core/exchange/writeUsd'
import { check } from '#core/graph/check'
import { LookError, type Look } from '#core/graph/look'
import { zipSync } from 'fflate'
import { mkdtemp, readdir, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Workpiece } from '#core/evaluate/workpiece'
import { writeGlb } from '#core/exchange/writeGlb'
import { setParam } from '#core/graph/edit'
import { emptyPreparation } from '#core/mesh/preparation'
import { deliver } from '../../node/bake/deliver'
import { boundsOf, type Mesh } from '#core/mesh/mesh'
import { kioskRoof } from '../../demo/kioskRoof'
import { delivered } from '../delivered'
import { at, boxes, lookOf, row, tablesOf } from '../helpers'

const look = {
  ...lookOf(
    {
      random: ['partRandom'],
      vary: ['varyColor', { hue: 300, lightness: 40 }],
      noise: ['noise', { size: 40 }],
      finish: ['finish', { heightScale: 3 }],
    },
    [
      'random.value > vary.hueBy',
      'vary.color > finish.baseColor',
      'noise.value > finish.roughness',
      'noise.value > finish.height',
      'finish.finish > result.finish',
    ],
  ),
  name: 'Tried',
}
const text = (bytes: Uint8Array | undefined): string => new TextDecoder().decode(bytes)

describe('a PLY', () => {
  it('comes back through three.js and through our own reader with positions, UVs, colors and named values', async () => {
    const mesh = row(3)
    const maps = [
      { name: 'wet side', components: 1, values: Float32Array.from({ length: 72 }, (_, v) => v / 7) },
      { name: 'flow', components: 3, values: Float32Array.from({ length: 216 }, (_, i) => -i) },
    ]
    const colors = Float32Array.from({ length: 216 }, (_, i) => (i % 100) / 99)
    const bytes = writePly(mesh, maps, colors)
    const loader = new PLYLoader()
    loader.setCustomPropertyNameMapping({ wet: ['wet_side'], flow: ['flow_x', 'flow_y', 'flow_z'] })
    const geometry = loader.parse(bytes.slice().buffer as ArrayBuffer)
    expect([...geometry.getAttribute('position').array]).toEqual([...mesh.positions])
    expect([...geometry.getAttribute('normal').array]).toEqual([...mesh.normals])
    expect([...geometry.getAttribute('uv').array].filter((_, i) => i % 2)).toEqual(
      [...mesh.uvs!].filter((_, i) => i % 2).map(v => Math.fround(1 - v)),
    )
    expect([...geometry.getAttribute('wet').array]).toEqual([...maps[0]!.values])
    expect([...geometry.getAttribute('flow').array]).toEqual([...maps[1]!.values])
    expect([...geometry.index!.array]).toEqual([...mesh.indices])
    // three.js keeps eight bits of linear light.
    ;[...geometry.getAttribute('color').array].forEach((x, i) =>
      expect(Math.abs(x / 255 - colors[i]!)).toBeLessThan(0.008),
    )
    const back = await readMesh(bytes, 'x.ply')
    expect(back.indices).toHaveLength(mesh.indices.length)
    expect(back.maps.map(m => m.name)).toEqual(expect.arrayContaining(['wet_side']))
  })
})

describe('a USD layer', () => {
  /** `interpolation` of each primvar of each mesh. */
  const interpolations = (layer: string) =>
    layer
      .split('def Mesh')
      .slice(1)
      .map(m =>
        Object.fromEntries(
          [...m.matchAll(/primvars:(\w+) = .*\(\n\s+interpolation = "(\w+)"/g)].map(x => [x[1], x[2]]),
        ),
      )
  it('gives every value the coarsest interpolation that holds it', () => {
    // Two boxes in one object, one in another; vertices are split at the edges of a box.
    const mesh = boxes([
      { object: 'a', at: [0, 0, 0] },
      { object: 'a', at: [2, 0, 0] },
      { object: 'b "c"', at: [4, 0, 0] },
    ])
    const { parts } = tablesOf(mesh)
    const n = mesh.positions.length / 3
    const per = (of: (v: number) => number) => Float32Array.from({ length: n }, (_, v) => of(v))
    const layer = writeUsd(mesh, 'My set', {
      partOfTriangle: parts.partOfTriangle,
      primvars: [
        { name: 'same', components: 1, values: per(() => 4) },
        { name: 'each', components: 1, values: per(v => parts.partOfVertex[v]!), perPart: true },
        { name: 'height', components: 1, values: per(v => mesh.positions[v * 3 + 1]!) },
        { name: 'side', components: 1, values: per(v => mesh.normals[v * 3]!) },
      ],
    })
    expect(interpolations(layer)).toEqual([
      { st: 'faceVarying', same: 'constant', each: 'uniform', height: 'vertex', side: 'faceVarying' },
      { st: 'faceVarying', same: 'constant', each: 'constant', height: 'vertex', side: 'faceVarying' },
    ])
    expect(layer).toMatch(/^#usda 1\.0\n\(\n {4}defaultPrim = "My_set"/)
    expect(layer).toContain('custom string ubblet:name = "b \\"c\\""')
    // Eight places to a box, twelve faces.
    expect([...layer.matchAll(/point3f\[\] points = \[(.*)\]/g)].map(m => m[1]!.split('), (').length)).toEqual([16, 8])
    expect([...layer.matchAll(/float\[\] primvars:each = \[(.*)\]/g)].map(m => m[1]!.split(', ').length)).toEqual([
      24, 1,
    ])
  })
  it('names every picture that is there, with its color space, and the tiles by a token', async () => {
    const mesh = row(2)
    const shifted = { ...mesh, uvs: mesh.uvs!.map((x, i) => (i % 2 === 0 && i >= 48 ? x + 1 : x)) }
    const { files } = await delivered(shifted, look, {
      meshes: ['usda'],
      materials: ['baked'],
      relief: 'both',
      size: 256,
    })
    const layer = text(files.get('it.usda'))
    const named = [...layer.matchAll(/asset inputs:file = @(.*)@\n\s+token inputs:sourceColorSpace = "(\w+)"/g)].map(
      m => [m[1]!, m[2]!],
    )
    expect(named).toEqual([
      ['textures/it_baseColor.<UDIM>.png', 'sRGB'],
      ['textures/it_roughness.<UDIM>.png', 'raw'],
      ['textures/it_normal.<UDIM>.png', 'raw'],
      ['textures/it_height.<UDIM>.png', 'raw'],
    ])
    for (const [path] of named)
      for (const tile of [1001, 1002]) expect([...files.keys()]).toContain(path!.replace('<UDIM>', String(tile)))
    // Metalness is the same everywhere, so it is a number.
    expect(layer).toContain('float inputs:metallic = 0')
    const xml = text(files.get('it.mtlx'))
    for (const m of xml.matchAll(/type="filename" value="([^"]*)"/g))
      expect([...files.keys()]).toContain(m[1]!.replace('&lt;UDIM&gt;', '1002'))
  })
})

describe('a delivery', () => {
  it('has a manifest that names every file with its size and hash, and puts nothing else there', async () => {
    const { files, manifest } = await delivered(row(3), look, {
      meshes: ['glb', 'ply', 'usda'],
      materials: ['baked', 'procedural'],
      relief: 'both',
      maps: ['orm', 'emission'],
      tables: ['csv', 'json'],
      look: true,
      size: 256,
    })
    expect([...files.keys()].sort()).toEqual([...manifest.files.map(f => f.path), 'manifest.json'].sort())
    const { createHash } = await import('node:crypto')
    for (const f of manifest.files)
      expect([f.bytes, f.sha256]).toEqual([
        files.get(f.path)!.length,
        createHash('sha256').update(files.get(f.path)!).digest('hex'),
      ])
    expect(manifest.leftOut).toEqual(['Emission: the look sets no emission.'])
    expect(manifest.baked).toEqual([])
    expect(manifest.scales).toEqual([{ variant: 'as it is', height: 5, emission: 1 }])
    expect(decode(files.get('contact.png')!).width).toBeGreaterThan(900)
    const rows = JSON.parse(text(files.get('it.parts.json'))) as { key: string; draws: object }[]
    expect(rows.map(r => Object.keys(r.draws))).toEqual(Array(3).fill(['Part random']))
  })
  it('with several variants is one GLB that can change its look, and pictures for each', async () => {
    const { files, manifest } = await delivered(row(3), look, { seeds: [0, 7], maps: ['baseColor'], size: 256 })
    const glb = files.get('it.glb')!
    expect((await validator.validateBytes(glb)).issues).toMatchObject({ numErrors: 0, numWarnings: 0 })
    const json = JSON.parse(
      text(glb.subarray(20, 20 + new DataView(glb.buffer, glb.byteOffset).getUint32(12, true))),
    ) as {
      extensions: Record<string, { variants: { name: string }[] }>
      materials: { name: string }[]
      meshes: {
        primitives: { extensions: Record<string, { mappings: { material: number; variants: number[] }[] }> }[]
      }[]
    }
    expect(json.extensions.KHR_materials_variants!.variants).toEqual([{ name: 'as it is' }, { name: 'seed 7' }])
    expect(
      json.meshes[0]!.primitives[0]!.extensions.KHR_materials_variants!.mappings.map(
        m => json.materials[m.material]!.name,
      ),
    ).toEqual(['as it is', 'seed 7'])
    const [one, other] = ['textures/it_as_it_is_baseColor.png', 'textures/it_seed_7_baseColor.png'].map(p => [
      ...decode(files.get(p)!).data,
    ])
    expect(one).not.toEqual(other)
    expect(manifest.variants).toEqual([
      { name: 'as it is', seed: 0 },
      { name: 'seed 7', seed: 7 },
    ])
  })
  it('on two tiles gives a GLB a material for each, and the validator has nothing to say, tangents included', async () => {
    const mesh = row(2)
    const shifted = { ...mesh, uvs: mesh.uvs!.map((x, i) => (i % 2 === 0 && i >= 48 ? x + 1 : x)) }
    const { files } = await delivered(shifted, look, { size: 256 })
    const glb = files.get('it.glb')!
    expect((await validator.validateBytes(glb)).issues).toMatchObject({ numErrors: 0, numWarnings: 0 })
    const json = JSON.parse(
      text(glb.subarray(20, 20 + new DataView(glb.buffer, glb.byteOffset).getUint32(12, true))),
    ) as {
      materials: { name: string; normalTexture?: object }[]
      meshes: { primitives: { material: number; attributes: object }[] }[]
    }
    expect(json.materials.map(m => m.name)).toEqual(['Tried 1001', 'Tried 1002'])
    expect(json.meshes.map(m => m.primitives.map(p => p.material))).toEqual([[0], [1]])
    expect(json.materials.every(m => m.normalTexture)).toBe(true)
    expect(json.meshes[0]!.primitives[0]!.attributes).toHaveProperty('TANGENT')
  })
  it('bakes again only what a change of the look reaches, and nothing where only names and places changed', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'ubblet-again-'))
    const mesh = row(3)
    const cache = join(folder, 'cache')
    const bytes = await writeGlb(mesh, 'mesh')
    const run = async (changed: Look) => {
      await deliver(
        {
          mesh: { name: 'mesh.glb', bytes },
          preparation: emptyPreparation(),
          maps: [],
          pictures: [],
          look: changed,
          settings: parseDelivery({ meshes: [], maps: ['baseColor', 'roughness', 'metalness', 'height'], size: 256 }),
        },
        join(folder, 'out'),
        { name: 'x', cache, threads: 0, piece: new Workpiece(mesh, emptyPreparation()) },
      )
      return (await readdir(cache)).length
    }
    const noise = look.nodes.find(n => n.kind === 'noise')!.id
    const random = look.nodes.find(n => n.kind === 'partRandom')!.id
    expect(await run(look)).toBe(4)
    expect(
      await run({
        ...look,
        name: 'Other',
        nodes: look.nodes.map(n => ({ ...n, at: [n.at[0] + 50, 7] as [number, number], name: 'moved' })),
      }),
    ).toBe(4)
    // The noise feeds roughness and height, the draw the color.
    expect(await run(setParam(look, noise, 'size', 44))).toBe(6)
    expect(await run(setParam(look, random, 'seed', 44))).toBe(7)
    expect(await run(look)).toBe(7)
    await rm(folder, { recursive: true })
  })
  it('of one tile alone has its pictures and a manifest of its own', async () => {
    const mesh = row(2)
    const shifted = { ...mesh, uvs: mesh.uvs!.map((x, i) => (i % 2 === 0 && i >= 48 ? x + 1 : x)) }
    const { files } = await delivered(shifted, look, { meshes: [], maps: ['baseColor'], tiles: [1002], size: 256 })
    expect([...files.keys()].sort()).toEqual([
      'contact.png',
      'keys.json',
      'manifest.1002.json',
      'textures/it_baseColor.1002.png',
    ])
    await expect(delivered(mesh, look, { meshes: [], maps: ['baseColor'], tiles: [1050], size: 256 })).rejects.toThrow(
      'The mesh has no tile 1050; it has 1001.',
    )
  })
  it('has in the seam of two islands the same color on both sides, to what a texel spans', async () => {
    // A smooth function of position over a box whose six sides are islands.
    const smooth = lookOf({ y: ['positionGradient', { axis: 'Y' }], finish: ['finish'] }, [
      'y.value > finish.baseColor',
      'finish.finish > result.finish',
    ])
    const mesh = row(1)
    const { files } = await delivered(mesh, smooth, { meshes: [], maps: ['baseColor'], size: 256 })
    const { data, width } = decode(files.get('textures/it_baseColor.png')!)
    const read = (u: number, v: number) => {
      const x = u * width - 0.5
      const y = v * width - 0.5
      const x0 = Math.floor(x)
      const y0 = Math.floor(y)
      const fx = x - x0
      const fy = y - y0
      const value = (i: number, j: number) => decodeSrgb(Number(data[(j * width + i) * 3]) / 255)
      return (
        (value(x0, y0) * (1 - fx) + value(x0 + 1, y0) * fx) * (1 - fy) +
        (value(x0, y0 + 1) * (1 - fx) + value(x0 + 1, y0 + 1) * fx) * fy
      )
    }
    // Points on all edges, as each of the sides that meet there has them.
    const places = new Map<string, number[]>()
    for (let t = 0; t < mesh.indices.length / 3; t++) {
      for (let e = 0; e < 3; e++) {
        const a = mesh.indices[t * 3 + e]!
        const b = mesh.indices[t * 3 + ((e + 1) % 3)]!
        for (const s of [0.1, 0.5, 0.9]) {
          const p = [0, 1, 2]
            .map(k => (mesh.positions[a * 3 + k]! * (1 - s) + mesh.positions[b * 3 + k]! * s).toFixed(4))
            .join()
          const uv = [0, 1].map(k => mesh.uvs![a * 2 + k]! * (1 - s) + mesh.uvs![b * 2 + k]! * s)
          places.set(p, [...(places.get(p) ?? []), read(uv[0]!, uv[1]!)])
        }
      }
    }
    // A side is 0.3 of the picture wide, so a texel spans 1/77 of the gradient.
    for (const values of places.values()) expect(Math.max(...values) - Math.min(...values)).toBeLessThan(1 / 77)
  })
})

/**
 * Pairs of triangle edges that lie at the same place and on different islands: the two ends of each as vertices, and
 * the triangle's third.
 */
type Edge = [number, number, number]
function seams(mesh: Mesh): [Edge, Edge][] {
  const at = (v: number) => [0, 1, 2].map(k => mesh.positions[v * 3 + k]!.toFixed(6)).join()
  const uv = (v: number) => `${mesh.uvs![v * 2]} ${mesh.uvs![v * 2 + 1]}`
  const edges = new Map<string, Edge>()
  const found: [Edge, Edge][] = []
  for (let i = 0; i < mesh.indices.length; i++) {
    const a = mesh.indices[i]!
    const b = mesh.indices[i % 3 === 2 ? i - 2 : i + 1]!
    const key = [at(a), at(b)].sort().join(' ')
    const third = mesh.indices[i - (i % 3) + ((i + 2) % 3)]!
    const ends: Edge = at(a) < at(b) ? [a, b, third] : [b, a, third]
    const other = edges.get(key)
    if (!other) edges.set(key, ends)
    else if (uv(other[0]) !== uv(ends[0]) || uv(other[1]) !== uv(ends[1])) found.push([other, ends])
  }
  return found
}
it('the kiosk roof has no seam wider than a texel: what both sides read is the height of the place, to what a texel spans', async () => {
  const size = 1024
  const { mesh } = kioskRoof()
  const box = boundsOf(mesh.positions, mesh.indices)
  const tall = box.max[1] - box.min[1]
  const rising = lookOf({ y: ['positionGradient', { axis: 'Y', space: 'mesh' }], finish: ['finish'] }, [
    'y.value > finish.roughness',
    'finish.finish > result.finish',
  ])
  const { files, manifest } = await delivered(mesh, rising, { meshes: [], maps: ['roughness'], size, format: 'png16' })
  const tiles = new Map(manifest.tiles.map(t => [t, decode(files.get(`textures/it_roughness.${t}.png`)!).data]))
  const read = (u: number, v: number) => {
    const data = tiles.get(1001 + Math.floor(u))!
    const x = (u - Math.floor(u)) * size - 0.5
    const y = v * size - 0.5
    const x0 = Math.floor(x)
    const y0 = Math.floor(y)
    const fx = x - x0
    const fy = y - y0
    const at = (i: number, j: number) => Number(data[j * size + i]) / 65535
    return (
      (at(x0, y0) * (1 - fx) + at(x0 + 1, y0) * fx) * (1 - fy) +
      (at(x0, y0 + 1) * (1 - fx) + at(x0 + 1, y0 + 1) * fx) * fy
    )
  }
  const all = seams(mesh)
  expect(all.length).toBeGreaterThan(5000)
  let widest = 0
  for (const sides of all) {
    for (const [a, b, c] of sides) {
      // Meters that a texel spans there, in the direction in which it spans most: the larger singular value of how UVs
      // lie on the triangle.
      const d = (v: number, values: Float32Array, n: number) =>
        Array.from({ length: n }, (_, k) => values[v * n + k]! - values[a * n + k]!)
      const [p, q] = [d(b, mesh.positions, 3), d(c, mesh.positions, 3)]
      const [s1, s2] = [d(b, mesh.uvs!, 2), d(c, mesh.uvs!, 2)]
      const det = s1[0]! * s2[1]! - s2[0]! * s1[1]!
      if (Math.abs(det) < 1e-12) continue
      const du = [0, 1, 2].map(k => (p[k]! * s2[1]! - q[k]! * s1[1]!) / det)
      const dv = [0, 1, 2].map(k => (q[k]! * s1[0]! - p[k]! * s2[0]!) / det)
      const dot = (x: number[], y: number[]) => x.reduce((sum, e, k) => sum + e * y[k]!, 0)
      const half = (dot(du, du) + dot(dv, dv)) / 2
      const texel = Math.sqrt(half + Math.sqrt(((dot(du, du) - dot(dv, dv)) / 2) ** 2 + dot(du, dv) ** 2)) / size
      for (const s of [0.25, 0.5, 0.75]) {
        const mixed = (values: Float32Array, n: number, k: number) =>
          values[a * n + k]! * (1 - s) + values[b * n + k]! * s
        widest = Math.max(
          widest,
          Math.abs(
            read(mixed(mesh.uvs!, 2, 0), mixed(mesh.uvs!, 2, 1)) * tall - (mixed(mesh.positions, 3, 1) - box.min[1]),
          ) / texel,
        )
      }
    }
  }
  expect(widest).toBeLessThan(1)
}, 60_000)

describe('settings of a delivery', () => {
  it('are checked, and what is wrong is said', () => {
    expect(parseDelivery({}).size).toBe(1024)
    for (const [bad, message] of [
      [{ size: 1000 }, /size/],
      [{ extra: [{ name: 'x', lanes: ['wings'], space: 'linear' }] }, /nothing of that name/],
      [{ wings: 1 }, /Unrecognized key/],
      [{ vertexMaps: [{ name: 'ä', lanes: ['roughness'] }] }, /letters, digits/],
    ] as const) {
      expect(() => parseDelivery(bad)).toThrow(DeliveryError)
      expect(() => parseDelivery(bad)).toThrow(message)
    }
  })
})

describe('a look as one file', () => {
  it('carries its pictures and comes back the same', () => {
    const withPicture = lookOf({ picture: ['picture', { picture: 'moss.png' }], finish: ['finish'] }, [
      'picture.color > finish.baseColor',
      'finish.finish > result.finish',
    ])
    const files = packLook(
      withPicture,
      new Map([
        ['moss.png', Uint8Array.of(1, 2, 3)],
        ['other.png', Uint8Array.of(4)],
      ]),
    )
    expect(Object.keys(files)).toEqual(['look.json', 'pictures/moss.png'])
    expect(unpackLook(files)).toEqual({
      look: withPicture,
      pictures: [{ name: 'moss.png', bytes: Uint8Array.of(1, 2, 3) }],
    })
    const back = readLookFile('x.look.zip', zipSync(files), READ_LIMITS)
    expect(back.look).toEqual(withPicture)
    for (const [name, bytes] of [
      ['x.look.zip', zipSync({ 'a.txt': new Uint8Array(1) })],
      ['x.look.zip', new Uint8Array(9)],
      ['x.look.json', new TextEncoder().encode('{')],
      ['x.mtlx', new TextEncoder().encode('<p>hello</p>')],
    ] as const)
      expect(() => readLookFile(name, bytes, READ_LIMITS)).toThrow(LookError)
  })
})

describe('reading MaterialX', () => {
  const wrap = (nodes: string, inputs: string) =>
    `<?xml version="1.0"?><materialx version="1.39"><nodegraph name="NG">${nodes}</nodegraph><open_pbr_surface name="S" type="surfaceshader">${inputs}</open_pbr_surface><surfacematerial name="Slate" type="material"><input name="surfaceshader" type="surfaceshader" nodename="S"/></surfacematerial></materialx>`
  it('makes a look of nodes that it knows: numbers, wires and patterns', () => {
    const { look: made, report } = readMaterialX(
      wrap(
        `
      <position name="p" type="vector3"/><multiply name="ps" type="vector3"><input name="in1" type="vector3" nodename="p"/><input name="in2" type="float" value="4"/></multiply>
      <fractal3d name="f" type="float"><input name="position" type="vector3" nodename="ps"/><input name="octaves" type="integer" value="5"/><input name="amplitude" type="float" value="0.5"/></fractal3d>
      <add name="a" type="float"><input name="in1" type="float" nodename="f"/><input name="in2" type="float" value="0.25"/></add>
      <mix name="m" type="color3"><input name="bg" type="color3" value="0.1, 0.2, 0.3"/><input name="fg" type="color3" value="0.8, 0.7, 0.6"/><input name="mix" type="float" nodename="a"/></mix>
      <output name="c" type="color3" nodename="m"/>`,
        '<input name="base_color" type="color3" nodegraph="NG" output="c"/><input name="specular_roughness" type="float" value="0.35"/><input name="coat_weight" type="float" value="0.5"/>',
      ),
      'x',
    )
    expect(made.name).toBe('Slate')
    expect(made.nodes.map(n => n.kind).sort()).toEqual(['finish', 'math', 'mix', 'noise', 'remap', 'result'])
    const of = (kind: string) => made.nodes.find(n => n.kind === kind)!.params
    expect(of('noise')).toMatchObject({ size: 25, detail: 5 })
    expect(of('remap')).toMatchObject({ toLow: -0.5, toHigh: 0.5, hold: false })
    expect(of('finish').roughness).toBe(0.35)
    expect(check(made, {}).filter(f => f.severity === 'error')).toEqual([])
    expect(report).toContain('"S": its coat_weight is left out.')
    // It computes: the mix stays between its colors where the amount does.
    const red = at(made, tablesOf(row(2)), `${made.nodes.find(n => n.kind === 'mix')!.id}/out`)[0]!
    expect(new Set(red).size).toBeGreaterThan(100)
  })
  it('names what it has no kind for, and leaves that at its default', () => {
    const { look: made, report } = readMaterialX(
      wrap(
        '<blackbody name="b" type="color3"><input name="temperature" type="float" value="3000"/></blackbody><output name="c" type="color3" nodename="b"/>',
        '<input name="base_color" type="color3" nodegraph="NG" output="c"/>',
      ),
      'x',
    )
    expect(report).toEqual(['"b": there is no kind for blackbody of colors; what it feeds has its default.'])
    expect(made.nodes.map(n => n.kind).sort()).toEqual(['finish', 'result'])
  })
  it('says what is wrong with a document that is none, or that loops', () => {
    const loop = wrap(
      '<add name="a" type="float"><input name="in1" type="float" nodename="b"/></add><add name="b" type="float"><input name="in1" type="float" nodename="a"/></add><output name="c" type="float" nodename="a"/>',
      '<input name="specular_roughness" type="float" nodegraph="NG" output="c"/>',
    )
    for (const [xml, message] of [
      ['hello', /not a MaterialX document/],
      ['<materialx version="1.39"/>', /has no surface/],
      [loop, /loop at "a"/],
    ] as const)
      expect(() => readMaterialX(xml, 'x')).toThrow(message)
  })
  it('never fails on any document in another way than by a sentence', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            tag: fc.constantFrom(
              'add',
              'mix',
              'image',
              'noise3d',
              'extract',
              'combine3',
              'remap',
              'wings',
              'clamp',
              'constant',
            ),
            type: fc.constantFrom('float', 'color3', 'vector3'),
            from: fc.integer({ min: 0, max: 6 }),
            value: fc.constantFrom('1', '0.5, 2', 'x', '', '1e999'),
          }),
          { maxLength: 7 },
        ),
        list => {
          const nodes = list
            .map(
              (n, i) =>
                `<${n.tag} name="n${i}" type="${n.type}"><input name="in1" type="float" nodename="n${n.from}"/><input name="in" type="float" nodename="n${n.from}"/><input name="value" type="float" value="${n.value}"/><input name="bg" type="float" value="${n.value}"/></${n.tag}>`,
            )
            .join('')
          try {
            const { look: made } = readMaterialX(
              wrap(
                `${nodes}<output name="c" type="color3" nodename="n0"/>`,
                '<input name="base_color" type="color3" nodegraph="NG" output="c"/>',
              ),
              'x',
            )
            expect(check(made, {}).filter(f => f.severity === 'error')).toEqual([])
          } catch (error) {
            expect(error).toBeInstanceOf(LookError)
          }
        },
      ),
    )
  })
  it('reads back the surface that a baked document writes', async () => {
    const { files } = await delivered(row(2), look, { meshes: [], materials: ['baked'], size: 256 })
    const xml = text(files.get('it.mtlx'))
    const { look: made, report } = readMaterialX(xml, 'x')
    expect(new XMLParser().parse(xml)).toHaveProperty('materialx')
    const kinds = made.nodes.map(n => n.kind)
    expect(kinds.filter(k => k === 'picture')).toHaveLength(2)
    expect(report.some(r => r.includes('it_baseColor.png'))).toBe(true)
  })
})
