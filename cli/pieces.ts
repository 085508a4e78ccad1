import { createHash } from 'node:crypto'
import { readFile } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { isExr, type Picture } from '../core/evaluate/pictures'
import { readPicture } from '../node/bake/readPicture'
import { Workpiece } from '../core/evaluate/workpiece'
import { READ_LIMITS } from '../core/exchange/meshFile'
import { picturesOn } from '../core/exchange/lookFile'
import { readLookFile } from '../core/exchange/readLookFile'
import { declarationOf, type MapSettings } from '../core/geometry/maps'
import { flatten } from '../core/graph/flatten'
import { LookError, type Look } from '../core/graph/look'
import { parseKeyTable, type KeyTable } from '../core/mesh/keys'
import type { Mesh, VertexMap } from '../core/mesh/mesh'
import { emptyPreparation, mapIdOf, parsePreparation, type Preparation } from '../core/mesh/preparation'
import { mapsAhead, refuseTooLarge } from './ahead'
import { documentOf, file, write } from './files'
import { meshFile } from './meshFiles'
import { UsageError } from './usage'
import type { Voice } from './voice'

/** A look as it was read: with the pictures and the key table that came in its zip. */
export interface OpenLook {
  path: string
  look: Look
  packed: ReadonlyMap<string, Uint8Array>
  keys?: KeyTable
  report: string[]
}

/** Reads a look: alone, with its pictures in a zip, or a material document. */
export async function openLook(path: string): Promise<OpenLook> {
  const bytes = await file(path)
  try {
    const { look, pictures, keys, report } = readLookFile(basename(path), bytes, READ_LIMITS)
    return { path, look, packed: new Map(pictures.map(p => [p.name, p.bytes])), report, ...(keys && { keys }) }
  } catch (error) {
    throw error instanceof LookError ? new UsageError(`${path}: ${error.message}`) : error
  }
}

/** The file of a picture that a look names: in its zip, or beside it. */
export const pictureFile = async ({ path, packed }: OpenLook, name: string): Promise<Uint8Array> =>
  packed.get(name) ?? (await file(join(dirname(path), basename(name))))

/** The pictures that a look, or the preparation of the mesh, names, decoded: PNG and EXR files. */
async function picturesOf(open: OpenLook, preparation: Preparation): Promise<Picture[]> {
  const found: Picture[] = []
  for (const name of picturesOn({ ...open.look, board: [] }, preparation)) {
    const bytes = await pictureFile(open, name)
    const path = join(dirname(open.path), basename(name))
    if (!/\.(png|exr)$/i.test(path))
      throw new UsageError(`${path}: here, pictures are read as PNG or EXR; save it as one and name that in the look.`)
    try {
      found.push(readPicture(name, bytes))
    } catch {
      const kind = isExr(path) ? 'an EXR' : 'a PNG'
      throw new UsageError(`${path}: this is not ${kind} picture that can be read.`)
    }
  }
  return found
}

/** How a mesh is to be opened, as it stands in a call. */
export interface Asked {
  mesh: string
  preparation?: string
  keys?: string
}

export interface OpenMesh {
  piece: Workpiece
  /** The pictures that the look on it names, decoded. */
  pictures: readonly Picture[]
  preparation: Preparation
  keys?: KeyTable
  name: string
  bytes: Uint8Array
}

const preparationOf = async ({ preparation }: Asked): Promise<Preparation> =>
  preparation ? await documentOf(preparation, 'preparation', parsePreparation) : emptyPreparation()

/**
 * A mesh, prepared, without geometry maps. Its parts have the keys of the table that is named, or that came with the
 * look; without one they hash what they are, which another export may round differently.
 * @param known its preparation, where that has been read
 */
export async function openPiece(asked: Asked, voice: Voice, open?: OpenLook, known?: Preparation): Promise<OpenMesh> {
  const preparation = known ?? (await preparationOf(asked))
  const keys = asked.keys ? await documentOf(asked.keys, 'table of keys', parseKeyTable) : open?.keys
  const { mesh, name, bytes } = await meshFile(asked.mesh)
  refuseTooLarge(mesh, preparation, asked.preparation)
  const piece = new Workpiece(mesh, preparation, keys)
  tellKeys(piece, asked.mesh, keys, open, voice)
  return { piece, pictures: [], preparation, name, bytes, ...(keys && { keys }) }
}

/**
 * The same with the geometry maps of its preparation, and the pictures of a look.
 * @param refuse throws where nothing can come of it, before anything takes time
 */
export async function openMesh(
  asked: Asked & { cache: string },
  voice: Voice,
  open?: OpenLook,
  refuse?: (mesh: Mesh) => void,
): Promise<OpenMesh> {
  // What a look names and is not there is told before anything takes time.
  const preparation = await preparationOf(asked)
  const pictures = open ? await picturesOf(open, preparation) : []
  const opened = await openPiece(asked, voice, open, preparation)
  const { piece, bytes, keys } = opened
  refuse?.(piece.mesh)
  piece.setPictures(pictures)
  if (preparation.maps.length) await geometryMaps(piece, { bytes, keys }, preparation, asked.cache, voice)
  return { ...opened, pictures }
}

/**
 * Says what became of the keys: without a table, that another export may be drawn anew; with one, what was not found.
 */
function tellKeys(
  piece: Workpiece,
  path: string,
  keys: KeyTable | undefined,
  open: OpenLook | undefined,
  voice: Voice,
): void {
  const draws = open && flatten(open.look).nodes.some(n => n.kind === 'partRandom' || n.kind === 'palette')
  if (!keys) {
    if (draws)
      voice.remark(
        `note: ${path}: without a table of keys (--keys keys.json), parts that another export rounds differently are drawn anew.`,
      )
    return
  }
  const { match } = piece
  if (!match) return
  const fresh = match.how.filter(how => how === 'new').length
  if (fresh || match.lost.length)
    voice.remark(
      `note: ${path}: ${fresh} of ${match.how.length} parts are not in the table of keys, and ${match.lost.length} of its ${keys.keys.length} are not in the mesh.`,
    )
}

/**
 * Geometry maps, from the cache where they were computed before from the same mesh and settings; each is kept as it is
 * finished.
 */
async function geometryMaps(
  piece: Workpiece,
  mesh: { bytes: Uint8Array; keys: KeyTable | undefined },
  preparation: Preparation,
  cache: string,
  voice: Voice,
): Promise<void> {
  const hash = createHash('sha256').update(mesh.bytes).digest('hex')
  const pathOf = (settings: MapSettings): string => join(cache, `${mapIdOf(hash, preparation, settings)}.map`)
  const vertices = piece.analysis.mesh.positions.length / 3
  const kept = async (settings: MapSettings) => {
    const bytes = await readFile(pathOf(settings)).catch(() => undefined)
    const { components } = declarationOf(settings)
    if (bytes?.length !== vertices * components * 4) return undefined
    return { name: settings.name, components, values: new Float32Array(new Uint8Array(bytes).buffer) }
  }
  const known = new Map<string, VertexMap>()
  for (const settings of preparation.maps) {
    const found = await kept(settings)
    if (found) known.set(settings.name, found)
  }
  const missing = preparation.maps.filter(m => !known.has(m.name))
  if (missing.length) voice.note(mapsAhead(piece, missing))
  const total = preparation.maps.length
  for (const [i, settings] of missing.entries()) {
    const done = known.size
    const [made] = piece.compute([settings], (name, share) =>
      voice.progress((done + share) / total, `computing the geometry map ${name} (${i + 1} of ${missing.length})`),
    )
    const { values } = made!
    await write(pathOf(settings), new Uint8Array(values.buffer, values.byteOffset, values.byteLength))
    known.set(settings.name, made!)
  }
  voice.progress(1, 'geometry maps')
  piece.setComputed(preparation.maps.map(m => known.get(m.name)!))
}

/** What the names in a look may refer to on this mesh. */
export const namesOf = ({ tables, preparation }: Workpiece) => ({
  maps: [...tables.mesh.maps, ...preparation.maps].map(m => m.name),
  sets: preparation.sets.map(s => s.name),
})
