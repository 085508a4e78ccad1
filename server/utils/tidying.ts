import { readdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { tidy, type Folders, type Freed } from '../../node/store/tidy'
import { cacheFolder, deliveryFolder } from '../../node/store/places'
import { log } from './log'
import { besideDatabase } from './scripts'
import { useStore } from './store'

/** When the server tidies by itself, in milliseconds: some time after its start, and then now and then. */
const FIRST = 10 * 60_000
const EVERY = 6 * 3_600_000

export const folders = (): Folders => ({ deliveries: deliveryFolder(), cache: cacheFolder() })

async function bySelf(): Promise<void> {
  try {
    const freed = await tidy(await useStore(), folders())
    if (Object.values(freed).some(Boolean)) log.info(freed, 'tidied')
  } catch (error) {
    log.warn({ err: error }, 'tidying was not finished; it goes on next time')
  }
}

export function startTidying(): void {
  setTimeout(() => {
    void bySelf()
    setInterval(() => void bySelf(), EVERY).unref()
  }, FIRST).unref()
}

/** Gives empty room inside the file back to the disk. @returns why not, where it cannot be */
async function shrink(file: string): Promise<string | undefined> {
  const said = (await besideDatabase('room-job', file).catch((error: Error) => ({ error: error.message }))) as
    | { done?: true; error?: string }
    | undefined
  return said?.done ? undefined : (said?.error ?? 'it was cut off')
}

export interface TidyRequest {
  removed: boolean
  cache: boolean
}

/**
 * Tidies on request: removed projects at once, and the cache, where that is asked for; then the file itself is made
 * smaller.
 */
export async function tidyNow({ removed, cache }: TidyRequest): Promise<Freed & { shrunk: boolean }> {
  const store = await useStore()
  const freed = await tidy(store, folders(), removed ? { removedFor: 0 } : {})
  if (cache) {
    const finished = (await readdir(cacheFolder()).catch(() => [])).filter(name =>
      /^[0-9a-f]{64}\.(png|exr)$/.test(name),
    )
    for (const name of finished) await rm(join(cacheFolder(), name), { force: true })
  }
  const problem = store.file ? await shrink(store.file) : undefined
  if (problem) log.warn({ problem }, 'the database file was not made smaller')
  return { ...freed, shrunk: Boolean(store.file) && !problem }
}
