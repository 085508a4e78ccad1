import { randomUUID } from 'node:crypto'
import { existsSync } from 'node:fs'
import { readFile, rename, utimes, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { PictureSettings } from '../../core/bake/band'
import { countsThings, endingOf, isExr, type MapSpec } from '../../core/bake/maps'
import { formatsOf } from '../../core/deliver/formats'
import type { PictureUse } from '../../core/exchange/usdPreview'
import { plainName } from '../../core/exchange/names'
import { BAKE_VERSION } from '../../core/kernels/generated/versions'
import type { DeliveryDraft } from './deliveryDraft'
import { sha256 } from './hashes'
import { webpOfPng } from './webp'
import type { OpenWork } from './work'
import type { Work } from './workSchema'

/** A picture of a delivery: of a variant and a tile. */
export interface Picture {
  variant: number
  tile: number
  spec: MapSpec
  settings: PictureSettings
  /** What it is known by: the same for the same picture of the same look on the same mesh. */
  key: string
  /** Where it is to be in the delivery; nothing where it only goes into a mesh file. */
  path: string
}

/** What all pictures of a delivery depend on, whatever they show. */
const subjectOf = (work: Work): string =>
  sha256(
    JSON.stringify([
      BAKE_VERSION,
      sha256(work.mesh.bytes),
      work.preparation,
      work.keys ? sha256(JSON.stringify(work.keys)) : '',
      work.pictures.map(({ data, ...p }) => [p, sha256(new Uint8Array(data.buffer, data.byteOffset, data.byteLength))]),
    ]),
  )

/** The pictures of a delivery: what they are called, where they lie, and who reads them. */
export class PlannedPictures {
  readonly all: readonly Picture[]
  private readonly embedded: readonly MapSpec[]

  /**
   * @param stem what files are called
   * @param shelf the folder of pictures within the delivery
   * @param cache the folder where baked pictures are kept
   */
  constructor(
    private readonly work: Work,
    private readonly open: OpenWork,
    tiles: readonly number[],
    private readonly stem: string,
    private readonly shelf: string,
    private readonly cache: string,
  ) {
    const { subjects } = open
    const embeds = formatsOf(work.settings).some(f => f.embeds)
    this.embedded = embeds ? subjects[0]!.subject.glbMaps() : []
    const subjectHash = subjectOf(work)
    this.all = subjects.flatMap(({ subject }, variant) =>
      tiles.flatMap(tile => {
        const planned = (spec: MapSpec, settings: PictureSettings, path: string): Picture => {
          const bends = spec.lanes.some(l => l.startsWith('normal.'))
          const { on } = work.settings
          const key = [subjectHash, subject.baker.keyOf(spec), spec.space, settings, tile, bends && on]
          return { variant, tile, spec, settings, path, key: sha256(JSON.stringify(key)) }
        }
        const inGlb: PictureSettings = { ...this.settings, format: 'png8' }
        return [
          ...subject.fileMaps().map(s => planned(s, this.settingsOf(s), join(shelf, this.name(variant, s, tile)))),
          ...(embeds ? subject.glbMaps() : []).map(spec => planned(spec, inGlb, '')),
        ]
      }),
    )
  }

  private get settings(): PictureSettings {
    const { size, format, dilation, samples, dither } = this.work.settings
    return { size, format, dilation, samples, dither }
  }
  /** Numbers of parts must not be mixed: one sample, no dilation, in a format that holds them. */
  private settingsOf(spec: MapSpec): PictureSettings {
    if (!countsThings(spec)) return this.settings
    return { ...this.settings, format: 'float', dilation: 0, samples: 1, dither: false }
  }

  private name(variant: number, spec: MapSpec, tile: number | '<UDIM>'): string {
    const { subjects, delivered } = this.open
    const which = subjects.length > 1 ? `_${plainName(subjects[variant]!.name)}` : ''
    const tiled = delivered.tiling.tiles.length > 1 ? `.${tile}` : ''
    return `${this.stem}${which}_${plainName(spec.name)}${tiled}.${endingOf(this.settingsOf(spec).format)}`
  }

  /** Where a picture of a variant lies within the delivery, for all tiles, and how its numbers are to be read. */
  use(variant: number, spec: MapSpec): PictureUse {
    return {
      path: `${this.shelf && `${this.shelf}/`}${this.name(variant, spec, '<UDIM>')}`,
      space: isExr(this.work.settings.format) ? 'linear' : spec.space,
    }
  }

  /** Where a picture is kept once it is baked. */
  readonly kept = (p: Pick<Picture, 'key' | 'settings'>): string =>
    join(this.cache, `${p.key}.${endingOf(p.settings.format)}`)

  get missing(): Picture[] {
    return this.all.filter(p => !existsSync(this.kept(p)))
  }

  /** Brings the baked pictures into a delivery. @param linked whether it may share their bytes with the cache */
  async bring(draft: DeliveryDraft, linked: boolean): Promise<void> {
    for (const p of this.all) {
      // Told as used, so that others are let go of first.
      await utimes(this.kept(p), new Date(), new Date()).catch(() => {})
      if (p.path) await draft.take(this.kept(p), p.path, p.key, linked)
    }
  }

  /** The pictures inside a mesh file: as they are baked, or as WebP, which is kept beside them. */
  inside(variant: number, tile: number): Promise<Uint8Array[]> {
    const of = (spec: MapSpec): Picture =>
      this.all.find(p => !p.path && p.variant === variant && p.tile === tile && p.spec.name === spec.name)!
    return Promise.all(this.embedded.map(spec => this.fileOf(of(spec))))
  }

  private async fileOf(picture: Picture): Promise<Uint8Array> {
    const baked = this.kept(picture)
    if (this.work.settings.glbPictures === 'png') return readFile(baked)
    const packed = baked.replace(/png$/, 'webp')
    const known = await readFile(packed).catch(() => undefined)
    if (known) return known
    const made = await webpOfPng(await readFile(baked))
    // Whoever else makes the same has the same bytes.
    const draft = `${packed}.${randomUUID()}`
    await writeFile(draft, made)
    await rename(draft, packed)
    return made
  }

  private isRead({ variant, spec }: Picture): boolean {
    return this.open.subjects[variant]!.subject.documentMaps().some(s => s.name === spec.name)
  }
  /** The pictures that documents read, by their paths. */
  async readByDocuments(): Promise<Map<string, Uint8Array>> {
    const read = this.all.filter(p => p.path && this.isRead(p))
    return new Map(
      await Promise.all(read.map(async p => [p.path, new Uint8Array(await readFile(this.kept(p)))] as const)),
    )
  }

  /** Takes out what only a package reads: it is in that alone. */
  async dropPacked(draft: DeliveryDraft): Promise<void> {
    const formats = formatsOf(this.work.settings)
    if (!formats.some(f => f.reads === 'inside') || formats.some(f => f.reads === 'beside')) return
    for (const p of this.all) {
      const asked = this.open.subjects[p.variant]!.subject.askedMaps().some(spec => spec.name === p.spec.name)
      if (p.path && this.isRead(p) && !asked) await draft.drop(p.path)
    }
    await draft.dropFolder(this.shelf)
  }
}
