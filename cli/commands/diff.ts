import { existsSync } from 'node:fs'
import { stat } from 'node:fs/promises'
import { extname, join } from 'node:path'
import { decode } from 'fast-png'
import { compareNumbers, type NumberPicture } from '../../core/color/compareNumbers'
import { manifestSchema, type Manifest } from '../../core/deliver/manifest'
import { LOOK_ENDINGS } from '../../core/exchange/readLookFile'
import { differences } from '../../core/graph/differences'
import { readExr } from '../../core/exchange/readExr'
import { anyNumber, command, type VoiceOptions } from '../command'
import { documentOf, file } from '../files'
import { openLook } from '../pieces'
import { FOUND_PROBLEMS, UsageError } from '../usage'
import { voiceOf } from '../voice'

const MANIFEST = 'manifest.json'
const PICTURES = ['.png', '.exr']

/** One difference, in words; `where` is a file of a delivery. */
interface Difference {
  where?: string
  message: string
}

async function pictureOf(path: string): Promise<NumberPicture> {
  const bytes = await file(path)
  try {
    if (extname(path).toLowerCase() === '.exr') {
      const { width, height, lanes, data } = readExr(bytes.slice().buffer)
      return { width, height, channels: lanes, values: data, full: 1 }
    }
    const { width, height, channels, data, depth } = decode(bytes)
    return { width, height, channels, values: data, full: 2 ** depth - 1 }
  } catch {
    throw new UsageError(`${path}: this is not a picture that can be read.`)
  }
}

/** @param within a difference in color up to this, in CIEDE2000, is none */
async function pictureDifference(a: string, b: string, within: number): Promise<string | undefined> {
  const found = compareNumbers(await pictureOf(a), await pictureOf(b))
  if (!found) return 'the pictures differ in size or channels'
  const { largest, differing, color } = found
  if (!largest || (color && color.largest <= within)) return undefined
  const share = `${(differing * 100).toFixed(1)} % of the pixels differ, by ${Number(largest.toPrecision(3))} at most`
  return color ? `${share}; CIEDE2000 ${color.mean.toFixed(2)} in the mean, ${color.largest.toFixed(2)} at most` : share
}

/** The lines of a table by the key in their first column. */
function byKey(csv: string): Map<string, string> {
  const [, ...lines] = csv.split(/\r?\n/).filter(Boolean)
  return new Map(lines.map(l => [l.slice(0, l.indexOf(',')), l]))
}

async function tableDifference(a: string, b: string): Promise<string | undefined> {
  const read = async (path: string) => byKey(new TextDecoder().decode(await file(path)))
  const before = await read(a)
  const now = await read(b)
  const gone = [...before.keys()].filter(k => !now.has(k)).length
  const fresh = [...now.keys()].filter(k => !before.has(k)).length
  const changed = [...now].filter(([k, line]) => before.has(k) && before.get(k) !== line).length
  if (!gone && !fresh && !changed) return undefined
  return `${changed} of ${now.size} parts have other values, ${fresh} are new, ${gone} are gone`
}

const manifestOf = (folder: string): Promise<Manifest> => {
  if (!existsSync(join(folder, MANIFEST)))
    throw new UsageError(`${folder}: this is no delivery: it has no ${MANIFEST}.`)
  return documentOf(join(folder, MANIFEST), 'manifest', data => {
    const read = manifestSchema.safeParse(data)
    if (!read.success) throw new UsageError(`${join(folder, MANIFEST)}: this is not the manifest of a delivery.`)
    return read.data
  })
}

/** What the files of two deliveries differ in. What tells when they were made does not count. */
async function deliveryDifferences(a: string, b: string, within: number): Promise<Difference[]> {
  const before = await manifestOf(a)
  const now = await manifestOf(b)
  const list: Difference[] = []
  if (before.mesh.hash !== now.mesh.hash) list.push({ message: `The mesh file is another (${now.mesh.name}).` })
  if (before.look.hash !== now.look.hash) list.push({ message: 'The look is another.' })
  const known = new Map(before.files.map(f => [f.path, f]))
  for (const f of before.files)
    if (!now.files.some(n => n.path === f.path)) list.push({ where: f.path, message: 'is only in the first' })
  for (const f of now.files) {
    const old = known.get(f.path)
    if (!old) list.push({ where: f.path, message: 'is only in the second' })
    else if (old.sha256 !== f.sha256) {
      const message = await fileDifference(join(a, f.path), join(b, f.path), within)
      if (message) list.push({ where: f.path, message })
    }
  }
  return list
}

async function fileDifference(a: string, b: string, within: number): Promise<string | undefined> {
  const ending = extname(a).toLowerCase()
  if (PICTURES.includes(ending)) return pictureDifference(a, b, within)
  if (ending === '.csv') return tableDifference(a, b)
  if (LOOK_ENDINGS.some(e => a.toLowerCase().endsWith(e))) {
    const found = await lookDifferences(a, b)
    return found.length ? found.join(' ') : undefined
  }
  return 'differs'
}

async function lookDifferences(a: string, b: string): Promise<string[]> {
  const before = await openLook(a)
  const now = await openLook(b)
  return differences(before.look, now.look)
}

const isFolder = async (path: string): Promise<boolean> =>
  (await stat(path).catch(() => undefined))?.isDirectory() ?? false

async function differencesOf(a: string, b: string, within: number): Promise<Difference[]> {
  const folders = [await isFolder(a), await isFolder(b)]
  if (folders[0] && folders[1]) return deliveryDifferences(a, b, within)
  if (folders[0] || folders[1])
    throw new UsageError('diff takes two looks, two pictures, two tables or two deliveries.')
  const ending = extname(a).toLowerCase()
  if (PICTURES.includes(ending) || ending === '.csv') {
    if (extname(b).toLowerCase() !== ending) throw new UsageError(`${b}: diff compares it with files of its own kind.`)
    const message = await fileDifference(a, b, within)
    return message ? [{ message }] : []
  }
  return (await lookDifferences(a, b)).map(message => ({ message }))
}

export const diffCommand = () =>
  command('diff', {
    summary: 'what two looks, deliveries, pictures or part tables differ in; exit code 1 where they do',
    examples: [
      ['diff moss-1.look.json moss-2.look.json', 'Nodes, settings and wires, in words.'],
      ['diff approved today --within 1', 'Two deliveries; colors that differ by less than can be seen are the same.'],
    ],
  })
    .argument('<first>')
    .argument('<second>')
    .option('--within <difference>', 'of colors, in CIEDE2000, that counts as none', anyNumber('within'), 0)
    .action(async (a: string, b: string, options: VoiceOptions & { within: number }) => {
      const list = await differencesOf(a, b, options.within)
      const lines = list.map(d => `${d.where ? `${d.where}: ` : ''}${d.message}\n`)
      voiceOf(options).answer(list, () => lines.join('') || 'They are the same.\n')
      if (list.length) process.exitCode = FOUND_PROBLEMS
    })
