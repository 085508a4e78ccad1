import { strToU8 } from 'fflate'
import { flatten } from '../graph/flatten'
import { LookError, parseLook, type Look } from '../graph/look'

/** Names of the pictures that a look reads, those inside recipes and on its board included. */
export function picturesIn(look: Look): string[] {
  const used = flatten(look).nodes.flatMap(n =>
    n.kind === 'picture' && n.params.picture ? [String(n.params.picture)] : [],
  )
  return [...new Set([...used, ...(look.board ?? []).map(p => p.picture)])]
}

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

/** A look with its pictures as the files of one zip, to be carried to another machine. */
export function packLook(look: Look, pictures: ReadonlyMap<string, Uint8Array>): Record<string, Uint8Array> {
  const out: Record<string, Uint8Array> = { 'look.json': strToU8(`${JSON.stringify(look, null, 1)}\n`) }
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
  return { look, pictures }
}
