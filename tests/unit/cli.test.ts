import { mkdtemp, readFile, writeFile, readdir } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import validator from 'gltf-validator'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { decode } from 'fast-png'
import { callApart, callHere, type Done } from '../commandLine'
import { removeFolder } from '../folders'
import { exrFile, lampIn } from '../lightFiles'
import { manifestSchema, type Manifest } from '#core/deliver/manifest'
import { emptyLook } from '#core/graph/look'
import { readMesh } from '#core/exchange/readMesh'
import { findParts } from '#core/mesh/parts'
import type { DemoCounts } from '../../demo'

const ubblet = (...args: string[]): Promise<Done> => callHere(args, join(folder, 'cache'))

let folder = ''
let demos: { file: string; counts: DemoCounts }[] = []
/** Counts of a demo mesh, by its generator. */
const counts = (name: string) => demos.find(d => d.file === name)!.counts
const path = (name: string) => join(folder, name)
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ubblet-cli-'))
  demos = (JSON.parse((await ubblet('demo', folder, '--no-detail', '--json')).out) as typeof demos).filter(
    d => d.counts,
  )
})
afterAll(() => removeFolder(folder))

describe('the demo', () => {
  interface Report {
    levels: object
    parts: { key: string; object: string; volume: number }[]
    udims: number[]
    uvSets: number
    attributes: { name: string; range: number[] }[]
    warnings: string[]
  }
  it.each(['float-rack', 'kiosk-roof', 'mooring-winch'])('%s has the parts that its generator made', async name => {
    const report = JSON.parse((await ubblet('inspect', path(`${name}.glb`), '--json')).out) as Report
    const made = counts(`${name}.glb`)
    const { objects, groups, patches } = made
    expect(report.levels).toEqual({ object: objects, group: groups, part: made.parts, patch: patches })
    expect(report).toMatchObject({ udims: made.tiles === 2 ? [1001, 1002] : [1001], uvSets: 1, warnings: [] })
    expect(new Set(report.parts.map(p => p.key)).size).toBe(made.parts)
    expect(report.parts.every(p => p.volume > 0)).toBe(true)
    const { floats, scales, bolts } = made.ofNote
    const within = (object: string) => report.parts.filter(p => p.object === object).length
    if (floats) {
      expect(floats).toBe(120)
      expect(within('String 3')).toBe(46)
      expect(report.attributes.map(a => a.name)).toEqual(['sunward', 'glass', 'rope', 'group'])
    }
    if (scales) {
      expect(within('Scales')).toBe(scales)
      expect(Math.abs(scales - 500)).toBeLessThan(30)
    }
    if (bolts) expect(within('Bolts')).toBe(bolts)
  })
  it.each(['float-rack', 'kiosk-roof', 'mooring-winch'])(
    '%s is valid glTF with outward faces, and no two patches share a place in the UV square',
    async name => {
      const bytes = new Uint8Array(await readFile(path(`${name}.glb`)))
      expect((await validator.validateBytes(bytes)).issues).toMatchObject({ numErrors: 0, numWarnings: 0 })
      const mesh = await readMesh(bytes, 'mesh.glb')
      const parts = findParts(mesh)
      const volume = new Float64Array(parts.parts.length)
      for (let t = 0; t < mesh.indices.length / 3; t++) {
        const [a, b, c] = [0, 1, 2].map(k =>
          mesh.positions.subarray(mesh.indices[t * 3 + k]! * 3, mesh.indices[t * 3 + k]! * 3 + 3),
        )
        volume[parts.partOfTriangle[t]!]! +=
          (a![0]! * (b![1]! * c![2]! - b![2]! * c![1]!) +
            a![1]! * (b![2]! * c![0]! - b![0]! * c![2]!) +
            a![2]! * (b![0]! * c![1]! - b![1]! * c![0]!)) /
          6
      }
      expect(parts.parts.filter((_, p) => volume[p]! <= 0).map(p => p.name)).toEqual([])
      const boxes = Array.from({ length: parts.patches }, () => [Infinity, Infinity, -Infinity, -Infinity])
      const nameOf: string[] = []
      mesh.indices.forEach((v, i) => {
        const t = Math.floor(i / 3)
        const patch = parts.patchOfTriangle[t]!
        const box = boxes[patch]!
        nameOf[patch] = parts.parts[parts.partOfTriangle[t]!]!.name
        const [x, y] = mesh.uvs!.subarray(v * 2, v * 2 + 2) as unknown as [number, number]
        box.splice(0, 4, Math.min(box[0]!, x), Math.min(box[1]!, y), Math.max(box[2]!, x), Math.max(box[3]!, y))
      })
      boxes.forEach((a, i) => {
        expect(a[0]! > 0 && a[1]! > 0 && Math.floor(a[0]!) === Math.floor(a[2]!) && a[2]! < 2 && a[3]! < 1).toBe(true)
        const shared = boxes.findIndex(
          (b, j) => j > i && a[0]! < b[2]! && b[0]! < a[2]! && a[1]! < b[3]! && b[1]! < a[3]!,
        )
        expect(shared, `${nameOf[i]} lies over ${nameOf[shared]}`).toBe(-1)
      })
    },
  )
  it('is the same file every time', async () => {
    const other = await mkdtemp(join(tmpdir(), 'ubblet-cli-'))
    await ubblet('demo', other, '--no-detail')
    for (const name of [
      'float-rack.glb',
      'kiosk-roof.glb',
      'kiosk-roof.preparation.json',
      'mooring-winch.glb',
      'mooring-winch.look.json',
    ])
      expect((await readFile(join(other, name))).equals(await readFile(path(name))), name).toBe(true)
  })
})

describe('values, check and export', () => {
  it('vary each float, and answer to --seed', async () => {
    const rows = JSON.parse(
      (await ubblet('values', path('float-rack.look.json'), '--mesh', path('float-rack.glb'), '--json')).out,
    ) as { name: string; channels: { baseColor: number[]; roughness: number[] } }[]
    expect(rows).toHaveLength(counts('float-rack.glb').parts)
    expect(new Set(rows.map(r => r.channels.baseColor.map(x => x.toFixed(3)).join())).size).toBeGreaterThan(120)
    const other = await ubblet(
      'values',
      path('float-rack.look.json'),
      '--mesh',
      path('float-rack.glb'),
      '--seed',
      '5',
      '--json',
    )
    expect((JSON.parse(other.out) as typeof rows)[1]!.channels.baseColor).not.toEqual(rows[1]!.channels.baseColor)
    const csv = await ubblet('values', path('float-rack.look.json'), '--mesh', path('float-rack.glb'))
    expect(csv.out.split('\r\n')[0]).toMatch(
      /^key,name,object,area,index,group,parent,center x,.*,max z,baseColor\.r,baseColor\.g,baseColor\.b,metalness,roughness,height,emission\.r,.*,roughness spread,.*,Per float,Per rope$/,
    )
  })
  it('write a valid GLB and a table, whole files only', async () => {
    const to = path('out/rack.glb')
    expect(
      await ubblet(
        'export',
        path('float-rack.look.json'),
        '--mesh',
        path('float-rack.glb'),
        '--to',
        to,
        '--size',
        '512',
      ),
    ).toMatchObject({ code: 0, out: `${to}\n` })
    expect((await validator.validateBytes(new Uint8Array(await readFile(to)))).issues).toMatchObject({
      numErrors: 0,
      numWarnings: 0,
    })
    expect(
      (
        await ubblet(
          'export',
          path('float-rack.look.json'),
          '--mesh',
          path('float-rack.glb'),
          '--to',
          path('out/rack.csv'),
        )
      ).code,
    ).toBe(0)
    expect((await readdir(path('out'))).sort()).toEqual(['rack.csv', 'rack.glb'])
  })
  it('bake pictures per tile, so that a farm can share them, and take again what is there', async () => {
    const args = [
      'bake',
      path('kiosk-roof.look.json'),
      '--mesh',
      path('kiosk-roof.glb'),
      '--out',
      path('tiles'),
      '--size',
      '256',
      '--channels',
      'baseColor,roughness',
      '--preparation',
      path('kiosk-roof.quick.json'),
    ]
    await writeFile(
      path('kiosk-roof.quick.json'),
      (await readFile(path('kiosk-roof.preparation.json'), 'utf8')).replace(/"rays": ?\d+/g, '"rays":4'),
    )
    const apart = (tile: number) => callApart([...args, '--udim', String(tile)], path('cache'))
    const runs = await Promise.all([1001, 1002].map(apart))
    expect(
      runs.map(r => r.code),
      runs.map(r => r.err).join('\n'),
    ).toEqual([0, 0])
    const names = await readdir(path('tiles'))
    expect(names.sort()).toEqual(
      [
        'keys.json',
        'manifest.1001.json',
        'manifest.1002.json',
        ...['baseColor', 'roughness'].flatMap(c => [1001, 1002].map(t => `rain_worn_glaze_${c}.${t}.png`)),
      ].sort(),
    )
    const before = await Promise.all(names.filter(n => n.endsWith('.png')).map(n => readFile(path(`tiles/${n}`))))
    // All tiles at once, from the cache: the same files.
    expect((await ubblet(...args)).code).toBe(0)
    const after = await Promise.all(names.filter(n => n.endsWith('.png')).map(n => readFile(path(`tiles/${n}`))))
    expect(after.every((bytes, i) => bytes.equals(before[i]!))).toBe(true)
  }, 60_000)
  it('write every format that is named, each in a folder where there are several, and 16 bits are 16 bits', async () => {
    const done = await ubblet(
      'bake',
      path('float-rack.look.json'),
      '--mesh',
      path('float-rack.glb'),
      '--out',
      path('depths'),
      '--size',
      '256',
      '--channels',
      'roughness',
      '--format',
      'png8,png16,exr',
      '--json',
    )
    expect(done.code).toBe(0)
    expect(
      (JSON.parse(done.out) as { files: string[] }).files
        .filter(f => !f.endsWith('keys.json'))
        .map(f => f.slice(path('depths').length + 1)),
    ).toEqual([
      'png8/weathered_floats_roughness.png',
      'png16/weathered_floats_roughness.png',
      'exr/weathered_floats_roughness.exr',
    ])
    const deep = decode(await readFile(path('depths/png16/weathered_floats_roughness.png')))
    expect([deep.depth, deep.channels, new Set(deep.data).size > 256]).toEqual([16, 1, true])
  }, 60_000)
  it('export the other formats, with pictures beside the file that names them', async () => {
    for (const ending of ['ply', 'usda', 'mtlx', 'json'])
      expect(
        (
          await ubblet(
            'export',
            path('float-rack.look.json'),
            '--mesh',
            path('float-rack.glb'),
            '--to',
            path(`formats/rack.${ending}`),
            '--size',
            '256',
          )
        ).code,
        ending,
      ).toBe(0)
    expect(await readdir(path('formats'))).toEqual(
      expect.arrayContaining(['rack.ply', 'rack.usda', 'rack.mtlx', 'rack.json', 'textures']),
    )
    expect(
      (await readMesh(new Uint8Array(await readFile(path('formats/rack.ply'))), 'rack.ply')).indices.length / 3,
    ).toBe((await readMesh(new Uint8Array(await readFile(path('float-rack.glb'))), 'rack.glb')).indices.length / 3)
    expect(await readFile(path('formats/rack.usda'), 'utf8')).toContain('@textures/rack_baseColor.png@')
    expect(await readdir(path('formats/textures'))).toEqual(
      expect.arrayContaining(['rack_baseColor.png', 'rack_roughness.png']),
    )
    const procedural = await ubblet(
      'export',
      path('float-rack.look.json'),
      '--mesh',
      path('float-rack.glb'),
      '--to',
      path('proc/rack.mtlx'),
      '--material',
      'procedural',
      '--size',
      '256',
    )
    expect(procedural.code).toBe(0)
    expect((await readdir(path('proc'))).sort()).toEqual(expect.arrayContaining(['rack.glb', 'rack.mtlx']))
  }, 120_000)
  it('deliver by a file of settings, and open the look that came along', async () => {
    await writeFile(
      path('small.json'),
      JSON.stringify({ meshes: ['glb'], look: true, tables: ['csv'], size: 256, seeds: [3] }),
    )
    expect(
      (
        await ubblet(
          'deliver',
          path('float-rack.look.json'),
          '--mesh',
          path('float-rack.glb'),
          '--out',
          path('whole'),
          '--settings',
          path('small.json'),
        )
      ).code,
    ).toBe(0)
    expect((await readdir(path('whole'))).sort()).toEqual([
      'contact.png',
      'keys.json',
      'manifest.json',
      'weathered_floats.csv',
      'weathered_floats.glb',
      'weathered_floats.look.zip',
    ])
    const manifest = JSON.parse(await readFile(path('whole/manifest.json'), 'utf8')) as Manifest
    expect(manifestSchema.parse(manifest)).toMatchObject({
      variants: [{ seed: 3 }],
      tiles: [1001],
      settings: { size: 256 },
    })
    expect((await ubblet('check', path('whole/weathered_floats.look.zip'))).code).toBe(0)
    await writeFile(path('wrong.json'), JSON.stringify({ size: 3 }))
    expect(
      await ubblet(
        'deliver',
        path('float-rack.look.json'),
        '--mesh',
        path('float-rack.glb'),
        '--out',
        path('never'),
        '--settings',
        path('wrong.json'),
      ),
    ).toMatchObject({ code: 2, err: expect.stringMatching(/These are not delivery settings: size/) as string })
  }, 60_000)
  it('trace a delivered GLB as PNG and EXR', async () => {
    expect(
      (
        await ubblet(
          'export',
          path('float-rack.look.json'),
          '--mesh',
          path('float-rack.glb'),
          '--to',
          path('light/rack.glb'),
          '--size',
          '256',
        )
      ).code,
    ).toBe(0)
    for (const ending of ['png', 'exr'])
      expect(
        (
          await ubblet(
            'render',
            path('light/rack.glb'),
            '--to',
            path(`traced.${ending}`),
            '--size',
            '40x30',
            '--samples',
            '2',
          )
        ).code,
      ).toBe(0)
    const picture = decode(await readFile(path('traced.png')))
    expect([picture.width, picture.height]).toEqual([40, 30])
    expect(new Set(picture.data).size).toBeGreaterThan(20)
    // The same lamp in red and in blue.
    const redness = async (lamp: [number, number, number]): Promise<number> => {
      await writeFile(path('own.exr'), exrFile(lampIn(8, 4, [5, 1, lamp])))
      const settings = ['--size', '40x30', '--samples', '4', '--light', path('own.exr')]
      expect((await ubblet('render', path('light/rack.glb'), '--to', path('own.png'), ...settings)).code).toBe(0)
      const { data } = decode(await readFile(path('own.png')))
      const sum = (channel: number): number => [...data].filter((_, i) => i % 3 === channel).reduce((a, b) => a + b, 0)
      return sum(0) / sum(2)
    }
    expect(await redness([400, 40, 4])).toBeGreaterThan(1.5 * (await redness([4, 40, 400])))
    await writeFile(path('text.hdr'), 'hello')
    expect(
      (await ubblet('render', path('light/rack.glb'), '--to', path('own.png'), '--light', path('text.hdr'))).err,
    ).toMatch(/text\.hdr is no picture of light/)
    expect((await ubblet('render', path('light/rack.glb'), '--to', path('traced.jpg'))).err).toMatch(
      /render writes \.png and \.exr/,
    )
  }, 60_000)
  it('read a material document as a look', async () => {
    const done = await ubblet('read', path('formats/rack.mtlx'), '--to', path('back.look.json'))
    expect(done.code).toBe(0)
    expect(done.out).toContain('add it to the project under its name')
    expect((await ubblet('check', path('back.look.json'))).err).toBe('')
  })
  it('exit 1 with findings, 0 without', async () => {
    // The one under a dense mesh reads what was left out here.
    for (const { file } of demos.filter(d => d.file !== 'mooring-winch-cast.glb')) {
      const stem = path(file.replace('.glb', ''))
      // As prepared, but with the fewest rays: the looks have to hold whatever the grain of their occlusion.
      await writeFile(
        `${stem}.quick.json`,
        (await readFile(`${stem}.preparation.json`, 'utf8')).replace(/"rays": ?\d+/g, '"rays":4'),
      )
      expect(
        await ubblet('check', `${stem}.look.json`, '--mesh', `${stem}.glb`, '--preparation', `${stem}.quick.json`),
      ).toMatchObject({ code: 0, out: 'Nothing found.\n' })
    }
    expect((await ubblet('check', path('kiosk-roof.look.json'), '--mesh', path('kiosk-roof.glb'))).out).toContain(
      'no part set "Replaced scales"',
    )
    await writeFile(path('empty.look.json'), JSON.stringify(emptyLook()))
    expect(await ubblet('check', path('empty.look.json'))).toMatchObject({
      code: 1,
      out: expect.stringMatching(/^warning result: Nothing is connected/) as string,
    })
  })
})

describe('wrong calls', () => {
  const cases: [string, string[], RegExp][] = [
    ['no such file', ['inspect', 'nowhere.glb'], /nowhere\.glb: there is no such file\./],
    ['another kind of file', ['inspect', 'README.md'], /reads \.glb, \.gltf, \.obj, \.ply, \.stl, \.zip/],
    ['a text file called .glb', ['inspect', '@text.glb'], /not a GLB file/],
    ['a look that is no look', ['check', '@text.glb'], /it is not JSON/],
    ['no mesh', ['values', '@float-rack.look.json'], /Required option '--mesh <file>' not specified/],
    [
      'a size that is not offered',
      ['export', '@float-rack.look.json', '--mesh', '@float-rack.glb', '--to', 'x.glb', '--size', '777'],
      /--size takes 256, 512, 1024, 2048, 4096, 8192, not 777/,
    ],
    [
      'an unknown ending',
      ['export', '@float-rack.look.json', '--mesh', '@float-rack.glb', '--to', 'x.fbx'],
      /export writes \.glb, \.ply, \.usda, \.usdz, \.mtlx, \.csv, \.json/,
    ],
    ['an unknown command', ['paint'], /Unknown command 'paint'/],
    ['an unknown option', ['inspect', '--wings'], /wings/],
    [
      'a mesh without UVs',
      ['export', '@float-rack.look.json', '--mesh', '@bare.glb', '--to', '@never.glb'],
      /Textures need UVs/,
    ],
  ]
  it.each(cases)('%s: one line, exit 2', async (_, args, message) => {
    await writeFile(path('text.glb'), 'this is text')
    if (args.includes('@bare.glb')) {
      const { writeGlb } = await import('#core/exchange/writeGlb')
      const { row } = await import('../helpers')
      const { uvs: _uvs, ...bare } = row(1)
      await writeFile(path('bare.glb'), await writeGlb(bare, 'bare'))
    }
    const done = await ubblet(...args.map(a => (a.startsWith('@') ? path(a.slice(1)) : a)))
    expect(done.code).toBe(2)
    expect(done.err).toMatch(message)
    expect(done.err.trimEnd().split('\n')).toHaveLength(1)
    expect(await readdir(folder)).not.toContain('never.glb')
  })
})
