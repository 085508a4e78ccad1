import { strToU8 } from 'fflate'
import { flatten } from '../graph/flatten'
import { kindFor } from '../graph/kinds'
import { LookError, parseLook, type Look } from '../graph/look'
import { KeyTableError, parseKeyTable, type KeyTable } from '../mesh/keys'
import type { Preparation } from '../mesh/preparation'

/** Names of the pictures that a look reads, those inside recipes and on its board included. */
export function picturesIn(look: Look): string[] {
  const used = flatten(look).nodes.flatMap(n =>
    Object.entries(kindFor(n)?.params ?? {}).flatMap(([name, d]) =>
      d.type === 'picture' && n.params[name] ? [String(n.params[name])] : [],
    ),
  )
  return [...new Set([...used, ...(look.board ?? []).map(p => p.picture)])]
}

/** Names of the pictures that a look reads on a mesh: those of `picturesIn`, and the mesh's own normals. */
export const picturesOn = (look: Look, { normals }: Preparation): string[] => [
  ...new Set([...picturesIn(look), ...(normals ? [normals] : [])]),
]

/** Halves of surrogate pairs, which no encoding of text has room for. */
const HALVES = /[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g

/** A picture's name as a plain name of a file in a zip: nothing in it leads out of its folder. */
const entryOf = (name: string): string =>
  `pictures/${encodeURIComponent(name.replace(HALVES, '\ufffd')).replace(/^\./, '%2E')}`

/** The picture's name that a file in a zip stands for; as it is in zips from before names were made plain. */
function nameOf(path: string, known: ReadonlySet<string>): string {
  const plain = path.slice('pictures/'.length)
  if (known.has(plain)) return plain
  try {
    return decodeURIComponent(plain)
  } catch {
    return plain
  }
}

/** The project's key table, where it goes with a delivery or inside a look's zip. */
export const KEYS_FILE = 'keys.json'

/**
 * A look with its pictures as the files of one zip, to be carried to another machine.
 * @param keys the key table of the project's mesh: with it, parts keep their draws in another export of that mesh
 */
export function packLook(
  look: Look,
  pictures: ReadonlyMap<string, Uint8Array>,
  keys?: KeyTable,
): Record<string, Uint8Array> {
  const out: Record<string, Uint8Array> = { 'look.json': strToU8(`${JSON.stringify(look, null, 1)}\n`) }
  if (keys) out[KEYS_FILE] = strToU8(`${JSON.stringify(keys)}\n`)
  for (const name of picturesIn(look)) {
    const bytes = pictures.get(name)
    if (bytes) out[entryOf(name)] = bytes
  }
  return out
}

declare class TextDecoder {
  decode(bytes: Uint8Array): string
}
/**
 * Reads the files of such a zip.
 * @throws LookError with one sentence
 */
export function unpackLook(files: Readonly<Record<string, Uint8Array>>): {
  look: Look
  pictures: { name: string; bytes: Uint8Array }[]
  keys?: KeyTable
} {
  const document = files['look.json']
  if (!document) throw new LookError('This zip holds no look: there is no look.json in it.')
  let data: unknown
  try {
    data = JSON.parse(new TextDecoder().decode(document))
  } catch {
    throw new LookError('The look.json in this zip is not JSON.')
  }
  const look = parseLook(data)
  const known = new Set(picturesIn(look))
  const pictures = Object.entries(files)
    .filter(([path, bytes]) => path.startsWith('pictures/') && bytes.length)
    .map(([path, bytes]) => ({ name: nameOf(path, known), bytes }))
  const keys = files[KEYS_FILE] && keysIn(files[KEYS_FILE])
  return { look, pictures, ...(keys && { keys }) }
}

function keysIn(bytes: Uint8Array): KeyTable {
  try {
    return parseKeyTable(JSON.parse(new TextDecoder().decode(bytes)))
  } catch (error) {
    const why = error instanceof KeyTableError ? error.message : 'It is not JSON.'
    throw new LookError(`The ${KEYS_FILE} in this zip cannot be read. ${why}`)
  }
}
