import { StoreError } from '../../node/store/faults'
import { databaseUrl } from '../../node/store/places'
import { Store } from '../../node/store/store'
import { setting } from './limits'
import { log } from './log'
import { besideDatabase } from './scripts'

/** How long after a failed opening the next one may be tried, in milliseconds. */
const OPEN_AGAIN = 500

let opening: Promise<Store> | undefined
let opened: Store | undefined

async function open(): Promise<Store> {
  const token = process.env.UBBLET_DATABASE_TOKEN
  const store = await Store.open({
    url: databaseUrl(),
    patience: setting('UBBLET_BUSY_SECONDS', 20) * 1000,
    ...(token && { token }),
  })
  opened = store
  if (store.file) void examine(store, store.file)
  return store
}

/** Has the whole file checked. Where it is damaged, nothing is written into it any more. */
async function examine(store: Store, file: string): Promise<void> {
  const found = await besideDatabase('check-job', file).catch((error: unknown) => {
    log.error({ err: error }, 'the database file could not be checked')
  })
  if (!Array.isArray(found) || !found.length) return
  store.damage = new StoreError(
    'damaged',
    `The database file of the server is damaged (${String(found[0])}); nothing is written into it any more. Bring a backup back with \`ubblet restore\`.`,
  )
  log.error({ found }, 'the database file is damaged')
}

/**
 * The database named by UBBLET_DATABASE (any libSQL URL; a file under .data by default), opened once. Where that fails,
 * it is tried again with a later call.
 * @throws StoreError with a sentence
 */
export function useStore(): Promise<Store> {
  opening ??= open().catch((error: unknown) => {
    setTimeout(() => {
      opening = undefined
    }, OPEN_AGAIN).unref()
    throw error
  })
  return opening
}

/** The database, if it is open. */
export const openStore = (): Store | undefined => opened

/** For reads. */
export const useRows = async () => (await useStore()).rows

/** For writes: see `Store.write`. */
export const write: Store['write'] = async work => (await useStore()).write(work)
