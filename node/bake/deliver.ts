import { createHash, randomBytes } from 'node:crypto'
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
import { bandsOf, pictureEnds, type BandNote, type PictureBand, type PictureSettings } from '../../core/bake/band'
import { countsThings, endingOf, isExr, type MapSpec } from '../../core/bake/maps'
import { partValues, partValuesCsv } from '../../core/bake/values'
import { contactSheet } from '../../core/deliver/contact'
import type { Manifest } from '../../core/deliver/manifest'
import { partsAtVertices } from '../../core/deliver/subject'
import { DeliveryError, writesUsd } from '../../core/deliver/settings'
import { checkValues } from '../../core/evaluate/lookChecks'
import type { Workpiece } from '../../core/evaluate/workpiece'
import { writeGlb, type GlbSurface } from '../../core/exchange/writeGlb'
import { KEYS_FILE, packLook } from '../../core/exchange/lookFile'
import { plainName } from '../../core/exchange/names'
import { writePly } from '../../core/exchange/writePly'
import { writeMaterialX } from '../../core/exchange/writeMaterialX'
import { writeUsdz } from '../../core/exchange/writeUsdz'
import { writeUsd, type PictureUse, type Primvar } from '../../core/exchange/writeUsd'
import { check } from '../../core/graph/check'
import { BAKE_VERSION } from '../../core/kernels/generated/versions'
import { compressor } from './compress'
import { BakePool } from './bakePool'
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
 * Makes a delivery: everything goes into a folder beside the target, which takes the target's place when it is complete.
 * Baked pictures are kept in the cache one by one, so a delivery that was cut off goes on where it stopped.
 * @param folder where the delivery is to be; files of the same name that are there already are replaced, others stay
 */
export async function deliver(input: Work, folder: string, options: DeliverOptions): Promise<Manifest> {
  const settings = settled(input.settings)
  const work = { ...input, settings }
  const { progress, mark = `${process.pid}-${randomBytes(3).toString('hex')}` } = options
  progress?.(0, 'opening the mesh')
  const open = await openWork(work, progress, options.piece)
  const { piece, delivered, subjects } = open
  const { tables } = piece
  if (settings.colorIn === 'texture' && !tables.mesh.uvs && (settings.meshes.includes('glb') || writesUsd(settings))) {
    throw new DeliveryError('Textures need UVs, and the mesh has none; vertex colors work without.')
  }
  if (settings.colorIn === 'vertices' && subjects.length > 1 && settings.meshes.includes('glb'))
    throw new DeliveryError(
      'A GLB has room for the vertex colors of one variant only; deliver textures, or one variant at a time.',
    )
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
  const draft = `${folder}.part-${mark}`
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
    const embedded = settings.meshes.includes('glb') ? subjects[0]!.subject.glbMaps() : []
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
        for (const spec of settings.meshes.includes('glb') ? subject.glbMaps() : []) add(spec, inGlb, '')
      }
    })
    function pictureName(variant: number, spec: MapSpec, of: number | '<UDIM>'): string {
      const which = subjects.length > 1 ? `_${plainName(subjects[variant]!.name)}` : ''
      const tiled = delivered.tiling.tiles.length > 1 ? `.${of}` : ''
      return `${stem}${which}_${plainName(spec.name)}${tiled}.${endingOf(howOf(spec).format)}`
    }
    /** A layer with the pictures that it reads; those that nobody else wants are in the package alone. */
    async function packUsd(layer: string): Promise<void> {
      const inside = new Map<string, Uint8Array>()
      for (const p of pictures) {
        const read = subjects[p.variant]!.subject.documentMaps().some(spec => spec.name === p.spec.name)
        if (p.path && read) inside.set(p.path, new Uint8Array(await readFile(join(draft, p.path))))
      }
      await put(`${stem}.usdz`, writeUsdz({ name: `${stem}.usda`, text: layer }, inside))
      if (settings.meshes.includes('usda') || settings.materials.includes('baked')) return
      for (const p of pictures) {
        const asked = subjects[p.variant]!.subject.askedMaps().some(spec => spec.name === p.spec.name)
        if (!inside.has(p.path) || asked) continue
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

    // (2) Meshes and material documents.
    progress?.(0.92, 'writing meshes and documents')
    const path =
      (variant: number) =>
      (spec: MapSpec): PictureUse => ({
        path: `${shelf && `${shelf}/`}${pictureName(variant, spec, '<UDIM>')}`,
        space: isExr(settings.format) ? 'linear' : spec.space,
      })
    const procedural = settings.materials.includes('procedural')
    const attributes = procedural ? subjects[0]!.subject.attributes() : []
    const first = settings.meshes.length ? subjects[0]?.subject : undefined
    const maps: Primvar[] = first ? [...first.vertexMaps(), ...attributes, ...first.identity()] : []
    const keys = settings.identity ? piece.parts.parts.map(p => p.key) : undefined
    const colored =
      settings.colorIn === 'vertices' && settings.meshes.length ? subjects[0]!.subject.vertexColors() : undefined
    if (settings.meshes.includes('glb')) {
      const variants = await Promise.all(
        subjects.map(async ({ name, subject }, variant) => {
          const surfaces = new Map<number, GlbSurface>()
          for (const tile of tiles.length ? tiles : [1001]) {
            const pngs = await Promise.all(
              embedded.map(spec =>
                readFile(
                  kept(
                    pictures.find(
                      p => !p.path && p.variant === variant && p.tile === tile && p.spec.name === spec.name,
                    )!,
                  ),
                ),
              ),
            )
            surfaces.set(tile, subject.glbSurface(pngs))
          }
          return { name: subjects.length > 1 ? name : work.look.name || 'Look', tiles: surfaces }
        }),
      )
      await put(
        `${stem}.glb`,
        await writeGlb(delivered.mesh, work.look.name || 'Look', {
          variants,
          tileOf: delivered.tileOf,
          ...(colored && { vertexColors: colored }),
          ...(maps.length && { maps }),
          ...(delivered.tangents && { tangents: delivered.tangents }),
          ...(keys && { keys }),
        }),
      )
    }
    if (settings.meshes.includes('ply')) {
      const atVertices = keys && Array.from(partsAtVertices(delivered), p => keys[p]!)
      await put(
        `${stem}.ply`,
        writePly(delivered.mesh, maps, colored ?? subjects[0]!.subject.vertexColors(), atVertices),
      )
    }
    if (writesUsd(settings)) {
      const surfaces = subjects.map(({ name, subject }, v) =>
        subject.usdSurface(subjects.length > 1 ? name : work.look.name || 'Look', path(v)),
      )
      const layer = writeUsd(delivered.mesh, stem, {
        surfaces,
        partOfTriangle: delivered.partOfTriangle,
        ...(keys && { keys }),
        sets: settings.identity ? tables.sets.map(s => ({ name: s.set.name, members: s.members })) : [],
        primvars: [
          ...(colored ? [{ name: 'displayColor', components: 3, values: colored, color: true }] : []),
          ...maps,
        ],
      })
      if (settings.meshes.includes('usda')) await put(`${stem}.usda`, layer)
      if (settings.meshes.includes('usdz')) await packUsd(layer)
    }
    const named = (name: string) =>
      subjects.length > 1 ? `${work.look.name || 'Look'} ${name}` : work.look.name || 'Look'
    if (settings.materials.includes('baked'))
      await put(
        `${stem}.mtlx`,
        writeMaterialX(subjects.map(({ name, subject }, v) => subject.bakedMaterial(named(name), path(v)))),
      )
    if (procedural) {
      if (subjects.length > 1)
        throw new DeliveryError(
          'A procedural material reads the values of one variant from the mesh; deliver its variants one at a time.',
        )
      await put(`${stem}.procedural.mtlx`, writeMaterialX([subjects[0]!.subject.procedural!.build(named(''), path(0))]))
    }

    // (3) Tables, look, contact picture.
    for (const { name, look, subject } of subjects) {
      const which = subjects.length > 1 ? `_${plainName(name)}` : ''
      if (!settings.tables.length) break
      const rows = partValues(open.kernels, tables, subject.baker.program, subject.baker.read, look)
      if (settings.tables.includes('csv')) await put(`${stem}${which}.csv`, partValuesCsv(rows))
      if (settings.tables.includes('json'))
        await put(`${stem}${which}.parts.json`, `${JSON.stringify(rows, null, 1)}\n`)
    }
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

/** Bakes pictures into the cache, band by band on the threads, each file appearing when all its bands are there. */
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
  const scratch: string[] = []
  try {
    const set = async (group: Picture[]): Promise<void> => {
      const { variant, tile, settings } = group[0]!
      const specs = group.map(p => p.spec)
      const count = bandsOf(settings.size).length
      const notes: BandNote[][] = group.map(() => [])
      const piece = (p: Picture, band: number) => `${kept(p)}.${mark}.${band}`
      const keep = async (bands: PictureBand[], band: number) => {
        await Promise.all(
          bands.map((b, k) => {
            notes[k]![band] = b.note
            scratch.push(piece(group[k]!, band))
            return writeFile(piece(group[k]!, band), b.bytes)
          }),
        )
        progress?.(
          0.05 + (0.85 * ++done) / total,
          `baking tile ${tile}${open.subjects.length > 1 ? ` of ${open.subjects[variant]!.name}` : ''}, band ${Math.min(count, band + 1)} of ${count}`,
        )
      }
      await Promise.all(
        Array.from({ length: count }, async (_, band) =>
          keep(
            pool
              ? await pool.bake({ variant, tile, specs, picture: settings, band })
              : open.subjects[variant]!.subject.baker.band(tile, specs, settings, band, compressor),
            band,
          ),
        ),
      )
      for (const [k, p] of group.entries()) {
        const [head, tail] = pictureEnds(p.spec, settings, notes[k]!)
        const whole = `${kept(p)}.${mark}.part`
        const out = createWriteStream(whole)
        scratch.push(whole)
        out.write(head)
        for (let band = 0; band < count; band++) {
          out.write(await readFile(piece(p, band)))
          if (out.writableNeedDrain) await once(out, 'drain')
          await rm(piece(p, band), { force: true })
        }
        out.end(tail)
        await finished(out)
        await rename(whole, kept(p))
      }
    }
    // A few at a time: bands of many tiles at once would only fill the disk with pieces.
    const queue = [...sets.values()]
    const lanes = Array.from({ length: Math.min(pool ? 2 : 1, queue.length) }, async () => {
      for (let next = queue.shift(); next; next = queue.shift()) await set(next)
    })
    await Promise.all(lanes)
  } finally {
    await pool?.close()
    await Promise.all(scratch.map(path => rm(path, { force: true })))
  }
}

/** Lets go of the pictures that were not used for the longest time, and of scraps of runs that were cut off, until the rest is small enough. */
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
