import { unzipSync } from 'fflate'
import { decode } from 'fast-png'
import { beforeAll, describe, expect, it } from 'vitest'
import { writeUsdz } from '#core/exchange/writeUsdz'
import type { Mesh } from '#core/mesh/mesh'
import { delivered } from '../delivered'
import { boxes, lookOf } from '../helpers'
import { readUsd } from '../usdLibrary'

// Rules of the specifications of OpenUSD that strict readers hold files to, read from the text of the layer.

interface Prim {
  path: string
  type: string
  /** What stands between the parentheses behind its name, and its own lines, without those of the prims in it. */
  meta: string
  lines: string[]
}

/** The prims of a layer as ours are laid out: a brace stands alone on its line. */
function primsOf(layer: string): Prim[] {
  const found: Prim[] = []
  const stack: (Prim | null)[] = []
  let coming: Prim | null = null
  let meta = false
  for (const raw of layer.split('\n')) {
    const line = raw.trim()
    const def = /^def (\w+) "([^"]+)"( \()?$/.exec(line)
    const inside = stack.findLast(p => p !== null) ?? null
    if (def) {
      coming = { path: `${inside?.path ?? ''}/${def[2]}`, type: def[1]!, meta: '', lines: [] }
      meta = Boolean(def[3])
    } else if (coming && meta) {
      if (line === ')') meta = false
      else coming.meta += `${line}\n`
    } else if (line === '{') {
      if (coming) found.push(coming)
      stack.push(coming)
      coming = null
    } else if (line === '}') stack.pop()
    else if (line.endsWith('{')) {
      // A variant set, or one of its variants.
      stack.push(null)
    } else inside?.lines.push(line)
  }
  expect(stack).toEqual([])
  return found
}

const numbers = (text: string): number[] => [...text.matchAll(/-?[\d.]+(?:e-?\d+)?/g)].map(m => Number(m[0]))

/** Everything in a layer that the rules do not allow, in words. */
function broken(layer: string, files: ReadonlySet<string>): string[] {
  const faults: string[] = []
  const prims = primsOf(layer)
  const paths = new Set(prims.map(p => p.path))
  const root = /defaultPrim = "(\w+)"/.exec(layer)?.[1]
  if (!root || !paths.has(`/${root}`)) faults.push('no default prim')
  for (const need of ['metersPerUnit = 1', 'upAxis = "Y"', 'kind = "component"', 'token purpose = "default"'])
    if (!layer.includes(need)) faults.push(`no ${need}`)
  for (const { path, type, meta, lines } of prims) {
    const binds = lines.some(l => l.startsWith('rel material:binding'))
    if (binds && !meta.includes('MaterialBindingAPI')) faults.push(`${path} binds a material without the API`)
    for (const l of lines) {
      const target = /<(\/[^>.]+)/.exec(l)?.[1]
      // What a document brings in is known to the document.
      const brought = prims.some(p => p.meta.includes('@</MaterialX>') && target?.startsWith(`${p.path}/Materials/`))
      if (target && !paths.has(target) && !brought) faults.push(`${path} names ${target}, which is not there`)
      const asset = /= @([^@]+)@/.exec(l)?.[1]
      if (asset && !files.has(asset)) faults.push(`${path} reads ${asset}, which is not there`)
    }
    const document = /references = @\.\/([^@]+)@/.exec(meta)?.[1]
    if (document && !files.has(document)) faults.push(`${path} refers to ${document}, which is not there`)
    if (type !== 'Mesh') continue
    const line = (name: string) => lines.find(l => l.includes(` ${name} = `))?.split(' = ')[1] ?? ''
    const points = numbers(line('points'))
    const faces = numbers(line('faceVertexCounts')).length
    const corners = numbers(line('faceVertexIndices'))
    if (corners.length !== faces * 3 || corners.some(c => c >= points.length / 3)) faults.push(`${path}: faces`)
    const extent = numbers(line('extent'))
    for (let k = 0; k < 3; k++) {
      const along = points.filter((_, i) => i % 3 === k)
      if (extent[k] !== Math.min(...along) || extent[k + 3] !== Math.max(...along)) faults.push(`${path}: extent`)
    }
    const lengths: Record<string, number> = {
      constant: 1,
      uniform: faces,
      vertex: points.length / 3,
      faceVarying: corners.length,
    }
    lines.forEach((l, i) => {
      const found = /^(\w+)\[\] primvars:(\w+) = /.exec(l)
      const by = found && /interpolation = "(\w+)"/.exec(lines[i + 1] ?? '')?.[1]
      if (!found || !by) return
      const indices = lines.find(other => other.includes(`primvars:${found[2]}:indices`))
      const width = Number(/(\d)f?$/.exec(found[1]!)?.[1] ?? 1)
      const values = numbers((indices ?? l).split(' = ')[1]!).length
      const count = indices ? values : values / width
      if (count !== lengths[by]) faults.push(`${path}: ${found[2]} has ${count} values, ${by} needs ${lengths[by]}`)
    })
  }
  for (const { path, type, lines } of prims)
    if (type === 'GeomSubset' && !lines.some(l => l.includes('elementType = "face"'))) faults.push(`${path}: elements`)
  return faults
}

const mesh: Mesh = boxes([
  { object: 'rack', at: [0, 0, 0] },
  { object: 'rack', at: [2, 0, 0] },
  { object: 'lid', at: [4, 0, 0] },
])
const look = {
  ...lookOf({ draw: ['partRandom'], color: ['varyColor', { hue: 200 }], finish: ['finish'] }, [
    'draw.value > color.hueBy',
    'color.color > finish.baseColor',
    'draw.value > finish.roughness',
    'finish.finish > result.finish',
  ]),
  name: 'Layered',
}

describe('a USD layer', () => {
  it.each([
    ['one look, with pictures', {}],
    ['two looks', { seeds: [0, 4] }],
    ['colors at the vertices', { colorIn: 'vertices' }],
    ['numbers of parts', { identity: true, vertexMaps: [{ name: 'wear', lanes: ['roughness'] }] }],
  ])('keeps to the rules: %s', async (_, more) => {
    const { files } = await delivered(mesh, look, { meshes: ['usda'], relief: 'both', size: 256, ...more })
    const layer = new TextDecoder().decode(files.get('it.usda'))
    expect(broken(layer, new Set(files.keys()))).toEqual([])
    const { meshes, text } = await readUsd(layer)
    expect(meshes.map(m => m.path)).toEqual(['/it/rack', '/it/lid'])
    // As on the stage, each is seen from both sides.
    expect(text.match(/uniform bool doubleSided = (1|true)/g)).toHaveLength(meshes.length)
    expect(meshes.reduce((n, m) => n + m.corners.length / 9, 0)).toBe(mesh.indices.length / 3)
    // The rules find what is wrong.
    expect(broken(layer.replaceAll('MaterialBindingAPI', 'Nothing'), new Set(files.keys()))).not.toEqual([])
    expect(broken(layer.replace('defaultPrim = "it"', 'defaultPrim = "that"'), new Set(files.keys()))).not.toEqual([])
  })
})

describe('a USD layer beside a procedural document', () => {
  it('binds its pictures, or the material of the document where that is chosen, whose values its mesh has', async () => {
    const asked = { meshes: ['usda', 'usdz'], materials: ['procedural'], size: 256 }
    const { files } = await delivered(mesh, look, asked)
    const layer = new TextDecoder().decode(files.get('it.usda'))
    expect(broken(layer, new Set(files.keys()))).toEqual([])
    expect(broken(layer, new Set(['it.usda']))).toContain(
      '/it/Procedural refers to it.procedural.mtlx, which is not there',
    )
    expect(layer).toContain('string material = "Layered"')
    const variant = /"procedural" \{([\s\S]*?)\n {8}\}/.exec(layer)![1]!
    expect(variant).toContain('prepend references = @./it.procedural.mtlx@</MaterialX>')
    const bound = /material:binding = <\/it\/Procedural\/Materials\/(\w+)>/.exec(variant)![1]!
    const document = new TextDecoder().decode(files.get('it.procedural.mtlx'))
    const material = new RegExp(`<surfacematerial name="${bound}"[\\s\\S]*?nodename="(\\w+)"`).exec(document)![1]
    expect(document).toContain(`<open_pbr_surface name="${material}"`)
    const read = [...document.matchAll(/name="geomprop" type="string" value="(\w+)"/g)].map(m => m[1])
    expect(read.length).toBeGreaterThan(0)
    for (const name of read) expect(layer).toContain(`primvars:${name} = `)
    // A binding outside of the variants would be stronger than they are.
    expect(layer.split('variantSet "material"')[0]).not.toContain('rel material:binding')
    const packed = unzipSync(files.get('it.usdz')!)
    const inside = new TextDecoder().decode(packed['it.usda'])
    expect(inside).not.toContain('MaterialX>')
    expect(inside).toContain('rel material:binding = </it/Looks/Layered>')
  })
})

describe('a USD package', () => {
  let files: Map<string, Uint8Array>
  let bytes: Uint8Array
  beforeAll(async () => {
    files = (await delivered(mesh, look, { meshes: ['usdz'], size: 256 })).files
    bytes = files.get('it.usdz')!
  })
  /** Names, methods and places of the entries, from their local headers. */
  function entriesOf(zip: Uint8Array): { name: string; method: number; at: number; size: number }[] {
    const view = new DataView(zip.buffer, zip.byteOffset, zip.byteLength)
    const list = []
    for (let at = 0; view.getUint32(at, true) === 0x04034b50;) {
      const name = view.getUint16(at + 26, true)
      const data = at + 30 + name + view.getUint16(at + 28, true)
      const size = view.getUint32(at + 18, true)
      list.push({
        name: new TextDecoder().decode(zip.subarray(at + 30, at + 30 + name)),
        method: view.getUint16(at + 8, true),
        at: data,
        size,
      })
      at = data + size
    }
    return list
  }
  it('stores every file as it is, at a multiple of 64 bytes, the layer first', () => {
    const entries = entriesOf(bytes)
    expect(entries[0]!.name).toBe('it.usda')
    expect(entries.length).toBeGreaterThan(2)
    for (const e of entries) expect([e.name, e.method, e.at % 64]).toEqual([e.name, 0, 0])
  })
  it('holds the pictures that its layer reads, and nobody else gets them', () => {
    const inside = unzipSync(bytes)
    const layer = new TextDecoder().decode(inside['it.usda'])
    expect(broken(layer, new Set(Object.keys(inside)))).toEqual([])
    const read = [...layer.matchAll(/@([^@]+)@/g)].map(m => m[1]!)
    expect(read.length).toBeGreaterThan(1)
    for (const path of read) expect(decode(inside[path]!).width).toBe(256)
    expect([...files.keys()].filter(f => f.startsWith('textures'))).toEqual([])
  })
  it('leaves pictures as files, too, where they were asked for', async () => {
    const both = (await delivered(mesh, look, { meshes: ['usdz'], maps: ['roughness'], size: 256 })).files
    expect([...both.keys()].filter(f => f.startsWith('textures'))).toEqual(['textures/it_roughness.png'])
  })
  it('is aligned whatever its files are called and however long they are', () => {
    for (const length of [0, 1, 63, 64, 65, 1000]) {
      const pictures = new Map([
        ['textures/ä.png', new Uint8Array(length)],
        ['b', new Uint8Array(length + 7)],
      ])
      const zip = writeUsdz({ name: 'layer.usda', text: '#usda 1.0\n' }, pictures)
      expect(entriesOf(zip).map(e => [e.at % 64, e.size])).toEqual([
        [0, 10],
        [0, length],
        [0, length + 7],
      ])
      expect(Object.keys(unzipSync(zip))).toEqual(['layer.usda', 'textures/ä.png', 'b'])
    }
  })
})
