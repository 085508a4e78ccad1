import { once } from 'node:events'
import { createWriteStream, existsSync } from 'node:fs'
import { rename, rm } from 'node:fs/promises'
import { availableParallelism } from 'node:os'
import { finished } from 'node:stream/promises'
import { bandsOf, pictureEnds, type BandNote } from '../../core/bake/band'
import { BakePool } from './bakePool'
import { BandShelf } from './bands'
import { compressor } from './compress'
import type { Picture } from './plannedPictures'
import type { OpenWork } from './work'
import type { BakeWork, Work } from './workSchema'

interface BakeOptions {
  /** As many as there are cores where that is left out. */
  threads?: number
  progress?: (share: number, what: string) => void
  /** Whose pieces these are, in their names. */
  mark?: string
}

/** What the threads get of an opened work: what its bakers have found of the whole surface comes along. */
export const bakeWorkOf = (work: Work, { maps, subjects, tangents }: OpenWork): BakeWork => ({
  work: { ...work, maps },
  looks: subjects.map(({ look, subject }) => ({ look, found: subject.baker.laid.found })),
  ...(tangents && { tangents }),
})

/** Bakes pictures into the cache, band by band on the threads; each file appears when all its bands are there. */
export async function bakeMissing(
  work: Work,
  open: OpenWork,
  missing: readonly Picture[],
  kept: (p: Picture) => string,
  { threads = availableParallelism(), progress, mark = '' }: BakeOptions,
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
  for (const group of small ? [] : sets.values())
    open.subjects[group[0]!.variant]!.subject.baker.makeReady(group.map(p => p.spec))
  const pool = small ? undefined : await BakePool.open(bakeWorkOf(work, open), Math.min(threads, total))
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
