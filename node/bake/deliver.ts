import { createHash } from 'node:crypto'
import { once } from 'node:events'
import { createReadStream, createWriteStream, existsSync } from 'node:fs'
import {
  constants,
  copyFile,
  link,
  mkdir,
  readdir,
  readFile,
  rename,
  rm,
  stat,
  utimes,
  writeFile,
} from 'node:fs/promises'
import { availableParallelism } from 'node:os'
import { dirname, join } from 'node:path'
import { finished, pipeline } from 'node:stream/promises'
import { encode } from 'fast-png'
import { zipSync } from 'fflate'
import { bandsOf, pictureEnds, type BandNote, type PictureSettings } from '../../core/bake/band'
import { countsThings, endingOf, isExr, type MapSpec } from '../../core/bake/maps'
import { contactSheet } from '../../core/deliver/contact'
import type { Manifest } from '../../core/deliver/manifest'
import { formatsOf, refusal } from '../../core/deliver/formats'
import type { Leaving } from '../../core/deliver/formats/declare'
import { DeliveryError } from '../../core/deliver/settings'
import { checkValues } from '../../core/evaluate/checks'
import type { Workpiece } from '../../core/evaluate/workpiece'
import { KEYS_FILE, packLook } from '../../core/exchange/lookFile'
import { plainName } from '../../core/exchange/names'
import { check } from '../../core/graph/check'
import { BAKE_VERSION } from '../../core/kernels/generated/versions'
import { compressor } from './compress'
import { BakePool } from './bakePool'
import { BandShelf } from './bands'
import { draftOf, ownMark, sweepDrafts } from './drafts'
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

const sha256 = (data: string | Uint8Array): string => createHash('sha256').update(data).digest('hex')
async function hashFile(path: string): Promise<{ bytes: number; sha256: string }> {
  const hash = createHash('sha256')
  await pipeline(createReadStream(path), hash)
  return { bytes: (await stat(path)).size, sha256: hash.digest('hex') }
}

interface Picture {
  variant: number
  tile: number
  spec: MapSpec
  settings: PictureSettings
  key: string
  path: string
}

/**
 * Makes a delivery: everything goes into a draft, which takes the target's place when it is complete. Baked pictures
 * are kept in the cache one by one, so a delivery that was cut off goes on where it stopped.
 * @param folder where the delivery is to be; files of the same name that are there already are replaced, others stay
 */
export async function deliver(input: Work, folder: string, options: DeliverOptions): Promise<Manifest> {
  const settings = settled(input.settings)
  const work = { ...input, settings }
  const { progress, mark = ownMark() } = options
  progress?.(0, 'opening the mesh')
  const open = await openWork(work, progress, options.piece)
  const { piece, delivered, subjects } = open
  const { tables } = piece
  const formats = formatsOf(settings)
  const refused = refusal(settings, subjects.length, Boolean(tables.mesh.uvs))
  if (refused) throw new DeliveryError(refused)
  const names = {
    maps: [...tables.mesh.maps, ...work.preparation.maps].map(m => m.name),
    sets: work.preparation.sets.map(s => s.name),
  }
  const findings = [
    ...check(work.look, names),
    ...(options.bare ? [] : checkValues(open.kernels, tables, work.look, settings.size)),
  ]
  const broken = findings.find(f => f.severity === 'error')
  if (broken) throw new DeliveryError(`The look has an error: ${broken.message}`)

  const stem = options.stem ?? (plainName(options.name.toLowerCase()).replace(/^_+|_+$/g, '') || 'look')
  const shelf = options.pictures ?? 'textures'
  const parts = tables.parts.parts.length
  const tiles = tables.mesh.uvs ? delivered.tiling.tiles.filter(t => !settings.tiles || settings.tiles.includes(t)) : []
  if (settings.tiles && !tiles.length)
    throw new DeliveryError(
      `The mesh has no tile ${settings.tiles.join(', ')}; it has ${delivered.tiling.tiles.join(', ') || 'no UVs'}.`,
    )
  await sweepDrafts(folder)
  const draft = draftOf(folder, mark)
  await mkdir(draft, { recursive: true })
  await mkdir(options.cache, { recursive: true })
  const files = new Map<string, string | undefined>()
  const put = async (path: string, data: Uint8Array | string) => {
    await mkdir(dirname(join(draft, path)), { recursive: true })
    await writeFile(join(draft, path), data)
    files.set(path, undefined)
  }

  try {
    // (1) Pictures: those that are not in the cache are baked, all of a tile together.
    const subjectHash = sha256(
      JSON.stringify([
        BAKE_VERSION,
        sha256(work.mesh.bytes),
        work.preparation,
        work.keys ? sha256(JSON.stringify(work.keys)) : '',
        work.pictures.map(({ data, ...p }) => [
          p,
          sha256(new Uint8Array(data.buffer, data.byteOffset, data.byteLength)),
        ]),
      ]),
    )
    const pictures: Picture[] = []
    const embeds = formats.some(f => f.embeds)
    const embedded = embeds ? subjects[0]!.subject.glbMaps() : []
    const own: PictureSettings = {
      size: settings.size,
      format: settings.format,
      dilation: settings.dilation,
      samples: settings.samples,
      dither: settings.dither,
    }
    // Numbers of parts must not be mixed: one sample, no dilation, in a format that holds them.
    const counting: PictureSettings = { ...own, format: 'float', dilation: 0, samples: 1, dither: false }
    const howOf = (spec: MapSpec): PictureSettings => (countsThings(spec) ? counting : own)
    const inGlb: PictureSettings = { ...own, format: 'png8' }
    subjects.forEach(({ subject }, variant) => {
      for (const tile of tiles) {
        const add = (spec: MapSpec, how: PictureSettings, path: string) => {
          const bends = spec.lanes.some(l => l.startsWith('normal.'))
          pictures.push({
            variant,
            tile,
            spec,
            settings: how,
            path,
            key: sha256(
              JSON.stringify([subjectHash, subject.baker.keyOf(spec), spec.space, how, tile, bends && settings.on]),
            ),
          })
        }
        for (const spec of subject.fileMaps()) add(spec, howOf(spec), join(shelf, pictureName(variant, spec, tile)))
        for (const spec of embeds ? subject.glbMaps() : []) add(spec, inGlb, '')
      }
    })
    function pictureName(variant: number, spec: MapSpec, of: number | '<UDIM>'): string {
      const which = subjects.length > 1 ? `_${plainName(subjects[variant]!.name)}` : ''
      const tiled = delivered.tiling.tiles.length > 1 ? `.${of}` : ''
      return `${stem}${which}_${plainName(spec.name)}${tiled}.${endingOf(howOf(spec).format)}`
    }
    const isRead = (p: Picture): boolean =>
      subjects[p.variant]!.subject.documentMaps().some(spec => spec.name === p.spec.name)
    async function documentPictures(): Promise<Map<string, Uint8Array>> {
      const read = pictures.filter(p => p.path && isRead(p))
      return new Map(
        await Promise.all(read.map(async p => [p.path, new Uint8Array(await readFile(join(draft, p.path)))] as const)),
      )
    }
    /** Pictures that only a package reads are in it alone. */
    async function dropPacked(): Promise<void> {
      if (!formats.some(f => f.reads === 'inside') || formats.some(f => f.reads === 'beside')) return
      for (const p of pictures) {
        const asked = subjects[p.variant]!.subject.askedMaps().some(spec => spec.name === p.spec.name)
        if (!p.path || !isRead(p) || asked) continue
        await rm(join(draft, p.path))
        files.delete(p.path)
      }
      if (shelf && ![...files.keys()].some(path => dirname(path) === shelf))
        await rm(join(draft, shelf), { recursive: true, force: true })
    }
    const kept = (p: Pick<Picture, 'key' | 'settings'>) =>
      join(options.cache, `${p.key}.${endingOf(p.settings.format)}`)
    const missing = pictures.filter(p => !existsSync(kept(p)))
    options.ahead?.(new Set(missing.map(kept)).size)
    await bakeMissing(work, open, missing, kept, { ...options, mark })
    for (const p of pictures) {
      await utimes(kept(p), new Date(), new Date()).catch(() => {})
      if (!p.path) continue
      await mkdir(dirname(join(draft, p.path)), { recursive: true })
      const copy = () => copyFile(kept(p), join(draft, p.path), constants.COPYFILE_FICLONE)
      if (options.linked) await link(kept(p), join(draft, p.path)).catch(copy)
      else await copy()
      files.set(p.path, p.key)
    }

    // (2) Meshes, material documents, tables.
    progress?.(0.92, 'writing meshes and documents')
    const first = settings.meshes.length ? subjects[0]?.subject : undefined
    const attributes = settings.materials.includes('procedural') ? subjects[0]!.subject.attributes() : []
    const keys = settings.identity ? piece.parts.parts.map(p => p.key) : undefined
    const leaving: Leaving = {
      stem,
      lookName: work.look.name || 'Look',
      kernels: open.kernels,
      tables,
      delivered,
      subjects,
      tiles,
      picture: variant => spec => ({
        path: `${shelf && `${shelf}/`}${pictureName(variant, spec, '<UDIM>')}`,
        space: isExr(settings.format) ? 'linear' : spec.space,
      }),
      embedded: (variant, tile) =>
        Promise.all(
          embedded.map(spec =>
            readFile(
              kept(
                pictures.find(p => !p.path && p.variant === variant && p.tile === tile && p.spec.name === spec.name)!,
              ),
            ),
          ),
        ),
      documentPictures,
      values: first ? [...first.vertexMaps(), ...attributes, ...first.identity()] : [],
      ...(settings.colorIn === 'vertices' && first && { vertexColors: first.vertexColors() }),
      ...(keys && { keys }),
      compression: settings.compression,
    }
    for (const format of formats) for (const [path, data] of await format.files(leaving)) await put(path, data)
    await dropPacked()

    // (3) Look, keys, contact picture.
    if (settings.look)
      await put(
        `${stem}.look.zip`,
        zipSync(packLook(work.look, options.originals ?? new Map(), piece.table), {
          level: 6,
          // Always the same time: the same look is the same file.
          mtime: '1980-01-01T00:00:00',
        }),
      )
    if (!options.bare) await put(KEYS_FILE, `${JSON.stringify(piece.table)}\n`)
    if (!options.bare && options.contact !== false) {
      progress?.(0.96, 'drawing the contact picture')
      await put(
        'contact.png',
        encode({
          ...contactSheet(
            open.kernels,
            tables,
            subjects.map(s => s.look),
          ),
          channels: 3,
          depth: 8,
        }),
      )
    }

    // (4) The manifest last.
    const manifest: Manifest = {
      ubblet: 'delivery',
      version: 1,
      name: options.name,
      made: new Date().toISOString(),
      look: { name: work.look.name, revision: options.revision ?? null, hash: sha256(JSON.stringify(work.look)) },
      mesh: {
        name: work.mesh.name,
        hash: sha256(work.mesh.bytes),
        triangles: delivered.mesh.indices.length / 3,
        parts,
      },
      variants: subjects.map(({ name, seed }) => ({ name, seed })),
      tiles,
      settings,
      scales: subjects.map(({ name, subject }) => ({ variant: name, ...subject.largest })),
      baked: subjects[0]!.subject.procedural?.baked ?? [],
      leftOut: [...new Set(subjects.flatMap(s => s.subject.leftOut))],
      findings: findings.map(({ severity, message }) => ({ severity, message })),
      files: await Promise.all(
        [...files].map(async ([p, key]) => ({ path: p, ...(await hashFile(join(draft, p))), ...(key && { key }) })),
      ),
    }
    // Runs of single tiles share a folder, each with a manifest of its own.
    const list = settings.tiles ? `manifest.${settings.tiles.join('-')}.json` : 'manifest.json'
    if (!options.bare) await writeFile(join(draft, list), `${JSON.stringify(manifest, null, 1)}\n`)
    await settle(draft, folder, list)
    progress?.(1, 'done')
    return manifest
  } catch (error) {
    await rm(draft, { recursive: true, force: true })
    throw error
  }
}

/** Puts a finished draft in its place; of a folder that is there already, it replaces the files that it has. */
async function settle(draft: string, folder: string, last: string): Promise<void> {
  if (!existsSync(folder)) {
    await mkdir(dirname(folder), { recursive: true })
    // Another run may have made it in the meantime.
    if (
      await rename(draft, folder).then(
        () => true,
        () => false,
      )
    )
      return
    await mkdir(folder, { recursive: true })
  }
  const visit = async (at: string): Promise<void> => {
    for (const entry of await readdir(join(draft, at), { withFileTypes: true })) {
      const path = join(at, entry.name)
      if (entry.isDirectory()) {
        await mkdir(join(folder, path), { recursive: true })
        await visit(path)
      } else if (path !== last) await rename(join(draft, path), join(folder, path))
    }
  }
  await visit('')
  if (existsSync(join(draft, last))) await rename(join(draft, last), join(folder, last))
  await rm(draft, { recursive: true, force: true })
}

/** Bakes pictures into the cache, band by band on the threads; each file appears when all its bands are there. */
async function bakeMissing(
  work: Work,
  open: OpenWork,
  missing: readonly Picture[],
  kept: (p: Picture) => string,
  { threads = availableParallelism(), progress, mark = '' }: DeliverOptions,
): Promise<void> {
  if (!missing.length) return
  // Pictures of one tile and one setting share their texels; the same picture asked for twice is baked once.
  const sets = new Map<string, Picture[]>()
  for (const p of new Map(missing.map(m => [kept(m), m])).values()) {
    const key = JSON.stringify([p.variant, p.tile, p.settings])
    const list = sets.get(key)
    if (list) list.push(p)
    else sets.set(key, [p])
  }
  const total = [...sets.values()].reduce((sum, [p]) => sum + bandsOf(p!.settings.size).length, 0)
  const small = threads < 1 || total === 1
  const pool = small ? undefined : await BakePool.open({ ...work, maps: open.maps }, Math.min(threads, total))
  let done = 0
  const shelves = new Map(missing.map(p => [kept(p), new BandShelf(kept(p), mark)]))
  const shelfOf = (p: Picture): BandShelf => shelves.get(kept(p))!
  const of = (variant: number): string => (open.subjects.length > 1 ? ` of ${open.subjects[variant]!.name}` : '')
  /** One band of pictures that share their texels: of those alone that were not kept by a run before. */
  async function bakeBand(group: readonly Picture[], band: number, count: number): Promise<void> {
    const { variant, tile, settings } = group[0]!
    const lacking = group.filter(p => !shelfOf(p).has(band))
    const specs = lacking.map(p => p.spec)
    if (lacking.length) {
      const bands = pool
        ? await pool.bake({ variant, tile, specs, picture: settings, band })
        : open.subjects[variant]!.subject.baker.band(tile, specs, settings, band, compressor)
      await Promise.all(bands.map((b, k) => shelfOf(lacking[k]!).keep(band, b)))
    }
    const share = 0.05 + (0.85 * ++done) / total
    if (lacking.length) progress?.(share, `baking tile ${tile}${of(variant)}, band ${band + 1} of ${count}`)
  }
  /** Makes a picture of its bands. */
  async function assemble(p: Picture, count: number): Promise<void> {
    const shelf = shelfOf(p)
    const whole = `${kept(p)}.${mark}.part`
    const notes: BandNote[] = []
    try {
      for (let band = 0; band < count; band++) notes.push(await shelf.note(band))
      const [head, tail] = pictureEnds(p.spec, p.settings, notes)
      const out = createWriteStream(whole)
      out.write(head)
      for (let band = 0; band < count; band++) {
        out.write((await shelf.read(band)).bytes)
        if (out.writableNeedDrain) await once(out, 'drain')
      }
      out.end(tail)
      await finished(out)
      await rename(whole, kept(p))
    } catch (error) {
      await rm(whole, { force: true })
      // Another run had the same picture to make, and was first.
      if (!existsSync(kept(p))) throw error
    }
    await shelf.clear(count)
  }
  try {
    const set = async (group: Picture[]): Promise<void> => {
      const count = bandsOf(group[0]!.settings.size).length
      await Promise.all(Array.from({ length: count }, (_, band) => bakeBand(group, band, count)))
      for (const p of group) await assemble(p, count)
    }
    // A few at a time: bands of many tiles at once would only fill the disk with pieces.
    const queue = [...sets.values()]
    const lanes = Array.from({ length: Math.min(pool ? 2 : 1, queue.length) }, async () => {
      for (let next = queue.shift(); next; next = queue.shift()) await set(next)
    })
    await Promise.all(lanes)
  } catch (error) {
    // A disk that is full gets its room back.
    if ((error as NodeJS.ErrnoException).code === 'ENOSPC')
      for (const p of missing) await shelfOf(p).clear(bandsOf(p.settings.size).length)
    throw error
  } finally {
    await pool?.close()
  }
}

/**
 * Lets go of the pictures that were not used for the longest time, and of scraps of runs that were cut off, until the
 * rest is small enough.
 */
export async function pruneCache(cache: string, megabytes: number): Promise<void> {
  const entries = await Promise.all(
    (await readdir(cache).catch(() => [])).map(async name => ({
      path: join(cache, name),
      name,
      ...(await stat(join(cache, name)).then(s => ({ size: s.size, used: s.mtimeMs }))),
    })),
  )
  let left = megabytes * 2 ** 20
  for (const e of entries.sort((a, b) => b.used - a.used)) {
    left -= e.size
    const scrap = !/^[0-9a-f]{64}(\.(png|exr)|-\d+\.map)$/.test(e.name) && Date.now() - e.used > 86_400_000
    if (left < 0 || scrap) await rm(e.path, { force: true })
  }
}
