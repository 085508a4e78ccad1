import { strToU8 } from 'fflate'
import { flatten } from '../graph/flatten'
import { LookError, parseLook, type Look } from '../graph/look'

/** Names of the pictures that a look reads, those inside recipes and on its board included. */
export function picturesIn(look: Look): string[] {
  const used = flatten(look).nodes.flatMap(n => n.kind === 'picture' && n.params.picture ? [String(n.params.picture)] : [])
  return [...new Set([...used, ...(look.board ?? []).map(p => p.picture)])]
}

/** A look with its pictures as the files of one zip, to be carried to another machine. */
export function packLook(look: Look, pictures: ReadonlyMap<string, Uint8Array>): Record<string, Uint8Array> {
  const out: Record<string, Uint8Array> = { 'look.json': strToU8(`${JSON.stringify(look, null, 1)}\n`) }
  for (const name of picturesIn(look)) {
    const bytes = pictures.get(name)
    if (bytes) out[`pictures/${name.replaceAll('/', '_')}`] = bytes
  }
  return out
}

declare class TextDecoder { decode(bytes: Uint8Array): string }
/**
 * Reads the files of such a zip.
 * @throws LookError with one sentence
 */
export function unpackLook(files: Readonly<Record<string, Uint8Array>>): { look: Look, pictures: { name: string, bytes: Uint8Array }[] } {
  const document = files['look.json']
  if (!document) throw new LookError('This zip holds no look: there is no look.json in it.')
  let data: unknown
  try {
    data = JSON.parse(new TextDecoder().decode(document))
  }
  catch {
    throw new LookError('The look.json in this zip is not JSON.')
  }
  const pictures = Object.entries(files).filter(([path, bytes]) => path.startsWith('pictures/') && bytes.length).map(([path, bytes]) => ({ name: path.slice('pictures/'.length), bytes }))
  return { look: parseLook(data), pictures }
}
