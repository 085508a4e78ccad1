import type { Mesh } from '../mesh/mesh'
import { joinPieces } from './joinPieces'
import { isText } from './lines'
import { fail, megabytes, MeshFileError, READ_LIMITS, type Found, type ReadOptions } from './meshFile'
import { READERS, type MeshReader } from './readers'
import { unzip } from './unzip'

declare class TextDecoder {
  decode(bytes: Uint8Array): string
}

export { MeshFileError, READ_LIMITS } from './meshFile'
export { MESH_ENDINGS } from './readers'

/** The kinds in a sentence: "GLB, glTF and PLY". */
function kindsInWords(last: 'and' | 'or'): string {
  const titles = READERS.map(r => r.title)
  return `${titles.slice(0, -1).join(', ')} ${last} ${titles.at(-1)}`
}

const isZip = (bytes: Uint8Array): boolean =>
  bytes[0] === 0x50 && bytes[1] === 0x4b && ((bytes[2] === 3 && bytes[3] === 4) || (bytes[2] === 5 && bytes[3] === 6))

/** Who reads a file, by its first bytes; the name decides only where they leave it open. */
function readerOf(bytes: Uint8Array, name: string): MeshReader | 'zip' {
  if (bytes.length === 0) fail('The file is empty.')
  if (isZip(bytes)) return 'zip'
  const certain = READERS.find(r => r.begins?.(bytes))
  if (certain) return certain
  const ending = /\.[^.]*$/.exec(name.toLowerCase())?.[0] ?? ''
  if (ending === '.zip') fail('This is not a zip file.')
  const text = isText(bytes)
  const named = READERS.find(r => r.endings.includes(ending))
  if (named) return named.text && text ? named : fail(named.otherwise(text))
  const head = text ? new TextDecoder().decode(bytes.subarray(0, 4000)) : ''
  const found = READERS.find(r => text && r.looksLike?.(head))
  return (
    found ?? fail(`Ubblet reads ${kindsInWords('and')}, and zips of them; "${name || 'this file'}" is none of these.`)
  )
}

/**
 * Reads a mesh file of any kind that Ubblet knows, or a zip that holds one of them with the files it needs.
 * @param name the file's own name: tells what the first bytes leave open, and names the object of a PLY
 * @throws MeshFileError with one sentence for the artist
 */
export async function readMesh(bytes: Uint8Array, name: string, options: ReadOptions = {}): Promise<Mesh> {
  const limits = options.limits ?? READ_LIMITS
  if (bytes.length > limits.bytes)
    fail(`The file has ${megabytes(bytes.length)}; the limit is ${megabytes(limits.bytes)}.`)
  try {
    return joinPieces(await find(bytes, name, new Map(), options))
  } catch (error) {
    if (error instanceof MeshFileError) throw error
    // Whatever a library throws at a broken file: the artist gets a sentence, and its words for the curious.
    return fail(
      `The file is damaged (${error instanceof Error ? error.message.split('\n')[0]!.slice(0, 120).replace(/\.+$/, '') : 'no reason given'}).`,
    )
  }
}

async function find(
  bytes: Uint8Array,
  name: string,
  beside: ReadonlyMap<string, Uint8Array>,
  options: ReadOptions,
): Promise<Found> {
  const stem = name.replace(/^.*\//, '').replace(/\.[^.]*$/, '') || 'Object 1'
  const reader = readerOf(bytes, name)
  if (reader !== 'zip') return reader.read(bytes, { stem, beside, options })
  if (beside.size) fail('There is a zip inside the zip; unpack it first.')
  const files = unzip(bytes, options.limits ?? READ_LIMITS)
  const meshes = [...files.keys()].filter(n => READERS.some(r => r.endings.some(e => n.toLowerCase().endsWith(e))))
  if (!meshes.length) fail(`There is no ${kindsInWords('or')} file in the zip.`)
  if (meshes.length > 1)
    fail(
      `There is more than one mesh in it (${meshes.slice(0, 3).join(', ')}${meshes.length > 3 ? ', …' : ''}); bring in one at a time.`,
    )
  // Paths inside a document are relative to it.
  const folder = meshes[0]!.replace(/[^/]*$/, '')
  const relative = new Map<string, Uint8Array>()
  for (const [path, data] of files) {
    relative.set(path.startsWith(folder) ? path.slice(folder.length) : path, data)
    const last = path.split('/').pop()!
    if (!relative.has(last)) relative.set(last, data)
  }
  return find(files.get(meshes[0]!)!, meshes[0]!, relative, options)
}
