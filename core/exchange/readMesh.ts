import type { Mesh } from '../mesh/mesh'
import { joinPieces } from './joinPieces'
import { isText } from './lines'
import { fail, megabytes, MeshFileError, READ_LIMITS, type Found, type ReadOptions } from './meshFile'
import { readGlb, readGltf } from './readGltf'
import { readObj } from './readObj'
import { readPly } from './readPly'
import { unzip } from './unzip'

declare class TextDecoder {
  decode(bytes: Uint8Array): string
}

export { COMPANION_ENDINGS, MESH_ENDINGS, MeshFileError, READ_LIMITS } from './meshFile'

/** What a file holds, by its first bytes; the name decides only where they leave it open. */
type Kind = 'glb' | 'gltf' | 'ply' | 'obj' | 'zip'

function kindOf(bytes: Uint8Array, name: string): Kind {
  const ending = /\.[^.]*$/.exec(name.toLowerCase())?.[0] ?? ''
  if (bytes.length === 0) fail('The file is empty.')
  const begins = (...codes: number[]) => codes.every((c, i) => bytes[i] === c)
  if (begins(0x67, 0x6c, 0x54, 0x46)) return 'glb'
  if (begins(0x50, 0x4b, 3, 4) || begins(0x50, 0x4b, 5, 6)) return 'zip'
  if (begins(0x70, 0x6c, 0x79) && (bytes[3] === 10 || bytes[3] === 13)) return 'ply'
  if (ending === '.glb')
    fail(
      `This is not a GLB file: it does not begin with the letters "glTF"${isText(bytes) ? ', and reads as text' : ''}.`,
    )
  if (ending === '.ply') fail('This is not a PLY file: its first line is not "ply".')
  if (ending === '.zip') fail('This is not a zip file.')
  const text = isText(bytes)
  if (ending === '.obj') return text ? 'obj' : fail('This is not an OBJ file: it holds bytes that are no text.')
  if (ending === '.gltf' || (text && /^\s*\{/.test(new TextDecoder().decode(bytes.subarray(0, 200))))) return 'gltf'
  if (text && /^\s*(#|v|o|g|mtllib)\b/m.test(new TextDecoder().decode(bytes.subarray(0, 4000)))) return 'obj'
  return fail(`Ubblet reads GLB, glTF, OBJ and PLY, and zips of them; "${name || 'this file'}" is none of these.`)
}

/**
 * Reads a mesh file of any kind that Ubblet knows: GLB, glTF, OBJ, PLY, or a zip that holds one of them with the files
 * it needs.
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
  const kind = kindOf(bytes, name)
  if (kind === 'glb') return readGlb(bytes, options)
  if (kind === 'gltf') return readGltf(bytes, beside, options)
  if (kind === 'obj') return readObj(bytes, beside, options)
  if (kind === 'ply') return readPly(bytes, stem, options)
  if (beside.size) fail('There is a zip inside the zip; unpack it first.')
  const files = unzip(bytes, options.limits ?? READ_LIMITS)
  const meshes = [...files.keys()].filter(n => /\.(glb|gltf|obj|ply)$/i.test(n))
  if (!meshes.length) fail('There is no GLB, glTF, OBJ or PLY file in the zip.')
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
