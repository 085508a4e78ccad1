import { mkdir, writeFile } from 'node:fs/promises'
import { zipSync } from 'fflate'
import { pngOf } from '../../core/bake/png'
import { contactSheet } from '../../core/deliver/contact'
import type { Manifest } from '../../core/deliver/manifest'
import { formatsOf, refusal } from '../../core/deliver/formats'
import type { Leaving } from '../../core/deliver/formats/declare'
import { DeliveryError } from '../../core/deliver/settings'
import { checkValues } from '../../core/evaluate/checks'
import type { Workpiece } from '../../core/evaluate/workpiece'
import { KEYS_FILE, packLook } from '../../core/exchange/lookFile'
import { plainName } from '../../core/exchange/names'
import { check, type Finding } from '../../core/graph/check'
import { bakeMissing } from './bakeMissing'
import { compressor } from './compress'
import { DeliveryDraft } from './deliveryDraft'
import { ownMark } from './drafts'
import { hashFile, sha256 } from './hashes'
import { PlannedPictures } from './plannedPictures'
import { openWork, settled, type OpenWork } from './work'
import type { Work } from './workSchema'

export interface DeliverOptions {
  /** What the delivery is called, and so its files. */
  name: string
  /** What its files are called, where that is something else. */
  stem?: string
  /** The folder of the pictures within the delivery. */
  pictures?: '' | 'textures'
  /** Pictures may share their bytes with the cache: only where nobody writes into the delivery. */
  linked?: boolean
  /** Only the files themselves: no manifest, no table of keys, no contact picture. */
  bare?: boolean
  /** Whether a contact picture comes along. */
  contact?: boolean
  revision?: number
  /** The mesh, where it is open already. */
  piece?: Workpiece
  /** Where baked pictures are kept, to be taken again while nothing that they depend on has changed. */
  cache: string
  /** Whose scraps these are, in the names of drafts and pieces; told apart from everybody else's. */
  mark?: string
  /** How many threads bake; as many as there are cores. */
  threads?: number
  progress?: (share: number, what: string) => void
  /** Told before work begins, how many pictures have to be baked. */
  ahead?: (pictures: number) => void
  /** Pictures of the project as their files are, for the look's own file. */
  originals?: ReadonlyMap<string, Uint8Array>
}

/**
 * Checks whether a delivery can be made of an opened work.
 * @returns what there is to say of the look
 * @throws DeliveryError where it cannot
 */
function examined(work: Work, open: OpenWork, bare: boolean): Finding[] {
  const { settings } = work
  const { tables } = open.piece
  const refused = refusal(settings, open.subjects.length, Boolean(tables.mesh.uvs))
  if (refused) throw new DeliveryError(refused)
  const names = {
    maps: [...tables.mesh.maps, ...work.preparation.maps].map(m => m.name),
    sets: work.preparation.sets.map(s => s.name),
  }
  const { laid } = open.subjects.find(s => s.look === work.look)?.subject.baker ?? {}
  const measured = bare ? [] : checkValues(open.kernels, tables, work.look, settings.size, laid)
  const findings = [...check(work.look, names), ...measured]
  const broken = findings.find(f => f.severity === 'error')
  if (broken) throw new DeliveryError(`The look has an error: ${broken.message}`)
  return findings
}

/** The tiles that leave. @throws DeliveryError where none is left of those that were asked for */
function tilesOf({ settings }: Work, { piece, delivered }: OpenWork): number[] {
  const { tiles } = delivered.tiling
  const wanted = piece.tables.mesh.uvs ? tiles.filter(t => !settings.tiles || settings.tiles.includes(t)) : []
  if (settings.tiles && !wanted.length)
    throw new DeliveryError(
      `The mesh has no tile ${settings.tiles.join(', ')}; it has ${tiles.join(', ') || 'no UVs'}.`,
    )
  return wanted
}

/** What the formats write their files from. */
function leavingOf(
  { settings, look }: Work,
  { piece, kernels, delivered, subjects }: OpenWork,
  tiles: readonly number[],
  stem: string,
  pictures: PlannedPictures,
): Leaving {
  const first = settings.meshes.length ? subjects[0]?.subject : undefined
  const attributes = settings.materials.includes('procedural') ? subjects[0]!.subject.attributes() : []
  return {
    stem,
    lookName: look.name || 'Look',
    kernels,
    tables: piece.tables,
    delivered,
    subjects,
    tiles,
    picture: variant => spec => pictures.use(variant, spec),
    embedded: (variant, tile) => pictures.inside(variant, tile),
    documentPictures: () => pictures.readByDocuments(),
    values: first ? [...first.vertexMaps(), ...attributes, ...first.identity()] : [],
    ...(settings.colorIn === 'vertices' && first && { vertexColors: first.vertexColors() }),
    ...(settings.identity && { keys: piece.parts.parts.map(p => p.key) }),
    compression: settings.compression,
  }
}

/** Puts in what comes along: the look, the table of keys, the contact picture. */
async function putExtras(
  draft: DeliveryDraft,
  { settings, look }: Work,
  { piece, subjects }: OpenWork,
  stem: string,
  { originals = new Map(), bare, contact, progress }: DeliverOptions,
): Promise<void> {
  if (settings.look) {
    const packed = packLook(look, originals, piece.table)
    // Always the same time: the same look is the same file.
    await draft.put(`${stem}.look.zip`, zipSync(packed, { level: 6, mtime: '1980-01-01T00:00:00' }))
  }
  if (!bare) await draft.put(KEYS_FILE, `${JSON.stringify(piece.table)}\n`)
  if (bare || contact === false) return
  progress?.(0.96, 'drawing the contact picture')
  const looks = subjects.map(s => s.subject.baker.laid)
  await draft.put('contact.png', pngOf({ ...contactSheet(piece.tables, looks), channels: 3 }, compressor))
}

async function manifestOf(
  draft: DeliveryDraft,
  { settings, look, mesh }: Work,
  { piece, delivered, subjects }: OpenWork,
  tiles: number[],
  findings: readonly Finding[],
  { name, revision }: DeliverOptions,
): Promise<Manifest> {
  const triangles = delivered.mesh.indices.length / 3
  const parts = piece.tables.parts.parts.length
  return {
    ubblet: 'delivery',
    version: 1,
    name,
    made: new Date().toISOString(),
    look: { name: look.name, revision: revision ?? null, hash: sha256(JSON.stringify(look)) },
    mesh: { name: mesh.name, hash: sha256(mesh.bytes), triangles, parts },
    variants: subjects.map(({ name, seed }) => ({ name, seed })),
    tiles,
    settings,
    scales: subjects.map(({ name, subject }) => ({ variant: name, ...subject.largest })),
    baked: subjects[0]!.subject.procedural?.baked ?? [],
    leftOut: [...new Set(subjects.flatMap(s => s.subject.leftOut))],
    findings: findings.map(({ severity, message }) => ({ severity, message })),
    files: await Promise.all(
      [...draft.files].map(async ([path, key]) => ({
        path,
        ...(await hashFile(draft.pathOf(path))),
        ...(key && { key }),
      })),
    ),
  }
}

/**
 * Makes a delivery: everything goes into a draft, which takes the target's place when it is complete. Baked pictures
 * are kept in the cache one by one, so a delivery that was cut off goes on where it stopped.
 * @param folder where the delivery is to be; files of the same name that are there already are replaced, others stay
 */
export async function deliver(input: Work, folder: string, options: DeliverOptions): Promise<Manifest> {
  const work = { ...input, settings: settled(input.settings) }
  const { settings } = work
  const { progress, mark = ownMark(), bare = false, cache } = options
  progress?.(0, 'opening the mesh')
  const open = await openWork(work, progress, options.piece)
  const findings = examined(work, open, bare)
  const stem = options.stem ?? (plainName(options.name.toLowerCase()).replace(/^_+|_+$/g, '') || 'look')
  const tiles = tilesOf(work, open)
  const draft = await DeliveryDraft.begin(folder, mark)
  try {
    await mkdir(cache, { recursive: true })
    // Pictures: those that are not in the cache are baked, all of a tile together.
    const pictures = new PlannedPictures(work, open, tiles, stem, options.pictures ?? 'textures', cache)
    const { missing, kept } = pictures
    options.ahead?.(new Set(missing.map(kept)).size)
    await bakeMissing(work, open, missing, kept, { ...options, mark })
    await pictures.bring(draft, options.linked ?? false)

    progress?.(0.92, 'writing meshes and documents')
    const leaving = leavingOf(work, open, tiles, stem, pictures)
    for (const format of formatsOf(settings))
      for (const [path, data] of await format.files(leaving)) await draft.put(path, data)
    await pictures.dropPacked(draft)
    await putExtras(draft, work, open, stem, options)

    // The manifest last. Runs of single tiles share a folder, each with a manifest of its own.
    const manifest = await manifestOf(draft, work, open, tiles, findings, options)
    const list = settings.tiles ? `manifest.${settings.tiles.join('-')}.json` : 'manifest.json'
    if (!bare) await writeFile(draft.pathOf(list), `${JSON.stringify(manifest, null, 1)}\n`)
    await draft.settle(list)
    progress?.(1, 'done')
    return manifest
  } catch (error) {
    await draft.discard()
    throw error
  }
}
