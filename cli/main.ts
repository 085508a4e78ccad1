import { mkdir, readFile, rename, writeFile } from 'node:fs/promises'
import { basename, dirname, extname, join } from 'node:path'
import { parseArgs } from 'node:util'
import { BAKE_DEFAULTS, BAKE_SIZES } from '../core/bake/textures'
import { partValues, partValuesCsv } from '../core/bake/values'
import { meshTables } from '../core/evaluate/tables'
import { deliverGlb, DeliveryError } from '../core/exchange/deliver'
import { inspect } from '../core/exchange/inspect'
import { MeshFileError, readGlb } from '../core/exchange/readGlb'
import { writeGlb } from '../core/exchange/writeGlb'
import { check } from '../core/graph/check'
import { LookError, parseLook, type Look } from '../core/graph/look'
import { loadKernels } from '../core/kernels/kernels'
import { findParts } from '../core/mesh/parts'
import { lower, readParam } from '../core/program/lower'
import { floatRack } from '../demo/floatRack'
import { floatRackLook } from '../demo/floatRackLook'

/** A call that cannot be carried out: one line on standard error, exit 2. */
class UsageError extends Error {}

const HELP = `ubblet inspect MESH                      what the file holds
ubblet check LOOK [--mesh MESH]          what is wrong with a look
ubblet values LOOK --mesh MESH           mean of each channel per part, as CSV [--seed N]
ubblet export LOOK --mesh MESH --to FILE .glb (with textures) or .csv
       [--size ${BAKE_SIZES.join('|')}] [--color texture|vertices]
ubblet demo DIR                          writes the demo mesh and look as files
Every command takes --json.`

async function file(path: string): Promise<Uint8Array> {
  try {
    return new Uint8Array(await readFile(path))
  }
  catch (error) {
    const reason = ({ ENOENT: 'there is no such file', EISDIR: 'it is a folder', EACCES: 'no permission' } as Record<string, string>)[(error as NodeJS.ErrnoException).code ?? ''] ?? 'it cannot be read'
    throw new UsageError(`${path}: ${reason}.`)
  }
}

async function mesh(path: string) {
  if (extname(path).toLowerCase() !== '.glb') throw new UsageError(`${path}: Ubblet reads .glb files.`)
  try {
    const read = await readGlb(await file(path))
    return { mesh: read, parts: findParts(read) }
  }
  catch (error) {
    throw error instanceof MeshFileError ? new UsageError(`${path}: ${error.message}`) : error
  }
}

async function look(path: string): Promise<Look> {
  const bytes = await file(path)
  let data: unknown
  try {
    data = JSON.parse(new TextDecoder().decode(bytes))
  }
  catch {
    throw new UsageError(`${path}: This is not a look: it is not JSON.`)
  }
  try {
    return parseLook(data)
  }
  catch (error) {
    throw error instanceof LookError ? new UsageError(`${path}: ${error.message}`) : error
  }
}

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

/** Gives every seed of a look a new value from one number; 0 leaves the look as it is. */
const reseed = (document: Look, seed: number): Look => seed === 0 ? document : {
  ...document, nodes: document.nodes.map(n => typeof n.params.seed === 'number' ? { ...n, params: { ...n.params, seed: (n.params.seed + seed * 7919) % 2 ** 24 } } : n),
}

/** Runs one call. Returns the exit code: 0 fine, 1 ran and found problems. */
async function run(argv: string[]): Promise<number> {
  const { values: options, positionals: [command, target, ...rest] } = parseArgs({
    args: argv, allowPositionals: true,
    options: {
      'json': { type: 'boolean' }, 'help': { type: 'boolean' }, 'mesh': { type: 'string' }, 'to': { type: 'string' },
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
  if (rest.length) throw new UsageError(`"${rest[0]}" is one argument too many.`)

  if (command === 'inspect') {
    const found = await mesh(need(target, 'a mesh file'))
    const report = inspect(found.mesh, found.parts)
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
    const maps = options.mesh ? (await mesh(options.mesh)).mesh.maps.map(m => m.name) : undefined
    const findings = check(document, maps)
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
    const found = await mesh(need(options.mesh, '--mesh MESH'))
    const tables = meshTables(found.mesh, found.parts), kernels = await loadKernels()
    const broken = check(document, found.mesh.maps.map(m => m.name)).find(f => f.severity === 'error')
    if (broken) throw new UsageError(`${target}: ${broken.message}`)
    if (to && kind === '.glb') {
      const glb = await deliverGlb(kernels, tables, document, { ...BAKE_DEFAULTS, size, colorIn: color })
      await write(to, glb)
      print({ file: to, bytes: glb.length }, () => `${to}\n`)
      return 0
    }
    const rows = partValues(kernels, tables, lower(document, found.mesh.maps), ref => readParam(document, ref))
    if (to) await write(to, partValuesCsv(rows))
    if (to) print({ file: to, parts: rows.length }, () => `${to}\n`)
    else print(rows, () => partValuesCsv(rows))
    return 0
  }
  if (command === 'demo') {
    const folder = need(target, 'a folder'), { mesh: rack, counts } = floatRack()
    await write(join(folder, 'float-rack.glb'), await writeGlb(rack, 'Float rack'))
    await write(join(folder, 'float-rack.look.json'), `${JSON.stringify(floatRackLook(), null, 1)}\n`)
    print({ files: ['float-rack.glb', 'float-rack.look.json'], counts }, () => `${join(folder, 'float-rack.glb')}\n${join(folder, 'float-rack.look.json')}\n`)
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
