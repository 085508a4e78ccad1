import { spawn, spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync } from 'node:fs'
import { copyFile, mkdir, mkdtemp, readdir, readFile, symlink, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { strFromU8, unzipSync } from 'fflate'
import { decode, encode } from 'fast-png'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { bandsOf } from '#core/bake/band'
import { exrPicture } from '#core/exchange/readExr'
import { readMesh } from '#core/exchange/readMesh'
import { emptyLook } from '#core/graph/look'
import { writeGlb } from '#core/exchange/writeGlb'
import { parseKeyTable } from '#core/mesh/keys'
import type { Mesh } from '#core/mesh/mesh'
import { emptyPreparation } from '#core/mesh/preparation'
import { program } from '../../cli/program'
import { progressLine, inWords } from '../../cli/voice'
import { callApart, callHere, type Done } from '../commandLine'
import { removeFolder } from '../folders'
import { lookOf, row } from '../helpers'

let folder = ''
const path = (name: string) => join(folder, name)
const ubblet = (...args: string[]): Promise<Done> => callHere(args, path('cache'))
const RACK = ['--mesh', '@float-rack.glb', '--preparation', '@float-rack.quick.json']
const call = (...args: string[]) => ubblet(...args.map(a => (a.startsWith('@') ? path(a.slice(1)) : a)))

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ubblet-commands-'))
  await ubblet('demo', folder, '--no-detail')
  const preparation = await readFile(path('float-rack.preparation.json'), 'utf8')
  await writeFile(path('float-rack.quick.json'), preparation.replace(/"rays": ?\d+/g, '"rays":4'))
})
afterAll(() => removeFolder(folder))

/** Boxes of a meter at places along x. */
function boxesAsObj(places: readonly number[]): string {
  const corners = [0, 1, 2, 3, 4, 5, 6, 7].map(i => [i & 1, (i >> 1) & 1, i >> 2].map(x => x - 0.5))
  const sides = [
    [1, 3, 4, 2],
    [5, 6, 8, 7],
    [1, 2, 6, 5],
    [3, 7, 8, 4],
    [1, 5, 7, 3],
    [2, 4, 8, 6],
  ]
  return places
    .map((at, i) => {
      const vertices = corners.map(([x, y, z]) => `v ${x! + at} ${y} ${z}`)
      const faces = sides.map(side => `f ${side.map(v => v + i * 8).join(' ')}`)
      return [`o box${i}`, ...vertices, ...faces].join('\n')
    })
    .join('\n')
}

describe('the command line', () => {
  it('says which version it is, and helps with every command, with examples that it takes', async () => {
    const { version } = JSON.parse(await readFile('package.json', 'utf8')) as { version: string }
    expect(await ubblet('--version')).toEqual({ code: 0, out: `${version}\n`, err: '' })
    const { commands } = await program()
    expect(commands.length).toBeGreaterThan(14)
    for (const command of commands) {
      let help = ''
      command.configureOutput({ writeOut: text => (help += text) }).outputHelp()
      expect(help).toMatch(new RegExp(`Examples:\\n.*\\n    ubblet ${command.name()}`))
      // Every option of an example is one of the command.
      const used = [...help.slice(help.indexOf('Examples:')).matchAll(/ (--[a-z]+)/g)].map(m => m[1]!)
      expect(command.options.map(o => o.long)).toEqual(expect.arrayContaining(used))
    }
    const help = await ubblet('help', 'bake')
    expect([help.code, help.err]).toEqual([0, ''])
    expect((await ubblet('bake', '-h')).out).toBe(help.out)
  })
  it('suggests what was meant', async () => {
    expect((await ubblet('constructor')).err).toBe("ubblet: Unknown command 'constructor'.\n")
    expect((await ubblet('inspct', 'x.glb')).err).toBe("ubblet: Unknown command 'inspct'. Did you mean inspect?\n")
    expect((await ubblet('inspect', 'x', '--preparatoin', 'a')).err).toContain('Did you mean --preparation?')
  })
  it('answers in JSON when a call is wrong, too', async () => {
    const asked = ['inspect', 'nowhere.glb', '--json']
    const done = await callApart(asked, path('cache'))
    expect([done.code, JSON.parse(done.err)]).toEqual([2, { error: 'nowhere.glb: there is no such file.' }])
    expect(await ubblet(...asked)).toEqual(done)
  })
  it('works through a link, from any folder', async () => {
    await symlink(resolve('bin/ubblet'), path('linked'))
    await symlink('linked', path('twice'))
    const done = spawnSync(path('twice'), ['--version'], { cwd: '/', encoding: 'utf8' })
    expect([done.status, done.stderr]).toEqual([0, ''])
  })
  it('stops quietly when nobody reads on', () => {
    const piped = spawnSync('bash', ['-c', `./bin/ubblet inspect ${path('float-rack.glb')} --json | head -2`], {
      encoding: 'utf8',
    })
    expect([piped.stdout.split('\n').length, piped.stderr]).toEqual([3, ''])
  })
  it('lets bash complete commands and options', async () => {
    await writeFile(path('completion'), (await ubblet('completion', 'bash')).out)
    const ask = (...words: string[]) =>
      spawnSync(
        'bash',
        [
          '-c',
          `source ${path('completion')}; COMP_WORDS=(ubblet ${words.map(w => `'${w}'`).join(' ')}); COMP_CWORD=${words.length}; _ubblet; echo "\${COMPREPLY[*]}"`,
        ],
        { encoding: 'utf8' },
      ).stdout.trim()
    expect(ask('un')).toBe('unwrap')
    expect(ask('bake', '--cha')).toBe('--channels')
    expect(ask('diff', 'a', 'b', '--w')).toBe('--within')
    expect((await ubblet('completion', 'zsh')).out).toContain('diff) compadd -- --json --quiet --within --help')
  })
  it('tells how far it is and how long it takes on, in plain words', () => {
    expect(progressLine(0.25, 'baking', 10_000)).toBe(' 25 %  baking, about 30 s left')
    expect(progressLine(0.01, 'baking', 10_000)).toBe('  1 %  baking')
    expect([inWords(40_000), inWords(200_000), inWords(7_800_000)]).toEqual(['40 s', '3 min', '2 h 10 min'])
  })
})

describe('what cannot be done is told before it is begun', () => {
  const LOOK = '@float-rack.look.json'
  const cases: [string, string[], RegExp][] = [
    [
      'an unknown channel',
      ['bake', LOOK, ...RACK, '--out', '@x', '--channels', 'colour'],
      /--channels takes baseColor/,
    ],
    ['no channel', ['bake', LOOK, ...RACK, '--out', '@x', '--channels', ','], /names nothing to bake/],
    [
      'an unknown port',
      ['bake', LOOK, ...RACK, '--out', '@x', '--channels', 'salt/nothing'],
      /no value at "salt\/nothing"/,
    ],
    [
      'a dilation beyond reason',
      ['bake', LOOK, ...RACK, '--out', '@x', '--dilation', '999'],
      /from 0 to 64, not "999"/,
    ],
    ['a tile that is none', ['bake', LOOK, ...RACK, '--out', '@x', '--udim', '7'], /from 1001 to 9999, not "7"/],
    [
      'a tile that the mesh has not',
      ['bake', LOOK, ...RACK, '--out', '@x', '--udim', '1005'],
      /no tile 1005; it has 1001/,
    ],
    ['a seed that is no number', ['values', LOOK, ...RACK, '--seed', 'x'], /--seed takes a whole number/],
    [
      'several formats of one file',
      ['export', LOOK, ...RACK, '--to', '@x.glb', '--format', 'png8,exr'],
      /one format here/,
    ],
    ['a mesh without UVs', ['bake', LOOK, '--mesh', '@bare.glb', '--out', '@x'], /ubblet unwrap makes them/],
    ['a device', ['inspect', '/dev/zero.glb'], /there is no such file/],
  ]
  it.each(cases)('%s', async (_, args, message) => {
    const { uvs: _uvs, ...bare } = row(1)
    await writeFile(path('bare.glb'), await writeGlb(bare, 'bare'))
    const done = await call(...args)
    expect(done.err).toMatch(message)
    expect(done.err.trimEnd().split('\n')).toHaveLength(1)
    expect([done.code, done.out, existsSync(path('x'))]).toEqual([2, '', false])
  })
  it('a pipe, which may never end', async () => {
    spawnSync('mkfifo', [path('pipe.glb')])
    expect((await call('inspect', '@pipe.glb')).err).toMatch(/it is a pipe or a device/)
  })
  it('an edge that would split the mesh into more than fits, at once and with the setting to change', async () => {
    const preparation = JSON.parse(await readFile(path('float-rack.preparation.json'), 'utf8')) as object
    await writeFile(path('fine.json'), JSON.stringify({ ...preparation, edge: 1e-9 }))
    const done = await call('bake', LOOK, '--mesh', '@float-rack.glb', '--preparation', '@fine.json', '--out', '@x')
    expect(done.code).toBe(2)
    const enough = /Set "edge" to ([\d.e-]+) or more/.exec(done.err)?.[1]
    // What it names is taken.
    await writeFile(path('fine.json'), JSON.stringify({ ...preparation, edge: Number(enough), maps: [] }))
    const taken = await call('inspect', '@float-rack.glb', '--preparation', '@fine.json')
    expect([taken.code, taken.err]).toEqual([0, ''])
  }, 60_000)
  it('in millimeters with a preparation in meters, too', async () => {
    const mesh = await readMesh(new Uint8Array(await readFile(path('float-rack.glb'))), 'rack.glb')
    const large: Mesh = { ...mesh, positions: mesh.positions.map(x => x * 1000) }
    await writeFile(path('large.glb'), await writeGlb(large, 'large'))
    const preparation = JSON.parse(await readFile(path('float-rack.preparation.json'), 'utf8')) as object
    await writeFile(path('meters.json'), JSON.stringify({ ...preparation, edge: 0.05 }))
    const done = await call('values', LOOK, '--mesh', '@large.glb', '--preparation', '@meters.json')
    expect(done.err).toMatch(/Set "edge" to .* or more, or "scale" to the file's units/)
  })
})

/** The mesh as Wavefront OBJ, coordinates rounded to some decimals, other units, and z up where that is asked for. */
function objOf(mesh: Mesh, decimals: number, scale: number, zUp: boolean): string {
  const lines: string[] = []
  const { positions, indices } = mesh
  for (let i = 0; i < positions.length; i += 3) {
    const [x, y, z] = [0, 1, 2].map(k => positions[i + k]! * scale) as [number, number, number]
    const turned = zUp ? [x, -z, y] : [x, y, z]
    lines.push(`v ${turned.map(v => v.toFixed(decimals)).join(' ')}`)
  }
  for (const object of mesh.objects) {
    lines.push(`o ${object.name}`)
    const end = object.firstTriangle + object.triangles
    for (let t = object.firstTriangle; t < end; t++)
      lines.push(`f ${[0, 1, 2].map(k => indices[t * 3 + k]! + 1).join(' ')}`)
  }
  return `${lines.join('\n')}\n`
}

describe('the table of keys', () => {
  let keys: string[] = []
  let mesh: Mesh
  beforeAll(async () => {
    await writeFile(path('look.json'), JSON.stringify({ meshes: ['glb'], look: true, size: 256, colorIn: 'vertices' }))
    const done = await call('deliver', '@float-rack.look.json', ...RACK, '--out', '@first', '--settings', '@look.json')
    expect(done.code).toBe(0)
    keys = parseKeyTable(JSON.parse(await readFile(path('first/keys.json'), 'utf8'))).keys
    mesh = await readMesh(new Uint8Array(await readFile(path('float-rack.glb'))), 'rack.glb')
  })

  it('leaves with a delivery and inside the look, one key for each part', async () => {
    expect(new Set(keys).size).toBe(386)
    const name = (await readdir(path('first'))).find(n => n.endsWith('.look.zip'))!
    const files = unzipSync(new Uint8Array(await readFile(path(`first/${name}`))))
    expect(parseKeyTable(JSON.parse(strFromU8(files['keys.json']!))).keys).toEqual(keys)
  })
  it.each([
    ['six decimals', 6, 1, false],
    ['four decimals', 4, 1, false],
    ['centimeters', 5, 100, false],
    ['millimeters with z up', 3, 1000, true],
  ])('keeps every draw in an OBJ with %s', async (_, decimals, scale, zUp) => {
    await writeFile(path('again.obj'), objOf(mesh, decimals, scale, zUp))
    const with_ = await call('inspect', '@again.obj', '--keys', '@first/keys.json', '--json')
    expect(with_.err).toBe('')
    const found = (JSON.parse(with_.out) as { parts: { key: string }[] }).parts.map(p => p.key)
    expect([...found].sort()).toEqual([...keys].sort())
    // Without it some are other parts, and that is said.
    const bare = JSON.parse((await call('inspect', '@again.obj', '--json')).out) as { parts: { key: string }[] }
    expect(bare.parts.some(p => !keys.includes(p.key))).toBe(true)
  })
  it('comes along in the zip of a look, and draws the same on another export', async () => {
    await writeFile(path('again.obj'), objOf(mesh, 4, 1, false))
    const name = (await readdir(path('first'))).find(n => n.endsWith('.look.zip'))!
    const rows = async (look: string, file: string) => {
      const done = await call('values', look, '--mesh', file, '--json')
      const list = JSON.parse(done.out) as { key: string; draws: Record<string, unknown> }[]
      return { err: done.err, draws: new Map(list.map(r => [r.key, JSON.stringify(r.draws)])) }
    }
    const first = await rows('@float-rack.look.json', '@float-rack.glb')
    expect(first.err).toContain('without a table of keys')
    const again = await rows(`@first/${name}`, '@again.obj')
    expect(again.err).toBe('')
    for (const [key, draws] of first.draws) expect(again.draws.get(key)).toBe(draws)
  }, 60_000)
  it('that is broken, or of another mesh, is told', async () => {
    await writeFile(path('broken.json'), '{"version":1,"keys":["x"]}')
    expect((await call('inspect', '@float-rack.glb', '--keys', '@broken.json')).err).toMatch(
      /not a table of keys, at keys\.0/,
    )
    const other = await call('inspect', '@kiosk-roof.glb', '--keys', '@first/keys.json')
    expect(other.err).toMatch(/parts are not in the table of keys, and \d+ of its 386 are not in the mesh/)
  })
})

describe('a place that cannot be written to', () => {
  it('is told with why, in words, and stays as it was', async () => {
    await writeFile(path('in the way'), 'mine')
    const why = 'cannot be written: a file stands where a folder should be.\n'
    expect((await call('demo', '@in the way', '--no-detail', '--quiet')).err).toBe(
      `ubblet: ${path('in the way/float-rack.glb')} ${why}`,
    )
    const delivered = await call('deliver', '@float-rack.look.json', ...RACK, '--out', '@in the way', '--quiet')
    expect([delivered.code, delivered.err]).toEqual([2, `ubblet: ${path('in the way')} ${why}`])
    expect(await readFile(path('in the way'), 'utf8')).toBe('mine')
  })
  it('is told before anything is read or computed', async () => {
    const places = [
      ['folder.glb', 'export', ...RACK],
      ['folder.png', 'sheet', ...RACK],
      ['folder.exr', 'render'],
      ['unwrapped.glb', 'unwrap'],
    ] as const
    for (const [name, command, ...mesh] of places) {
      await mkdir(path(`a ${name}`))
      const { err } = await call(command, '@missing', ...mesh, '--to', `@a ${name}`)
      expect(err).toBe(`ubblet: ${path(`a ${name}`)} cannot be written: it is a folder.\n`)
    }
    await writeFile(path('a file'), '')
    const below = path('a file/render.png')
    expect((await call('render', '@missing', '--to', '@a file/render.png')).err).toBe(
      `ubblet: ${below} cannot be written: a file stands where a folder should be.\n`,
    )
  })
})

describe('a mesh in several files', () => {
  it('takes along what it names, also from folders below, and nothing else', async () => {
    await mkdir(path('obj/maps'), { recursive: true })
    await writeFile(path('obj/box.obj'), `mtllib maps/paint.mtl\nusemtl red\n${objOf(row(1), 6, 1, false)}`)
    await writeFile(
      path('obj/maps/paint.mtl'),
      'newmtl red\nKd 1 0 0\nmap_Kd -s 1 1 1 red.png\nmap_Ks ../../secret.png\n',
    )
    const red = encode({ width: 1, height: 1, data: Uint8Array.of(255, 0, 0), channels: 3, depth: 8 })
    await writeFile(path('obj/maps/red.png'), red)
    await writeFile(path('obj/huge.png'), 'not read')
    await writeFile(path('secret.png'), 'not read')
    const done = await call('inspect', '@obj/box.obj', '--json')
    expect(done.err).toBe('')
    expect((JSON.parse(done.out) as { warnings: string[] }).warnings.join()).not.toContain('paint.mtl')
  })
})

describe('unwrap', () => {
  it('gives every triangle a place of its own in the unit square, and leaves the shape', async () => {
    const { uvs: _uvs, ...bare } = row(3)
    await writeFile(path('bare.glb'), await writeGlb(bare, 'bare'))
    expect(await call('unwrap', '@bare.glb', '--to', '@uv.glb')).toMatchObject({ code: 0, out: `${path('uv.glb')}\n` })
    const mesh = await readMesh(new Uint8Array(await readFile(path('uv.glb'))), 'uv.glb')
    expect(mesh.indices.length).toBe(bare.indices.length)
    expect([...mesh.uvs!].every(x => x >= 0 && x <= 1)).toBe(true)
    expect((await call('unwrap', '@bare.glb', '--to', '@uv.obj')).err).toMatch(/unwrap writes \.glb/)
  })
})

describe('detail', () => {
  it('takes pictures of a dense mesh, which a look then lies on and a bake takes along', async () => {
    const square = (lift: (x: number, y: number) => number, tilt: readonly number[]): Mesh => ({
      positions: Float32Array.from(
        [
          [0, 0],
          [1, 0],
          [1, 1],
          [0, 1],
        ].flatMap(([x, y]) => [x!, y!, lift(x!, y!)]),
      ),
      normals: Float32Array.from([...tilt, ...tilt, ...tilt, ...tilt]),
      uvs: Float32Array.of(0.01, 0.99, 0.99, 0.99, 0.99, 0.01, 0.01, 0.01),
      indices: Uint32Array.of(0, 1, 2, 0, 2, 3),
      objects: [{ name: 'square', firstTriangle: 0, triangles: 2, firstVertex: 0, vertices: 4 }],
      materials: [{ name: '', firstTriangle: 0, triangles: 2 }],
      maps: [],
      warnings: [],
    })
    const slope = 0.02
    const length = Math.hypot(slope, 1)
    await writeFile(
      path('light.glb'),
      await writeGlb(
        square(() => 0, [0, 0, 1]),
        'light',
      ),
    )
    const dense = square(x => 0.005 + slope * x, [-slope / length, 0, 1 / length])
    await writeFile(path('dense.glb'), await writeGlb(dense, 'dense'))
    const taking = ['detail', '@light.glb', '--dense', '@dense.glb', '--out', '@taken', '--size', '64']
    const done = await call(...taking, '--outward', '50', '--json')
    expect(done.err).toBe('')
    const report = JSON.parse(done.out) as { files: string[]; texels: number; missed: number; alone: string[] }
    expect(report).toMatchObject({ missed: 0, alone: [] })
    expect(report.texels).toBeGreaterThan(3500)
    // In the middle it stands out by 15 millimeters.
    const height = exrPicture('dense height.exr', await readFile(path('taken/dense height.exr')))
    expect(height.data[32 * 64 + 32]! / (5 + (20 * (32.5 / 64 - 0.01)) / 0.98)).toBeCloseTo(1, 3)

    const look = emptyLook('On the dense mesh')
    look.nodes[0]!.params.normals = 'dense normal.exr'
    await writeFile(path('taken/on.look.json'), JSON.stringify(look))
    await writeFile(path('taken/plain.look.json'), JSON.stringify(emptyLook('On the mesh')))
    const preparation = { ...emptyPreparation(), normals: 'dense normal.exr' }
    await writeFile(path('own.json'), JSON.stringify(preparation))
    // Named by the look, or the mesh's own: the same.
    for (const [name, ...more] of [['on'], ['plain', '--preparation', '@own.json']]) {
      const what = ['bake', `@taken/${name}.look.json`, '--mesh', '@light.glb', '--out', `@${name}`]
      const baked = await call(...what, '--size', '256', '--channels', 'normal', ...more)
      expect(baked.code, baked.err).toBe(0)
      const [file] = (await readdir(path(name!))).filter(n => n.endsWith('.png'))
      const { data, channels } = decode(await readFile(path(`${name}/${file}`)))
      const texel = [0, 1, 2].map(k => (data[(128 * 256 + 128) * channels + k]! / 255) * 2 - 1)
      texel.forEach((x, k) => expect(x).toBeCloseTo([-slope / length, 0, 1 / length][k]!, 1.7))
      expect(texel[0]).toBeLessThan(-0.01)
    }
  }, 60_000)
  it('turns a picture of normals into normals of the mesh, whichever way green grows', async () => {
    const texel = [0.6 * 0.5 + 0.5, 0.3 * 0.5 + 0.5, 0.74162 * 0.5 + 0.5].map(x => Math.round(x * 255))
    const data = Uint8Array.from({ length: 4 * 4 * 3 }, (_, i) => texel[i % 3]!)
    await writeFile(path('flat.png'), encode({ width: 4, height: 4, data, channels: 3, depth: 8 }))
    for (const [green, y] of [
      ['up', 0.3],
      ['down', -0.3],
    ] as const) {
      const args = [
        'detail',
        '@light.glb',
        '--normal',
        '@flat.png',
        '--green',
        green,
        '--size',
        '64',
        '--out',
        `@${green}`,
      ]
      expect(await call(...args)).toMatchObject({ code: 0, err: '', out: `${path(`${green}/flat on the mesh.exr`)}\n` })
      const made = exrPicture('n.exr', await readFile(path(`${green}/flat on the mesh.exr`)))
      const middle = (32 * 64 + 32) * 4
      const want = [0.6, y, 0.74162]
      want.forEach((x, k) => expect(made.data[middle + k]).toBeCloseTo(x, 2))
    }
    const unsure = await call('detail', '@light.glb', '--normal', '@flat.png', '--size', '64', '--out', '@unsure')
    expect([unsure.code, unsure.err]).toEqual([0, expect.stringContaining('does not tell which way green grows')])
    expect((await call('detail', '@light.glb', '--out', '@none')).err).toMatch(/--dense MESH, --normal PICTURE/)
  })
  it('says where a dense mesh is in other units or elsewhere, and takes curvature from normals', async () => {
    const grown = await readFile(path('dense.glb'))
    await writeFile(path('grown.glb'), grown)
    const args = (...more: string[]) => ['detail', '@light.glb', '--dense', '@grown.glb', '--size', '32', ...more]
    const large = await call(...args('--scale', '1000', '--out', '@large'))
    expect(large.err).toMatch(/is 1000 times as large as the mesh; --scale 1 would fit/)
    expect((await call(...args('--scale', '0', '--out', '@large'))).err).toMatch(/--scale is a factor, not "0"/)
    const bent = ['detail', '@light.glb', '--normal', '@flat.png', '--green', 'up', '--size', '64', '--out', '@bent']
    const made = await call(...bent, '--curvature', '5', '--json')
    expect((JSON.parse(made.out) as { files: string[] }).files.map(f => f.split('/').pop())).toEqual([
      'flat on the mesh.exr',
      'flat on the mesh convexity.exr',
      'flat on the mesh concavity.exr',
    ])
    // The same way everywhere: nothing bends.
    const convexity = exrPicture('c.exr', await readFile(path('bent/flat on the mesh convexity.exr')))
    expect(Math.max(...convexity.data)).toBeLessThan(1e-3)
    expect((await call(...bent, '--curvature', 'little')).err).toMatch(/--curvature is a length in millimeters/)
  })
  it('says what there is not', async () => {
    const args = ['detail', '@light.glb', '--dense', '@dense.glb', '--out', '@none']
    expect((await call(...args, '--take', 'normal,wrinkles')).err).toMatch(
      /no "wrinkles" to take; there are normal, height/,
    )
    expect((await call(...args, '--match', 'luck')).err).toMatch(/--match is part, object, near/)
    expect((await call(...args, '--size', '3')).err).toMatch(/--size is a whole number/)
    expect(existsSync(path('none'))).toBe(false)
  })
})

describe('diff', () => {
  it('tells two looks apart in words', async () => {
    const look = JSON.parse(await readFile(path('float-rack.look.json'), 'utf8')) as {
      nodes: { kind: string; params: object }[]
    }
    const draw = look.nodes.find(n => n.kind === 'partRandom')!
    Object.assign(draw.params, { seed: 4711 })
    await writeFile(path('other.look.json'), JSON.stringify(look))
    expect(await call('diff', '@float-rack.look.json', '@float-rack.look.json')).toMatchObject({
      code: 0,
      out: 'They are the same.\n',
    })
    const done = await call('diff', '@float-rack.look.json', '@other.look.json')
    expect(done.code).toBe(1)
    expect(done.out).toMatch(/Seed .*4711/)
  })
  it('tells two deliveries apart: pictures by the color that is seen, tables by part', async () => {
    const settings = { meshes: [], maps: ['baseColor'], tables: ['csv'], size: 256 }
    await writeFile(path('d.json'), JSON.stringify(settings))
    for (const [seed, out] of [
      ['0', '@d0'],
      ['5', '@d5'],
    ] as const)
      await call('deliver', '@float-rack.look.json', ...RACK, '--out', out, '--settings', '@d.json', '--seed', seed)
    const done = await call('diff', '@d0', '@d5', '--json')
    expect(done.code).toBe(1)
    const list = JSON.parse(done.out) as { where?: string; message: string }[]
    expect(list.find(d => d.where?.endsWith('baseColor.png'))?.message).toMatch(/CIEDE2000 \d+\.\d+ in the mean/)
    expect(list.find(d => d.where?.endsWith('.csv'))?.message).toMatch(
      /of 386 parts have other values, 0 are new, 0 are gone/,
    )
    expect(await call('diff', '@d0', '@d0')).toMatchObject({ code: 0 })
  }, 120_000)
  it('finds the same delivery, made twice, the same', async () => {
    await writeFile(
      path('all.json'),
      JSON.stringify({ meshes: ['glb', 'usdz'], look: true, maps: ['roughness'], size: 256 }),
    )
    await writeFile(path('row.glb'), await writeGlb(row(4), 'row'))
    const wires = ['noise.value > ramp.value', 'ramp.color > finish.baseColor', 'draw.value > finish.roughness']
    const look = lookOf({ noise: ['noise'], ramp: ['ramp'], draw: ['partRandom'], finish: ['finish'] }, [
      ...wires,
      'finish.finish > result.finish',
    ])
    await writeFile(path('row.look.json'), JSON.stringify(look))
    for (const out of ['@made-first', '@made-again']) {
      const args = ['--out', out, '--settings', '@all.json', '--cache', `${out}-cache`, '--quiet']
      const done = await call('deliver', '@row.look.json', '--mesh', '@row.glb', ...args)
      expect([done.err, done.code]).toEqual(['', 0])
    }
    expect(await call('diff', '@made-first', '@made-again')).toMatchObject({ code: 0, out: 'They are the same.\n' })
  }, 120_000)
  it('takes a difference that is small enough for none', async () => {
    const picture = (value: number) =>
      encode({ width: 2, height: 1, data: Uint8Array.of(200, 100, 50, value, value, value), channels: 3, depth: 8 })
    await writeFile(path('a.png'), picture(120))
    await writeFile(path('b.png'), picture(121))
    const done = await call('diff', '@a.png', '@b.png')
    expect([done.code, done.out]).toEqual([
      1,
      expect.stringContaining('50.0 % of the pixels differ, by 0.00392 at most'),
    ])
    expect((await call('diff', '@a.png', '@b.png', '--within', '1')).code).toBe(0)
    expect((await call('diff', '@a.png', '@d0')).err).toMatch(/diff takes two looks/)
    expect(decode(await readFile(path('a.png'))).width).toBe(2)
  })
})

describe('sheet', () => {
  const plain = lookOf({ finish: ['finish', { baseColor: [0.2, 0.02, 0.02], roughness: 1 }] }, [
    'finish.finish > result.finish',
  ])
  beforeAll(async () => {
    await writeFile(path('plain.look.json'), JSON.stringify(plain))
  })
  const sheet = (...args: string[]) =>
    call('sheet', '@plain.look.json', '--mesh', '@float-rack.glb', '--quiet', '--size', '40x30', ...args)

  it('lays a sweep out in columns and rows, brighter from left to right, with a table in the same order', async () => {
    const done = await sheet(
      '--sweep',
      'finish1.baseColor=#202020..#e0e0e0:3',
      '--sweep',
      'finish1.metalness=0..1:2',
      '--to',
      '@swept.png',
    )
    expect([done.code, done.err]).toEqual([0, ''])
    const titles = done.out.split('\n').slice(1, -1)
    // The middle by OKLab lightness: (0.243 + 0.907) / 2, cubed and encoded.
    expect(titles.map(line => line.split(',')[0])).toEqual([
      'Base color #202020 · Metalness 0',
      'Base color #797979 · Metalness 0',
      'Base color #e0e0e0 · Metalness 0',
      'Base color #202020 · Metalness 1',
      'Base color #797979 · Metalness 1',
      'Base color #e0e0e0 · Metalness 1',
    ])
    const { width, height, data } = decode(await readFile(path('swept.png')))
    expect([width, height]).toEqual([3 * 44 + 4, 2 * 54 + 4])
    // The darkest pixel of each tile is of the mesh: behind it is gray.
    const darkest = (column: number, row: number): number => {
      let least = 255
      for (let y = 0; y < 30; y++)
        for (let x = 0; x < 40; x++)
          least = Math.min(least, data[((4 + row * 54 + y) * width + 4 + column * 44 + x) * 4]!)
      return least
    }
    // Below each tile stands what it is, in dark letters that stay under their own tile.
    for (let column = 0; column < 3; column++) {
      let dark = 0
      for (let y = 36; y < 52; y++)
        for (let x = 0; x < 44; x++) {
          const value = data[(y * width + 4 + column * 44 + x) * 4]!
          if (value < 160) dark++
          if (x >= 38) expect(value).toBe(245)
        }
      expect(dark).toBeGreaterThan(20)
    }
    for (const line of [0, 1]) {
      expect(darkest(0, line)).toBeLessThan(darkest(1, line) - 15)
      expect(darkest(1, line)).toBeLessThan(darkest(2, line))
    }
  })
  it('tells how far each tile is from the colors of a picture', async () => {
    const red = Uint8Array.from({ length: 12 }, (_, i) => [124, 39, 39][i % 3]!)
    await writeFile(path('like.png'), encode({ width: 2, height: 2, data: red, channels: 3, depth: 8 }))
    const done = await sheet(
      '--sweep',
      'finish1.baseColor=#7c2727..#27277c:2',
      '--to',
      '@like-sheet.png',
      '--like',
      '@like.png',
    )
    const [head, near, far] = done.out.split('\n').map(line => line.split(','))
    const away = head!.indexOf('away')
    expect(Number(near![away])).toBeLessThan(0.002)
    expect(Number(far![away])).toBeGreaterThan(0.15)
    expect(near![head!.indexOf('palette')]).toBe('#7c2727 100%')
  })
  it('says what cannot be made a sheet of', async () => {
    const wrong: [string[], string][] = [
      [[], 'A sheet is of --seeds, or of one or two --sweep'],
      [['--seeds', '1-4', '--sweep', 'finish1.roughness'], 'A sheet is of --seeds, or of one or two --sweep'],
      [['--seeds', '9-1'], '--seeds takes two numbers like 1-16, not "9-1".'],
      [['--seeds', '1-1000'], 'A sheet has 256 tiles at most; this would be 1000.'],
      [['--sweep', 'nobody.roughness=0..1'], 'The look has no node "nobody".'],
      [['--sweep', 'finish1.roughness=low..1'], '"low" is no number.'],
      [['--sweep', 'finish1.baseColor=1..2'], '"1" is no color like #80a0c0.'],
      [['--sweep', 'finish1.roughness=0..1:99'], '--sweep makes 1 to 16 steps, not 99.'],
    ]
    for (const [args, told] of wrong) {
      const done = await sheet(...args, '--to', '@never.png')
      expect([done.code, done.out]).toEqual([2, ''])
      expect(done.err).toContain(told)
    }
    expect(existsSync(path('never.png'))).toBe(false)
  }, 60_000)
})

describe('turntable', () => {
  it('turns a mesh once: the far side comes to the front, under a light that stays', async () => {
    // Two boxes side by side, red at the left and blue at the right.
    const look = lookOf(
      {
        across: ['positionGradient', { axis: 'X' }],
        mix: ['mix', { a: [0.6, 0.02, 0.02], b: [0.02, 0.02, 0.6] }],
        finish: ['finish', { roughness: 1 }],
      },
      ['across.value > mix.amount', 'mix.out > finish.baseColor', 'finish.finish > result.finish'],
    )
    await writeFile(path('turning.look.json'), JSON.stringify(look))
    await writeFile(path('pair.obj'), boxesAsObj([-2, 2]))
    const args = ['--mesh', '@pair.obj', '--quiet', '--size', '60x40', '--frames', '4', '--to', '@turning']
    const done = await call('turntable', '@turning.look.json', ...args)
    expect([done.code, done.err]).toEqual([0, ''])
    expect((await readdir(path('turning'))).sort()).toEqual(['0001.png', '0002.png', '0003.png', '0004.png'])
    const half = async (name: string, right: boolean): Promise<number> => {
      const { width, height, data } = decode(await readFile(path(`turning/${name}`)))
      let redder = 0
      for (let y = 0; y < height; y++)
        for (let x = right ? width / 2 : 0; x < (right ? width : width / 2); x++)
          redder += data[(y * width + x) * 4]! - data[(y * width + x) * 4 + 2]!
      return redder
    }
    expect(await half('0001.png', false)).toBeGreaterThan(1000)
    expect(await half('0001.png', true)).toBeLessThan(-1000)
    // After half a turn they have changed places.
    expect(await half('0003.png', false)).toBeLessThan(-1000)
    expect(await half('0003.png', true)).toBeGreaterThan(1000)
    // In between, the left one comes nearer first and covers the other.
    const all = async (name: string) => (await half(name, false)) + (await half(name, true))
    expect(await all('0002.png')).toBeGreaterThan(2000)
    expect(await all('0004.png')).toBeLessThan(-2000)
  }, 60_000)
})

describe('being cut off', () => {
  it('keeps the geometry maps that were finished', async () => {
    const preparation = JSON.parse(await readFile(path('kiosk-roof.preparation.json'), 'utf8')) as {
      maps: { rays?: number }[]
    }
    expect(preparation.maps.length).toBeGreaterThan(1)
    // Few rays: what is kept counts, not what it is.
    const maps = preparation.maps.map(m => (m.rays ? { ...m, rays: 8 } : m))
    const settings = path('few-rays.preparation.json')
    await writeFile(settings, JSON.stringify({ ...preparation, maps }))
    const cache = path('cut')
    const args = ['values', path('kiosk-roof.look.json'), '--mesh', path('kiosk-roof.glb'), '--cache', cache]
    const child = spawn('./bin/ubblet', [...args, '--preparation', settings], { stdio: 'ignore' })
    const kept = async () => (existsSync(cache) ? (await readdir(cache)).filter(n => n.endsWith('.map')).length : 0)
    await expect.poll(kept, { timeout: 150_000, interval: 20 }).toBeGreaterThan(0)
    child.kill('SIGKILL')
    await new Promise(done => child.once('exit', done))
    expect(await kept()).toBeGreaterThan(0)
    const done = await ubblet(...args, '--preparation', settings)
    expect(done.code).toBe(0)
    const told = /(\d+) geometry maps? on/.exec(done.err)?.[1]
    expect(Number(told ?? 0)).toBeLessThan(preparation.maps.length)
  }, 300_000)
  it('keeps the bands of a picture that were finished, and goes on with the next', async () => {
    const cache = path('cut bands')
    const size = 1024
    const rows = bandsOf(size)[1]!
    const bake = (to: string, where: string): string[] => [
      ...['bake', path('float-rack.look.json'), '--mesh', path('float-rack.glb'), '--preparation'],
      ...[path('float-rack.quick.json'), '--channels', 'roughness', '--size', String(size), '--threads', '1'],
      ...['--out', path(to), '--cache', where],
    ]
    const bandFiles = async (): Promise<string[]> =>
      (existsSync(cache) ? await readdir(cache) : []).filter(n => /\.band-\d+$/.test(n))
    const child = spawn('./bin/ubblet', bake('cut', cache), { stdio: 'ignore' })
    await expect.poll(async () => (await bandFiles()).length, { timeout: 100_000, interval: 5 }).toBeGreaterThan(1)
    child.kill('SIGKILL')
    await new Promise(done => child.once('exit', done))
    // A band that is there is taken as it is: one that holds another's rows shows them.
    const [first, second] = (await bandFiles()).sort()
    const numberOf = (file: string): number => Number(/\d+$/.exec(file)![0])
    await copyFile(join(cache, first!), join(cache, second!))
    const done = await ubblet(...bake('cut', cache))
    expect([done.code, await bandFiles()]).toEqual([0, []])
    const whole = await ubblet(...bake('whole', path('cut whole')))
    expect(whole.code).toBe(0)
    const read = async (folder: string): Promise<string[]> => {
      const name = (await readdir(path(folder), { recursive: true })).find(n => n.endsWith('.png'))!
      const { data, channels } = decode(await readFile(join(path(folder), name)))
      const bytes = rows * size * channels
      return bandsOf(size).map((_, n) =>
        createHash('sha256')
          .update((data as Uint8Array).subarray(n * bytes, (n + 1) * bytes))
          .digest('hex'),
      )
    }
    const [cut, straight] = [await read('cut'), await read('whole')]
    const taken = numberOf(second!)
    expect(straight[taken]).not.toBe(straight[numberOf(first!)])
    straight[taken] = straight[numberOf(first!)]!
    expect(cut).toEqual(straight)
  }, 300_000)
})
