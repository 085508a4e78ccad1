import { execFile } from 'node:child_process'
import { mkdtemp, readFile, writeFile, readdir } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import validator from 'gltf-validator'
import { beforeAll, describe, expect, it } from 'vitest'
import { emptyLook } from '#core/graph/look'
import { readMesh } from '#core/exchange/readMesh'
import { findParts } from '#core/mesh/parts'

interface Done { code: number, out: string, err: string }
const ubblet = (...args: string[]): Promise<Done> => new Promise(resolve =>
  execFile('./bin/ubblet', args, { maxBuffer: 2 ** 26 }, (error, out, err) => resolve({ code: error ? Number(error.code) : 0, out, err })))

interface Counts { parts: number, objects: number, groups: number, tiles: number, ofNote: Record<string, number> }
let folder = '', demos: { file: string, counts: Counts }[] = []
/** Counts of a demo mesh, by its generator. */
const counts = (name: string) => demos.find(d => d.file === name)!.counts
const path = (name: string) => join(folder, name)
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ubblet-cli-'))
  demos = (JSON.parse((await ubblet('demo', folder, '--json')).out) as typeof demos).filter(d => d.counts)
}, 60_000)

describe('the demo', () => {
  interface Report { levels: object, parts: { key: string, object: string, volume: number }[], udims: number[], uvSets: number, attributes: { name: string, range: number[] }[], warnings: string[] }
  it.each(['float-rack', 'kiosk-roof', 'mooring-winch'])('%s has the parts that its generator made', async (name) => {
    const report = JSON.parse((await ubblet('inspect', path(`${name}.glb`), '--json')).out) as Report, made = counts(`${name}.glb`)
    expect(report.levels).toEqual({ object: made.objects, group: made.groups, part: made.parts, patch: made.parts })
    expect(report).toMatchObject({ udims: made.tiles === 2 ? [1001, 1002] : [1001], uvSets: 1, warnings: [] })
    expect(new Set(report.parts.map(p => p.key)).size).toBe(made.parts)
    expect(report.parts.every(p => p.volume > 0)).toBe(true)
    const { floats, scales, bolts } = made.ofNote, within = (object: string) => report.parts.filter(p => p.object === object).length
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
  it.each(['float-rack', 'kiosk-roof', 'mooring-winch'])('%s is valid glTF with outward faces, and no two parts share a place in the UV square', async (name) => {
    const bytes = new Uint8Array(await readFile(path(`${name}.glb`)))
    expect((await validator.validateBytes(bytes)).issues).toMatchObject({ numErrors: 0, numWarnings: 0 })
    const mesh = await readMesh(bytes, 'mesh.glb'), parts = findParts(mesh), volume = new Float64Array(parts.parts.length)
    for (let t = 0; t < mesh.indices.length / 3; t++) {
      const [a, b, c] = [0, 1, 2].map(k => mesh.positions.subarray(mesh.indices[t * 3 + k]! * 3, mesh.indices[t * 3 + k]! * 3 + 3))
      volume[parts.partOfTriangle[t]!]! += (a![0]! * (b![1]! * c![2]! - b![2]! * c![1]!) + a![1]! * (b![2]! * c![0]! - b![0]! * c![2]!) + a![2]! * (b![0]! * c![1]! - b![1]! * c![0]!)) / 6
    }
    expect(parts.parts.filter((_, p) => volume[p]! <= 0).map(p => p.name)).toEqual([])
    const boxes = parts.parts.map(() => [Infinity, Infinity, -Infinity, -Infinity])
    for (const v of mesh.indices) {
      const box = boxes[parts.partOfVertex[v]!]!, [x, y] = mesh.uvs!.subarray(v * 2, v * 2 + 2) as unknown as [number, number]
      box.splice(0, 4, Math.min(box[0]!, x), Math.min(box[1]!, y), Math.max(box[2]!, x), Math.max(box[3]!, y))
    }
    boxes.forEach((a, i) => {
      expect(a[0]! > 0 && a[1]! > 0 && Math.floor(a[0]!) === Math.floor(a[2]!) && a[2]! < 2 && a[3]! < 1).toBe(true)
      const shared = boxes.findIndex((b, j) => j > i && a[0]! < b[2]! && b[0]! < a[2]! && a[1]! < b[3]! && b[1]! < a[3]!)
      expect(shared, `${parts.parts[i]!.name} lies over ${parts.parts[shared]?.name}`).toBe(-1)
    })
  })
  it('is the same file every time', async () => {
    const other = await mkdtemp(join(tmpdir(), 'ubblet-cli-'))
    await ubblet('demo', other)
    for (const name of ['float-rack.glb', 'kiosk-roof.glb', 'kiosk-roof.preparation.json', 'mooring-winch.glb', 'mooring-winch.look.json']) expect((await readFile(join(other, name))).equals(await readFile(path(name))), name).toBe(true)
  })
})

describe('values, check and export', () => {
  it('vary each float, and answer to --seed', async () => {
    const rows = JSON.parse((await ubblet('values', path('float-rack.look.json'), '--mesh', path('float-rack.glb'), '--json')).out) as { name: string, channels: { baseColor: number[], roughness: number[] } }[]
    expect(rows).toHaveLength(counts('float-rack.glb').parts)
    expect(new Set(rows.map(r => r.channels.baseColor.map(x => x.toFixed(3)).join())).size).toBeGreaterThan(120)
    const other = await ubblet('values', path('float-rack.look.json'), '--mesh', path('float-rack.glb'), '--seed', '5', '--json')
    expect((JSON.parse(other.out) as typeof rows)[1]!.channels.baseColor).not.toEqual(rows[1]!.channels.baseColor)
    const csv = await ubblet('values', path('float-rack.look.json'), '--mesh', path('float-rack.glb'))
    expect(csv.out.split('\r\n')[0]).toBe('key,name,area,baseColor.r,baseColor.g,baseColor.b,metalness,roughness,height,emission.r,emission.g,emission.b,opacity,translucency,translucency.r,translucency.g,translucency.b')
  })
  it('write a valid GLB and a table, whole files only', async () => {
    const to = path('out/rack.glb')
    expect(await ubblet('export', path('float-rack.look.json'), '--mesh', path('float-rack.glb'), '--to', to, '--size', '512')).toMatchObject({ code: 0, out: `${to}\n` })
    expect((await validator.validateBytes(new Uint8Array(await readFile(to)))).issues).toMatchObject({ numErrors: 0, numWarnings: 0 })
    expect((await ubblet('export', path('float-rack.look.json'), '--mesh', path('float-rack.glb'), '--to', path('out/rack.csv'))).code).toBe(0)
    expect((await readdir(path('out'))).sort()).toEqual(['rack.csv', 'rack.glb'])
  })
  it('exit 1 with findings, 0 without', async () => {
    for (const { file } of demos) {
      const stem = path(file.replace('.glb', ''))
      // As prepared, but with the fewest rays: the looks have to hold whatever the grain of their occlusion.
      await writeFile(`${stem}.quick.json`, (await readFile(`${stem}.preparation.json`, 'utf8')).replace(/"rays": ?\d+/g, '"rays":4'))
      expect(await ubblet('check', `${stem}.look.json`, '--mesh', `${stem}.glb`, '--preparation', `${stem}.quick.json`)).toMatchObject({ code: 0, out: 'Nothing found.\n' })
    }
    expect((await ubblet('check', path('kiosk-roof.look.json'), '--mesh', path('kiosk-roof.glb'))).out).toContain('no part set "Replaced scales"')
    await writeFile(path('empty.look.json'), JSON.stringify(emptyLook()))
    expect(await ubblet('check', path('empty.look.json'))).toMatchObject({ code: 1, out: expect.stringMatching(/^warning result: Nothing is connected/) as string })
  })
})

describe('wrong calls', () => {
  const cases: [string, string[], RegExp][] = [
    ['no such file', ['inspect', 'nowhere.glb'], /nowhere\.glb: there is no such file\./],
    ['another kind of file', ['inspect', 'README.md'], /reads \.glb, \.gltf, \.obj, \.ply, \.zip/],
    ['a text file called .glb', ['inspect', '@text.glb'], /not a GLB file/],
    ['a look that is no look', ['check', '@text.glb'], /it is not JSON/],
    ['no mesh', ['values', '@float-rack.look.json'], /needs --mesh MESH/],
    ['a size that is not offered', ['export', '@float-rack.look.json', '--mesh', '@float-rack.glb', '--to', 'x.glb', '--size', '777'], /--size takes 512, 1024, 2048, not 777/],
    ['an unknown ending', ['export', '@float-rack.look.json', '--mesh', '@float-rack.glb', '--to', 'x.fbx'], /export writes \.glb and \.csv/],
    ['an unknown command', ['paint'], /no command "paint"/],
    ['an unknown option', ['inspect', '--wings'], /wings/],
    ['a mesh without UVs', ['export', '@float-rack.look.json', '--mesh', '@bare.glb', '--to', '@never.glb'], /Textures need UVs/],
  ]
  it.each(cases)('%s: one line, exit 2', async (_, args, message) => {
    await writeFile(path('text.glb'), 'this is text')
    if (args.includes('@bare.glb')) {
      const { writeGlb } = await import('#core/exchange/writeGlb'), { row } = await import('../helpers'), { uvs: _uvs, ...bare } = row(1)
      await writeFile(path('bare.glb'), await writeGlb(bare, 'bare'))
    }
    const done = await ubblet(...args.map(a => a.startsWith('@') ? path(a.slice(1)) : a))
    expect(done.code).toBe(2)
    expect(done.err).toMatch(message)
    expect(done.err.trimEnd().split('\n')).toHaveLength(1)
    expect(await readdir(folder)).not.toContain('never.glb')
  })
})
