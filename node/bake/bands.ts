import { existsSync } from 'node:fs'
import { readFile, rename, rm, writeFile } from 'node:fs/promises'
import type { BandNote, PictureBand } from '../../core/bake/band'

/** Between a band's note, as JSON, and its bytes. */
const LINE_END = 10

/**
 * The bands of a picture that is being baked, each kept as it is finished: a run that is cut off, started again, bakes
 * those alone that it had not come to. Runs that share a cache share them.
 */
export class BandShelf {
  /** Those that need not be read. */
  private readonly notes: BandNote[] = []

  /**
   * @param picture the path of the picture that they will make
   * @param mark tells the drafts of this run from those of others
   */
  constructor(
    private readonly picture: string,
    private readonly mark: string,
  ) {}

  private pathOf(band: number): string {
    return `${this.picture}.band-${band}`
  }

  has(band: number): boolean {
    return existsSync(this.pathOf(band))
  }

  /** Keeps a band; it appears when it is whole. */
  async keep(band: number, { bytes, note }: PictureBand): Promise<void> {
    const draft = `${this.pathOf(band)}.${this.mark}`
    try {
      await writeFile(draft, [Buffer.from(`${JSON.stringify(note)}\n`), bytes])
      await rename(draft, this.pathOf(band))
      this.notes[band] = note
    } catch (error) {
      await rm(draft, { force: true })
      throw error
    }
  }

  /** @throws Error with the code ENOENT where it is not there any more: another run has made the picture of it */
  async read(band: number): Promise<PictureBand> {
    const all = await readFile(this.pathOf(band))
    const end = all.indexOf(LINE_END)
    return { note: JSON.parse(all.toString('utf8', 0, end)) as BandNote, bytes: all.subarray(end + 1) }
  }

  /** What the head of the picture needs of a band. @throws Error as {@link read} */
  async note(band: number): Promise<BandNote> {
    return (this.notes[band] ??= (await this.read(band)).note)
  }

  async clear(count: number): Promise<void> {
    await Promise.all(Array.from({ length: count }, (_, band) => rm(this.pathOf(band), { force: true })))
  }
}
