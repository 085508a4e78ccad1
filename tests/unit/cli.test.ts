import { execFile } from 'node:child_process'
import { mkdtemp, readFile, writeFile, readdir } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import validator from 'gltf-validator'
import { beforeAll, describe, expect, it } from 'vitest'
import { emptyLook } from '#core/graph/look'
import { readGlb } from '#core/exchange/readGlb'
import { findParts } from '#core/mesh/parts'

interface Done { code: number, out: string, err: string }
const ubblet = (...args: string[]): Promise<Done> => new Promise(resolve =>
  execFile('./bin/ubblet', args, { maxBuffer: 2 ** 26 }, (error, out, err) => resolve({ code: error ? Number(error.code) : 0, out, err })))

let folder = '', demo: { counts: { parts: number, objects: number, groups: number, floats: number } }
const path = (name: string) => join(folder, name)
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ubblet-cli-'))
  demo = JSON.parse((await ubblet('demo', folder, '--json')).out) as typeof demo
}, 60_000)

describe('the demo', () => {
  it('has the parts that its generator made', async () => {
    const report = JSON.parse((await ubblet('inspect', path('float-rack.glb'), '--json')).out) as { levels: object, parts: { key: string, object: string }[], udims: number[], uvSets: number, attributes: { name: string, range: number[] }[], warnings: string[] }
    expect(report.levels).toEqual({ object: demo.counts.objects, group: demo.counts.groups, part: demo.counts.parts, patch: demo.counts.parts })
    expect(demo.counts.floats).toBe(120)
    expect(report).toMatchObject({ udims: [1001], uvSets: 1, warnings: [] })
    expect(report.attributes.map(a => a.name)).toEqual(['sunward', 'glass', 'rope', 'group'])
    expect(new Set(report.parts.map(p => p.key)).size).toBe(demo.counts.parts)
    expect(report.parts.filter(p => p.object === 'String 3')).toHaveLength(46)
  })
  it('is valid glTF with outward faces, and no two parts share a place in the UV square', async () => {
    const bytes = new Uint8Array(await readFile(path('float-rack.glb')))
    expect((await validator.validateBytes(bytes)).issues).toMatchObject({ numErrors: 0, numWarnings: 0 })
    const mesh = await readGlb(bytes), parts = findParts(mesh), volume = new Float64Array(parts.parts.length)
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
      expect(a[0]! > 0 && a[1]! > 0 && a[2]! < 1 && a[3]! < 1).toBe(true)
      const shared = boxes.findIndex((b, j) => j > i && a[0]! < b[2]! && b[0]! < a[2]! && a[1]! < b[3]! && b[1]! < a[3]!)
      expect(shared, `${parts.parts[i]!.name} lies over ${parts.parts[shared]?.name}`).toBe(-1)
    })
  })
  it('is the same file every time', async () => {
    const other = await mkdtemp(join(tmpdir(), 'ubblet-cli-'))
    await ubblet('demo', other)
    for (const name of ['float-rack.glb', 'float-rack.look.json']) expect((await readFile(join(other, name))).equals(await readFile(path(name))), name).toBe(true)
  })
})

describe('values, check and export', () => {
  it('vary each float, and answer to --seed', async () => {
    const rows = JSON.parse((await ubblet('values', path('float-rack.look.json'), '--mesh', path('float-rack.glb'), '--json')).out) as { name: string, channels: { baseColor: number[], roughness: number[] } }[]
    expect(rows).toHaveLength(demo.counts.parts)
    expect(new Set(rows.map(r => r.channels.baseColor.map(x => x.toFixed(3)).join())).size).toBeGreaterThan(120)
    const other = await ubblet('values', path('float-rack.look.json'), '--mesh', path('float-rack.glb'), '--seed', '5', '--json')
    expect((JSON.parse(other.out) as typeof rows)[1]!.channels.baseColor).not.toEqual(rows[1]!.channels.baseColor)
    const csv = await ubblet('values', path('float-rack.look.json'), '--mesh', path('float-rack.glb'))
    expect(csv.out.split('\r\n')[0]).toBe('key,name,area,baseColor.r,baseColor.g,baseColor.b,metalness,roughness')
  })
  it('write a valid GLB and a table, whole files only', async () => {
    const to = path('out/rack.glb')
    expect(await ubblet('export', path('float-rack.look.json'), '--mesh', path('float-rack.glb'), '--to', to, '--size', '512')).toMatchObject({ code: 0, out: `${to}\n` })
    expect((await validator.validateBytes(new Uint8Array(await readFile(to)))).issues).toMatchObject({ numErrors: 0, numWarnings: 0 })
    expect((await ubblet('export', path('float-rack.look.json'), '--mesh', path('float-rack.glb'), '--to', path('out/rack.csv'))).code).toBe(0)
    expect((await readdir(path('out'))).sort()).toEqual(['rack.csv', 'rack.glb'])
  })
  it('exit 1 with findings, 0 without', async () => {
    expect(await ubblet('check', path('float-rack.look.json'), '--mesh', path('float-rack.glb'))).toMatchObject({ code: 0, out: 'Nothing found.\n' })
    await writeFile(path('empty.look.json'), JSON.stringify(emptyLook()))
    expect(await ubblet('check', path('empty.look.json'))).toMatchObject({ code: 1, out: expect.stringMatching(/^warning result: Nothing is connected/) as string })
  })
})

describe('wrong calls', () => {
  const cases: [string, string[], RegExp][] = [
    ['no such file', ['inspect', 'nowhere.glb'], /nowhere\.glb: there is no such file\./],
    ['another kind of file', ['inspect', 'README.md'], /reads \.glb files/],
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
