import { mkdir, readdir, readFile, rename, writeFile } from 'node:fs/promises'
import { basename, dirname, extname, join } from 'node:path'
import { parseArgs } from 'node:util'
import { decode as decodePng } from 'fast-png'
import { zipSync } from 'fflate'
import { BAKE_DEFAULTS, BAKE_SIZES } from '../core/bake/textures'
import { partValues, partValuesCsv } from '../core/bake/values'
import { checkValues } from '../core/evaluate/lookChecks'
import type { Picture } from '../core/evaluate/pictures'
import { Workpiece } from '../core/evaluate/workpiece'
import { deliverGlb, DeliveryError } from '../core/exchange/deliver'
import { inspect } from '../core/exchange/inspect'
import { COMPANION_ENDINGS, MESH_ENDINGS, MeshFileError, readMesh } from '../core/exchange/readMesh'
import { writeGlb } from '../core/exchange/writeGlb'
import { check } from '../core/graph/check'
import { flatten } from '../core/graph/flatten'
import { changeSeeds } from '../core/graph/recipe'
import { LookError, parseLook, type Look } from '../core/graph/look'
import { loadKernels } from '../core/kernels/kernels'
import type { Mesh } from '../core/mesh/mesh'
import { emptyPreparation, parsePreparation, PreparationError, type Preparation } from '../core/mesh/preparation'
import { lower, reader } from '../core/program/lower'
import { DEMOS, type DemoCounts } from '../demo'
import { draco } from './draco'

/** A call that cannot be carried out: one line on standard error, exit 2. */
class UsageError extends Error {}

const HELP = `ubblet inspect MESH                      what the file holds
ubblet check LOOK [--mesh MESH]          what is wrong with a look
ubblet values LOOK --mesh MESH           mean of each channel per part, as CSV [--seed N]
ubblet export LOOK --mesh MESH --to FILE .glb (with textures) or .csv
       [--size ${BAKE_SIZES.join('|')}] [--color texture|vertices]
ubblet demo DIR                          writes the demo meshes, preparations and looks as files
MESH is .glb, .gltf, .obj, .ply or a .zip of one with its files. --preparation FILE goes with every
command that reads a mesh: units, groups, part sets and geometry maps. Every command takes --json.`

async function file(path: string): Promise<Uint8Array> {
  try {
    return new Uint8Array(await readFile(path))
  }
  catch (error) {
    const reason = ({ ENOENT: 'there is no such file', EISDIR: 'it is a folder', EACCES: 'no permission' } as Record<string, string>)[(error as NodeJS.ErrnoException).code ?? ''] ?? 'it cannot be read'
    throw new UsageError(`${path}: ${reason}.`)
  }
}

/** The files beside a document that names others by path: its own folder's, in one zip as the readers take it. */
async function companions(path: string): Promise<Uint8Array> {
  const folder = dirname(path), own = basename(path), stem = own.replace(/\.[^.]*$/, '')
  const names = (await readdir(folder)).filter(n => n === own || n === `${stem}.mtl` || COMPANION_ENDINGS.some(e => n.toLowerCase().endsWith(e)))
  return zipSync(Object.fromEntries(await Promise.all(names.map(async n => [n, await file(join(folder, n))] as const))), { level: 0 })
}

async function meshFile(path: string): Promise<Mesh> {
  const ending = extname(path).toLowerCase()
  if (!MESH_ENDINGS.some(e => e === ending)) throw new UsageError(`${path}: Ubblet reads ${MESH_ENDINGS.join(', ')}.`)
  const bytes = await file(path)
  try {
    if (ending === '.gltf' || ending === '.obj') {
      // Alone first: most documents that need no other file are quick to read, and huge folders stay unread.
      const needs = ending === '.gltf' ? /"uri"\s*:\s*"(?!data:)/ : /^\s*mtllib\s/m
      if (needs.test(new TextDecoder().decode(bytes))) return await readMesh(await companions(path), `${basename(path)}.zip`, { draco })
    }
    return await readMesh(bytes, basename(path), { draco })
  }
  catch (error) {
    throw error instanceof MeshFileError ? new UsageError(`${path}: ${error.message}`) : error
  }
}

/** A mesh, prepared; geometry maps are computed where `maps` asks for them. */
/** The pictures that a look names: PNG files beside it. */
async function picturesOf(look: Look, beside: string): Promise<Picture[]> {
  const names = new Set(flatten(look).nodes.flatMap(n => n.kind === 'picture' && n.params.picture ? [String(n.params.picture)] : [])), found: Picture[] = []
  for (const name of names) {
    const path = join(dirname(beside), basename(name)), bytes = await file(path)
    if (!path.toLowerCase().endsWith('.png')) throw new UsageError(`${path}: here, pictures are read as PNG; save it as one and name that in the look.`)
    try {
      const { width, height, data, channels, depth } = decodePng(bytes), out = new Uint8Array(width * height * 4)
      for (let i = 0; i < width * height; i++) {
        for (let k = 0; k < 4; k++) {
          const value = k === 3 ? (channels === 4 ? data[i * 4 + 3]! : channels === 2 ? data[i * 2 + 1]! : 2 ** depth - 1) : data[i * channels + (channels > 2 ? k : 0)]!
          out[i * 4 + k] = depth === 16 ? value >> 8 : value
        }
      }
      found.push({ name, width, height, data: out })
    }
    catch {
      throw new UsageError(`${path}: this is not a PNG picture that can be read.`)
    }
  }
  return found
}

async function workpiece(path: string, preparation: Preparation, maps: boolean, pictures: readonly Picture[] = []): Promise<Workpiece> {
  const piece = new Workpiece(await meshFile(path), preparation)
  piece.setPictures(pictures)
  if (maps && preparation.maps.length) piece.computeAll()
  return piece
}

/** Reads a JSON document through its own reader, whose errors name the file. */
async function document<T>(path: string, what: string, parse: (data: unknown) => T): Promise<T> {
  const bytes = await file(path)
  let data: unknown
  try {
    data = JSON.parse(new TextDecoder().decode(bytes))
  }
  catch {
    throw new UsageError(`${path}: This is not a ${what}: it is not JSON.`)
  }
  try {
    return parse(data)
  }
  catch (error) {
    throw error instanceof LookError || error instanceof PreparationError ? new UsageError(`${path}: ${error.message}`) : error
  }
}
const look = (path: string): Promise<Look> => document(path, 'look', parseLook)

/** Writes beside the target first, so that a file appears only when it is complete. */
async function write(path: string, data: Uint8Array | string): Promise<void> {
  try {
    await mkdir(dirname(path), { recursive: true })
    const partial = join(dirname(path), `.${basename(path)}.part`)
    await writeFile(partial, data)
    await rename(partial, path)
  }
  catch (error) {
    throw new UsageError(`${path} cannot be written: ${(error as Error).message.split(',')[0]}.`)
  }
}

const namesOf = ({ tables, preparation }: Workpiece) => ({ maps: [...tables.mesh.maps, ...preparation.maps].map(m => m.name), sets: preparation.sets.map(s => s.name) })

/** Gives every seed of a look a new value from one number; 0 leaves the look as it is. */
const reseed = (document: Look, seed: number): Look => seed === 0 ? document : {
  ...document, nodes: document.nodes.map(n => changeSeeds(n, stored => typeof stored === 'number' ? (stored + seed * 7919) % 2 ** 24 : undefined)),
}

/** Runs one call. Returns the exit code: 0 fine, 1 ran and found problems. */
async function run(argv: string[]): Promise<number> {
  const { values: options, positionals: [command, target, ...rest] } = parseArgs({
    args: argv, allowPositionals: true,
    options: {
      'json': { type: 'boolean' }, 'preparation': { type: 'string' }, 'help': { type: 'boolean' }, 'mesh': { type: 'string' }, 'to': { type: 'string' },
      'seed': { type: 'string' }, 'size': { type: 'string' }, 'color': { type: 'string' },
    },
  })
  const print = (data: unknown, text: () => string) => process.stdout.write(options.json ? `${JSON.stringify(data, null, 1)}\n` : text())
  const need = (value: string | undefined, what: string) => {
    if (!value) throw new UsageError(`${command} needs ${what}. See ubblet --help.`)
    return value
  }
  const number = (name: 'seed' | 'size', fallback: number) => {
    const value = options[name] === undefined ? fallback : Number(options[name])
    if (!Number.isInteger(value) || value < 0) throw new UsageError(`--${name} takes a whole number, not "${options[name]}".`)
    return value
  }
  if (options.help || !command) {
    process.stdout.write(`${HELP}\n`)
    return 0
  }
  const preparation = options.preparation ? await document(options.preparation, 'preparation', parsePreparation) : emptyPreparation()
  if (rest.length) throw new UsageError(`"${rest[0]}" is one argument too many.`)

  if (command === 'inspect') {
    const found = await workpiece(need(target, 'a mesh file'), preparation, false)
    const report = inspect(found.mesh, found.parts, found.arranged.measures)
    print(report, () => [
      `${report.triangles} triangles, ${report.vertices} vertices`,
      `${report.levels.object} objects, ${report.levels.group} groups, ${report.levels.part} parts, ${report.levels.patch} patches`,
      `vertex maps: ${report.attributes.map(a => `${a.name} (${a.components})`).join(', ') || 'none'}`,
      `UV sets: ${report.uvSets}${report.udims.length > 1 ? `, tiles ${report.udims.join(' ')}` : ''}`,
      ...report.warnings.map(w => `note: ${w}`), '',
    ].join('\n'))
    return 0
  }
  if (command === 'check') {
    const document = await look(need(target, 'a look file'))
    const found = options.mesh ? await workpiece(options.mesh, preparation, true, await picturesOf(document, target!)) : undefined
    const findings = [...check(document, found ? namesOf(found) : {}), ...found ? checkValues(await loadKernels(), found.tables, document, number('size', BAKE_DEFAULTS.size)) : []]
    print(findings, () => findings.map(f => `${f.severity}${f.node ? ` ${f.node}` : ''}: ${f.message}\n`).join('') || 'Nothing found.\n')
    return findings.length ? 1 : 0
  }
  if (command === 'values' || command === 'export') {
    const document = reseed(await look(need(target, 'a look file')), number('seed', 0))
    const to = command === 'export' ? need(options.to, '--to FILE') : undefined
    const kind = to ? extname(to).toLowerCase() : '.csv'
    if (kind !== '.csv' && kind !== '.glb') throw new UsageError(`${to}: export writes .glb and .csv.`)
    const size = number('size', BAKE_DEFAULTS.size), color = options.color ?? 'texture'
    if (!BAKE_SIZES.some(s => s === size)) throw new UsageError(`--size takes ${BAKE_SIZES.join(', ')}, not ${size}.`)
    if (color !== 'texture' && color !== 'vertices') throw new UsageError(`--color takes texture or vertices, not "${color}".`)
    const found = await workpiece(need(options.mesh, '--mesh MESH'), preparation, true, await picturesOf(document, target!))
    const { tables } = found, kernels = await loadKernels()
    const broken = check(document, namesOf(found)).find(f => f.severity === 'error')
    if (broken) throw new UsageError(`${target}: ${broken.message}`)
    if (to && kind === '.glb') {
      const glb = await deliverGlb(kernels, tables, document, { ...BAKE_DEFAULTS, size, colorIn: color, plain: found.mesh })
      await write(to, glb)
      print({ file: to, bytes: glb.length }, () => `${to}\n`)
      return 0
    }
    const rows = partValues(kernels, tables, lower(document, tables.mesh.maps), reader(document))
    if (to) await write(to, partValuesCsv(rows))
    if (to) print({ file: to, parts: rows.length }, () => `${to}\n`)
    else print(rows, () => partValuesCsv(rows))
    return 0
  }
  if (command === 'demo') {
    const folder = need(target, 'a folder'), written: { file: string, counts?: DemoCounts }[] = []
    for (const demo of DEMOS) {
      const { mesh, counts } = demo.make(), json = (data: unknown) => `${JSON.stringify(data, null, 1)}\n`
      for (const [name, data] of [
        [`${demo.file}.glb`, await writeGlb(mesh, demo.title)], [`${demo.file}.preparation.json`, json(demo.preparation())],
        ...demo.looks.map(make => make()).map((l, i) => [`${demo.file}${i ? `-${l.name.toLowerCase().replace(/[^a-z0-9]+/g, '-')}` : ''}.look.json`, json(l)] as const),
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

run(process.argv.slice(2)).then((code) => {
  process.exitCode = code
}, (error: unknown) => {
  const expected = error instanceof UsageError || error instanceof DeliveryError || (error as { code?: string }).code?.startsWith('ERR_PARSE_ARGS')
  process.stderr.write(`ubblet: ${expected ? (error as Error).message : `unexpected: ${error instanceof Error ? error.stack : String(error)}`}\n`)
  process.exitCode = 2
})
