import { cacheFolder, deliveryFolder } from '../../node/store/places'
import { holdings, tidy } from '../../node/store/tidy'
import { withStore } from '../openStore'

const megabytes = (bytes: number): string => (bytes / 2 ** 20).toFixed(1).padStart(10)

/** `ubblet store`: what the database and its folders hold, and what would be freed; with `--tidy`, frees it. */
export function store(options: { tidy: boolean; removed: boolean }): Promise<{ data: unknown; text: string }> {
  const folders = { deliveries: deliveryFolder(), cache: cacheFolder() }
  return withStore(async opened => {
    const freed = options.tidy ? await tidy(opened, folders, options.removed ? { removedFor: 0 } : {}) : undefined
    const held = await holdings(opened, folders)
    const lines = held.map(
      h =>
        `${megabytes(h.bytes)} MB ${String(h.count).padStart(8)}  ${h.title}${h.frees ? `, tidying frees ${megabytes(h.frees).trim()} MB` : ''}`,
    )
    if (freed)
      lines.push(
        `freed: ${freed.projects} projects, ${freed.revisions} revisions, ${freed.maps} maps, ${freed.files} files (${megabytes(freed.bytes).trim()} MB), ${freed.deliveries} folders of deliveries`,
      )
    return { data: { holdings: held, ...(freed && { freed }) }, text: `${lines.join('\n')}\n` }
  })
}
