import { createHash } from 'node:crypto'
import { mkdir, readdir, readFile, rename, writeFile } from 'node:fs/promises'
import { basename, dirname, extname, join } from 'node:path'
import { availableParallelism, homedir } from 'node:os'
import { parseArgs } from 'node:util'
import { decode as decodePng } from 'fast-png'
import { zipSync } from 'fflate'
import { BAKE_SIZES, MAP_NAMES, MAPS, type MapName, type PictureFormat } from '../core/bake/maps'
import { LaneError, lanesOfPort } from '../core/bake/lanes'
import { partValues, partValuesCsv } from '../core/bake/values'
import { checkValues } from '../core/evaluate/lookChecks'
import { rgbaOf, type Picture } from '../core/evaluate/pictures'
import { Workpiece } from '../core/evaluate/workpiece'
import { READ_LIMITS } from '../core/exchange/meshFile'
import { readLookFile } from '../core/exchange/readLookFile'
import { deliverySchema, DeliveryError, parseDelivery, type DeliverySettings } from '../core/deliver/settings'
import { inspect } from '../core/exchange/inspect'
import { COMPANION_ENDINGS, MESH_ENDINGS, MeshFileError, readMesh } from '../core/exchange/readMesh'
import { fileStem } from '../core/exchange/names'
import { writeGlb } from '../core/exchange/writeGlb'
import { check } from '../core/graph/check'
import { flatten } from '../core/graph/flatten'
import { reseed } from '../core/graph/recipe'
import { LookError, type Look } from '../core/graph/look'
import { MAP_WORDS, type MapSettings } from '../core/geometry/settings'
import { loadKernels } from '../core/kernels/kernels'
import type { Mesh } from '../core/mesh/mesh'
import {
  emptyPreparation,
  mapIdOf,
  parsePreparation,
  PreparationError,
  type Preparation,
} from '../core/mesh/preparation'
import { lower, reader } from '../core/program/lower'
import { DEMOS, type DemoCounts } from '../demo'
import { deliver, pruneCache } from '../server/jobs/deliver'
import type { Surroundings } from '../core/trace/light'
import { readLight } from '../core/trace/lightPicture'
import { RIGS, type RigName } from '../core/trace/rigs'
import { backup, checkStore, restore } from './backup'
import { draco } from './draco'
import { render, toExr, toPng } from './render'
import { store } from './store'
import { UsageError } from './usage'
import { user } from './user'

const HELP = `ubblet inspect MESH                      what the file holds
ubblet check LOOK [--mesh MESH]          what is wrong with a look
ubblet values LOOK --mesh MESH           mean of each channel per part, as CSV [--seed N]
ubblet bake LOOK --mesh MESH --out DIR   pictures of channels, one file each
       [--size ${BAKE_SIZES.join('|')}] [--format png8,png16,exr,exr-float]
       [--channels NAME,NAME…] [--udim N] [--dilation N] [--samples 1|2|4] [--dither]
ubblet export LOOK --mesh MESH --to FILE .glb, .ply, .usda, .mtlx, .csv or .json, pictures beside it
       [--size N] [--format …] [--color texture|vertices] [--material baked|procedural] [--on file|analysis]
ubblet deliver LOOK --mesh MESH --out DIR [--settings FILE]
                                         everything at once, with a manifest
ubblet render FILE.glb --to PICTURE       a path-traced picture of a delivered GLB, .png or .exr
       [--size WIDTHxHEIGHT] [--samples N] [--rig ${Object.keys(RIGS).join('|')}] [--light FILE.hdr|FILE.exr]
       [--turn DEGREES] [--plate STRENGTH]
ubblet read FILE.mtlx --to LOOK          a material document as a look, as far as it is known
ubblet demo DIR                          writes the demo meshes, preparations and looks as files
ubblet store [--tidy] [--removed]        what the database holds and what could be freed; frees it
ubblet backup FILE                       copies the database, also while a server runs
ubblet restore FILE                      puts a backup in its place; what was there is kept
ubblet check [DATABASE.db]               whether the database is sound
ubblet user list|add|change|remove NAME  who may sign in [--role look|work|manage] [--password]
MESH is .glb, .gltf, .obj, .ply or a .zip of one with its files. --preparation FILE goes with every
command that reads a mesh: units, groups, part sets and geometry maps. Bakes go on where they were
cut off: finished pictures are kept in --cache DIR (UBBLET_CACHE, or ubblet in the user's cache folder).
--threads N. Names of channels: ${MAP_NAMES.join(', ')}, or NODE/PORT of a look.
LOOK is a .look.json, the .look.zip of a delivery, or a .mtlx document. Every command takes --json.`

async function file(path: string): Promise<Uint8Array> {
  try {
    return new Uint8Array(await readFile(path))
  } catch (error) {
    const reason =
      (
        { ENOENT: 'there is no such file', EISDIR: 'it is a folder', EACCES: 'no permission' } as Record<string, string>
      )[(error as NodeJS.ErrnoException).code ?? ''] ?? 'it cannot be read'
    throw new UsageError(`${path}: ${reason}.`)
  }
}

/** The files beside a document that names others by path: its own folder's, in one zip as the readers take it. */
async function companions(path: string): Promise<Uint8Array> {
  const folder = dirname(path)
  const own = basename(path)
  const stem = own.replace(/\.[^.]*$/, '')
  const names = (await readdir(folder)).filter(
    n => n === own || n === `${stem}.mtl` || COMPANION_ENDINGS.some(e => n.toLowerCase().endsWith(e)),
  )
  return zipSync(
    Object.fromEntries(await Promise.all(names.map(async n => [n, await file(join(folder, n))] as const))),
    { level: 0 },
  )
}

/** A mesh file as the readers take it: with the files that it names, where it does. */
async function meshBytes(path: string): Promise<{ name: string; bytes: Uint8Array }> {
  const ending = extname(path).toLowerCase()
  const bytes = await file(path)
  if (ending === '.gltf' || ending === '.obj') {
    // Alone first: most documents that need no other file are quick to read, and huge folders stay unread.
    const needs = ending === '.gltf' ? /"uri"\s*:\s*"(?!data:)/ : /^\s*mtllib\s/m
    if (needs.test(new TextDecoder().decode(bytes)))
      return { name: `${basename(path)}.zip`, bytes: await companions(path) }
  }
  return { name: basename(path), bytes }
}

async function meshFile(path: string): Promise<{ mesh: Mesh; name: string; bytes: Uint8Array }> {
  if (!MESH_ENDINGS.some(e => e === extname(path).toLowerCase()))
    throw new UsageError(`${path}: Ubblet reads ${MESH_ENDINGS.join(', ')}.`)
  const { name, bytes } = await meshBytes(path)
  try {
    return { mesh: await readMesh(bytes, name, { draco }), name, bytes }
  } catch (error) {
    throw error instanceof MeshFileError ? new UsageError(`${path}: ${error.message}`) : error
  }
}

function rigAsked(name = 'overcast'): RigName {
  const rig = Object.keys(RIGS).find(r => r === name)
  if (!rig) throw new UsageError(`--rig takes ${Object.keys(RIGS).join(', ')}, not "${name}".`)
  return rig as RigName
}

/** A picture of surroundings to light by. */
async function lightFile(path: string): Promise<Surroundings> {
  const bytes = await file(path)
  try {
    return readLight(path, bytes.slice().buffer)
  } catch (error) {
    throw new UsageError((error as Error).message)
  }
}

/** The pictures that a look names: PNG files beside it. */
async function picturesOf(look: Look, beside: string): Promise<Picture[]> {
  const names = new Set(
    flatten(look).nodes.flatMap(n => (n.kind === 'picture' && n.params.picture ? [String(n.params.picture)] : [])),
  )
  const found: Picture[] = []
  for (const name of names) {
    const path = join(dirname(beside), basename(name))
    const bytes = packed.get(name) ?? (await file(path))
    if (!path.toLowerCase().endsWith('.png'))
      throw new UsageError(`${path}: here, pictures are read as PNG; save it as one and name that in the look.`)
    try {
      found.push({ name, ...rgbaOf(decodePng(bytes)) })
    } catch {
      throw new UsageError(`${path}: this is not a PNG picture that can be read.`)
    }
  }
  return found
}

/** A mesh, prepared, and the file that it was read from; geometry maps are computed where `maps` asks for them. */
async function workpiece(
  path: string,
  preparation: Preparation,
  maps: boolean,
  pictures: readonly Picture[] = [],
  cache?: string,
): Promise<{ piece: Workpiece; name: string; bytes: Uint8Array }> {
  const { mesh, name, bytes } = await meshFile(path)
  const piece = new Workpiece(mesh, preparation)
  piece.setPictures(pictures)
  if (maps && preparation.maps.length) await geometryMaps(piece, bytes, preparation, cache)
  return { piece, name, bytes }
}

/** Geometry maps, from the cache where they were computed before from the same mesh and settings. */
async function geometryMaps(
  piece: Workpiece,
  mesh: Uint8Array,
  preparation: Preparation,
  cache?: string,
): Promise<void> {
  if (!cache) return piece.computeAll()
  const hash = createHash('sha256').update(mesh).digest('hex')
  const pathOf = (settings: MapSettings): string => join(cache, `${mapIdOf(hash, preparation, settings)}.map`)
  const vertices = piece.analysis.mesh.positions.length / 3
  const read = await Promise.all(
    preparation.maps.map(async settings => {
      const bytes = await readFile(pathOf(settings)).catch(() => undefined)
      const { components } = MAP_WORDS[settings.kind]
      return bytes?.length === vertices * components * 4
        ? { name: settings.name, components, values: new Float32Array(new Uint8Array(bytes).buffer) }
        : undefined
    }),
  )
  if (read.every(m => m !== undefined)) return piece.setComputed(read)
  piece.computeAll()
  for (const settings of preparation.maps) {
    const { values } = piece.tables.mesh.maps.find(m => m.name === settings.name)!
    await write(pathOf(settings), new Uint8Array(values.buffer, values.byteOffset, values.byteLength))
  }
}

/** Reads a JSON document through its own reader, whose errors name the file. */
async function documentOf<T>(path: string, what: string, parse: (data: unknown) => T): Promise<T> {
  const bytes = await file(path)
  let data: unknown
  try {
    data = JSON.parse(new TextDecoder().decode(bytes))
  } catch {
    throw new UsageError(`${path}: This is not a ${what}: it is not JSON.`)
  }
  try {
    return parse(data)
  } catch (error) {
    throw error instanceof LookError || error instanceof PreparationError || error instanceof DeliveryError
      ? new UsageError(`${path}: ${error.message}`)
      : error
  }
}
/** A look: alone, with its pictures in a zip, or a material document. */
async function look(path: string): Promise<Look> {
  const bytes = await file(path)
  try {
    const { look: found, pictures } = readLookFile(basename(path), bytes, READ_LIMITS)
    for (const p of pictures) packed.set(p.name, p.bytes)
    return found
  } catch (error) {
    throw error instanceof LookError ? new UsageError(`${path}: ${error.message}`) : error
  }
}
/** Pictures that came with a look's zip. */
const packed = new Map<string, Uint8Array>()

/** Writes beside the target first, so that a file appears only when it is complete. */
async function write(path: string, data: Uint8Array | string): Promise<void> {
  try {
    await mkdir(dirname(path), { recursive: true })
    const partial = join(dirname(path), `.${basename(path)}.part`)
    await writeFile(partial, data)
    await rename(partial, path)
  } catch (error) {
    throw new UsageError(`${path} cannot be written: ${(error as Error).message.split(',')[0]}.`)
  }
}

const namesOf = ({ tables, preparation }: Workpiece) => ({
  maps: [...tables.mesh.maps, ...preparation.maps].map(m => m.name),
  sets: preparation.sets.map(s => s.name),
})

/** Runs one call. Returns the exit code: 0 fine, 1 ran and found problems. */
async function run(argv: string[]): Promise<number> {
  const {
    values: options,
    positionals: [command, target, ...rest],
  } = parseArgs({
    args: argv,
    allowPositionals: true,
    options: {
      json: { type: 'boolean' },
      preparation: { type: 'string' },
      help: { type: 'boolean' },
      mesh: { type: 'string' },
      to: { type: 'string' },
      seed: { type: 'string' },
      size: { type: 'string' },
      color: { type: 'string' },
      out: { type: 'string' },
      format: { type: 'string' },
      channels: { type: 'string' },
      udim: { type: 'string' },
      dilation: { type: 'string' },
      samples: { type: 'string' },
      dither: { type: 'boolean' },
      material: { type: 'string' },
      on: { type: 'string' },
      settings: { type: 'string' },
      cache: { type: 'string' },
      threads: { type: 'string' },
      rig: { type: 'string' },
      light: { type: 'string' },
      turn: { type: 'string' },
      plate: { type: 'string' },
      tidy: { type: 'boolean' },
      removed: { type: 'boolean' },
      role: { type: 'string' },
      password: { type: 'boolean' },
    },
  })
  const print = (data: unknown, text: () => string) =>
    process.stdout.write(options.json ? `${JSON.stringify(data, null, 1)}\n` : text())
  const need = (value: string | undefined, what: string) => {
    if (!value) throw new UsageError(`${command} needs ${what}. See ubblet --help.`)
    return value
  }
  const number = (name: 'seed' | 'size' | 'udim' | 'dilation' | 'samples' | 'threads', fallback: number) => {
    const value = options[name] === undefined ? fallback : Number(options[name])
    if (!Number.isInteger(value) || value < 0)
      throw new UsageError(`--${name} takes a whole number, not "${options[name]}".`)
    return value
  }
  const cache =
    options.cache ?? process.env.UBBLET_CACHE ?? join(process.env.XDG_CACHE_HOME ?? join(homedir(), '.cache'), 'ubblet')
  if (options.help || !command) {
    process.stdout.write(`${HELP}\n`)
    return 0
  }
  const preparation = options.preparation
    ? await documentOf(options.preparation, 'preparation', parsePreparation)
    : emptyPreparation()
  if (command === 'user') {
    const answer = await user(target, rest[0], { role: options.role, password: options.password ?? false })
    print(answer.data, () => answer.text)
    return 0
  }
  if (rest.length) throw new UsageError(`"${rest[0]}" is one argument too many.`)
  if (command === 'store' || command === 'backup' || command === 'restore') {
    const answer =
      command === 'store'
        ? await store({ tidy: options.tidy ?? false, removed: options.removed ?? false })
        : await { backup, restore }[command](need(target, 'a file'))
    print(answer.data, () => answer.text)
    return 0
  }
  if (command === 'check' && (!target || target.endsWith('.db'))) {
    const answer = await checkStore(target && `file:${target}`)
    print(answer.data, () => answer.text)
    return answer.data.length ? 1 : 0
  }

  if (command === 'inspect') {
    const { piece: found } = await workpiece(need(target, 'a mesh file'), preparation, false)
    const report = inspect(found.mesh, found.parts, found.arranged.measures)
    print(report, () =>
      [
        `${report.triangles} triangles, ${report.vertices} vertices`,
        `${report.levels.object} objects, ${report.levels.group} groups, ${report.levels.part} parts, ${report.levels.patch} patches`,
        `vertex maps: ${report.attributes.map(a => `${a.name} (${a.components})`).join(', ') || 'none'}`,
        `UV sets: ${report.uvSets}${report.udims.length > 1 ? `, tiles ${report.udims.join(' ')}` : ''}`,
        ...report.warnings.map(w => `note: ${w}`),
        '',
      ].join('\n'),
    )
    return 0
  }
  if (command === 'check') {
    const document = await look(need(target, 'a look file'))
    const found = options.mesh
      ? (await workpiece(options.mesh, preparation, true, await picturesOf(document, target!), cache)).piece
      : undefined
    const findings = [
      ...check(document, found ? namesOf(found) : {}),
      ...(found ? checkValues(await loadKernels(), found.tables, document, number('size', 1024)) : []),
    ]
    print(
      findings,
      () =>
        findings.map(f => `${f.severity}${f.node ? ` ${f.node}` : ''}: ${f.message}\n`).join('') || 'Nothing found.\n',
    )
    return findings.length ? 1 : 0
  }
  if (command === 'values') {
    const document = reseed(await look(need(target, 'a look file')), number('seed', 0))
    const {
      piece: { tables },
    } = await workpiece(
      need(options.mesh, '--mesh MESH'),
      preparation,
      true,
      await picturesOf(document, target!),
      cache,
    )
    const rows = partValues(await loadKernels(), tables, lower(document, tables.mesh.maps), reader(document), document)
    print(rows, () => partValuesCsv(rows))
    return 0
  }
  if (command === 'bake' || command === 'export' || command === 'deliver') {
    const document = await look(need(target, 'a look file'))
    const seed = number('seed', 0)
    const to = need(command === 'export' ? options.to : options.out, command === 'export' ? '--to FILE' : '--out DIR')
    const ending = extname(to).toLowerCase()
    const size = number('size', 1024)
    if (!BAKE_SIZES.some(s => s === size)) throw new UsageError(`--size takes ${BAKE_SIZES.join(', ')}, not ${size}.`)
    const among = <T extends string>(
      name: string,
      value: string | undefined,
      choices: readonly T[],
      fallback: T,
    ): T => {
      const found = choices.find(c => c === (value ?? fallback))
      if (!found) throw new UsageError(`--${name} takes ${choices.join(' or ')}, not "${value}".`)
      return found
    }
    const formats = (options.format ?? 'png8').split(',').map(f => {
      const found = (
        { png8: 'png8', png16: 'png16', exr: 'half', 'exr-half': 'half', 'exr-float': 'float' } as Record<
          string,
          PictureFormat
        >
      )[f]
      if (!found) throw new UsageError(`--format takes png8, png16, exr and exr-float, not "${f}".`)
      return { word: f, format: found }
    })
    const samples = number('samples', 1)
    if (samples !== 1 && samples !== 2 && samples !== 4)
      throw new UsageError(`--samples takes 1, 2 or 4, not ${samples}.`)
    const colorIn = among('color', options.color, ['texture', 'vertices'] as const, 'texture')
    const material = among('material', options.material, ['baked', 'procedural'] as const, 'baked')
    const on = among('on', options.on, ['file', 'analysis'] as const, 'file')
    const common = {
      size,
      samples,
      dilation: number('dilation', 8),
      dither: options.dither ?? false,
      colorIn,
      on,
      seeds: [seed],
      ...(options.udim && { tiles: [number('udim', 0)] }),
    }
    const channels = (options.channels ?? 'baseColor,metalness,roughness,orm,normal,height,emission,opacity')
      .split(',')
      .map(c => c.trim())
      .filter(Boolean)
    const chosen = (): Partial<DeliverySettings> => {
      if (command === 'bake') {
        const strange = channels.find(c => !MAP_NAMES.some(m => m === c) && !c.includes('/'))
        if (strange) throw new UsageError(`--channels takes ${MAP_NAMES.join(', ')}, or NODE/PORT, not "${strange}".`)
        return {
          meshes: [],
          maps: channels.filter((c): c is MapName => c in MAPS),
          extra: channels
            .filter(c => c.includes('/'))
            .map(c => ({ name: c.replaceAll('/', ' '), lanes: lanesOfPort(document, c), space: 'linear' })),
        }
      }
      if (ending === '.glb' || ending === '.ply' || ending === '.usda') return { meshes: [ending.slice(1) as 'glb'] }
      if (ending === '.mtlx') return { meshes: material === 'procedural' ? ['glb'] : [], materials: [material] }
      if (ending === '.csv' || ending === '.json') return { meshes: [], tables: [ending.slice(1) as 'csv'] }
      throw new UsageError(`${to}: export writes .glb, .ply, .usda, .mtlx, .csv and .json.`)
    }
    const settingsAsked = (): Promise<DeliverySettings> | DeliverySettings =>
      options.settings
        ? documentOf(options.settings, 'file of delivery settings', parseDelivery)
        : deliverySchema.parse({ size, ...(seed && { seeds: [seed] }) })
    const settings = command === 'deliver' ? await settingsAsked() : undefined
    const decoded = await picturesOf(document, target!)
    const { piece: found, ...source } = await workpiece(
      need(options.mesh, '--mesh MESH'),
      preparation,
      true,
      decoded,
      cache,
    )
    const written: string[] = []
    const broken = check(document, namesOf(found)).find(f => f.severity === 'error')
    if (broken) throw new UsageError(`${target}: ${broken.message}`)
    const originals = new Map<string, Uint8Array>()
    for (const p of decoded)
      originals.set(p.name, packed.get(p.name) ?? (await file(join(dirname(target!), basename(p.name)))))
    const maps = found.tables.mesh.maps.filter(m => preparation.maps.some(p => p.name === m.name))
    for (const { word, format } of formats) {
      const own = settings ?? deliverySchema.parse({ ...common, format, ...chosen() })
      const inside = formats.length > 1 ? join(to, word) : to
      const folder = command === 'export' ? dirname(to) : inside
      const stem = basename(to, extname(to))
      const manifest = await deliver(
        {
          mesh: source,
          preparation,
          maps,
          pictures: decoded.map(p => ({ ...p, data: Uint8Array.from(p.data) })),
          look: document,
          settings: own,
        },
        folder,
        {
          name: document.name || 'Look',
          cache,
          originals,
          piece: found,
          threads: number('threads', availableParallelism()),
          ...(command === 'export' && { stem, bare: true }),
          ...(command === 'bake' && { pictures: '' as const }),
        },
      ).catch((error: NodeJS.ErrnoException) => {
        if (error.code) throw new UsageError(`${to} cannot be written: ${error.message.split(',')[0]}.`)
        throw error instanceof LaneError ? new UsageError(`${target}: ${error.message}`) : error
      })
      if (command === 'export' && ending === '.mtlx' && material === 'procedural')
        await rename(join(folder, `${stem}.procedural.mtlx`), to)
      if (command === 'export' && ending === '.json') await rename(join(folder, `${stem}.parts.json`), to)
      written.push(
        ...manifest.files.map(f =>
          join(folder, f.path.replace('.procedural.mtlx', '.mtlx').replace('.parts.json', '.json')),
        ),
      )
      for (const left of manifest.leftOut) process.stderr.write(`note: ${left}\n`)
      for (const why of manifest.baked) process.stderr.write(`baked: ${why}\n`)
      if (settings) break
    }
    await pruneCache(cache, Number(process.env.UBBLET_CACHE_MEGABYTES) || 8192)
    print({ files: written }, () => written.map(w => `${w}\n`).join(''))
    return 0
  }
  if (command === 'render') {
    const path = need(target, 'a GLB')
    const to = need(options.to, '--to FILE')
    const ending = extname(to).toLowerCase()
    const bytes = await file(path)
    if (ending !== '.png' && ending !== '.exr') throw new UsageError(`${to}: render writes .png and .exr.`)
    const [width, height] = (options.size ?? '480x360').split('x').map(Number)
    if (![width, height].every(x => Number.isInteger(x) && x! > 0 && x! <= 8192))
      throw new UsageError(`--size takes WIDTHxHEIGHT in pixels, not "${options.size}".`)
    const from = options.light ? await lightFile(options.light) : rigAsked(options.rig)
    const amount = (name: 'turn' | 'plate') => {
      const value = Number(options[name] ?? 0)
      if (!Number.isFinite(value)) throw new UsageError(`--${name} takes a number, not "${options[name]}".`)
      return value
    }
    const samples = Math.max(1, number('samples', 64))
    const light = await render(bytes, {
      width: width!,
      height: height!,
      samples,
      light: from,
      turn: amount('turn'),
      brightness: 1,
      plate: amount('plate'),
      threads: Math.max(1, number('threads', availableParallelism())),
    }).catch((error: Error) => {
      throw new UsageError(`${path}: ${error.message}`)
    })
    await write(to, ending === '.png' ? toPng(light, width!, height!) : await toExr(light, width!, height!))
    print({ file: to, width, height, samples }, () => `${to}\n`)
    return 0
  }
  if (command === 'read') {
    const path = need(target, 'a material document')
    const to = need(options.to, '--to FILE')
    const text = await file(path)
    const { look: made, report } = (() => {
      try {
        return readLookFile(basename(path), text, READ_LIMITS)
      } catch (error) {
        throw error instanceof LookError ? new UsageError(`${path}: ${error.message}`) : error
      }
    })()
    await write(to, `${JSON.stringify(made, null, 1)}\n`)
    print({ file: to, report }, () => [to, ...report, ''].join('\n'))
    return 0
  }
  if (command === 'demo') {
    const folder = need(target, 'a folder')
    const written: { file: string; counts?: DemoCounts }[] = []
    for (const demo of DEMOS) {
      const { mesh, counts } = demo.make()
      const json = (data: unknown) => `${JSON.stringify(data, null, 1)}\n`
      for (const [name, data] of [
        [`${demo.file}.glb`, await writeGlb(mesh, demo.title)],
        [`${demo.file}.preparation.json`, json(demo.preparation())],
        ...demo.looks
          .map(make => make())
          .map((l, i) => [`${demo.file}${i ? `-${fileStem(l.name)}` : ''}.look.json`, json(l)] as const),
      ] as const) {
        await write(join(folder, name), data)
        written.push({ file: name, ...(name.endsWith('.glb') && { counts }) })
      }
    }
    print(written, () => written.map(w => `${join(folder, w.file)}\n`).join(''))
    return 0
  }
  throw new UsageError(`There is no command "${command}". See ubblet --help.`)
}

run(process.argv.slice(2)).then(
  code => {
    process.exitCode = code
  },
  (error: unknown) => {
    const expected =
      error instanceof UsageError ||
      error instanceof DeliveryError ||
      (error as { code?: string }).code?.startsWith('ERR_PARSE_ARGS')
    process.stderr.write(
      `ubblet: ${expected ? (error as Error).message : `unexpected: ${error instanceof Error ? error.stack : String(error)}`}\n`,
    )
    process.exitCode = 2
  },
)
