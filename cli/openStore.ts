import { existsSync } from 'node:fs'
import { StoreError } from '../node/store/faults'
import { databaseUrl } from '../node/store/places'
import { Store } from '../node/store/store'
import { UsageError } from './usage'

/** The database that the server here would use. @throws UsageError where it is not there, or cannot be opened */
export async function openStore(url = databaseUrl(), make = false): Promise<Store> {
  const file = url.startsWith('file:') ? url.slice('file:'.length) : undefined
  if (file && !make && !existsSync(file))
    throw new UsageError(`There is no database at ${file}; UBBLET_DATABASE names another.`)
  try {
    return await Store.open({
      url,
      ...(process.env.UBBLET_DATABASE_TOKEN && { token: process.env.UBBLET_DATABASE_TOKEN }),
    })
  } catch (error) {
    throw error instanceof StoreError ? new UsageError(error.message) : error
  }
}

/** Does something with the database, and lets go of it. */
export async function withStore<T>(work: (store: Store) => Promise<T>, url?: string, make?: boolean): Promise<T> {
  const store = await openStore(url, make)
  try {
    return await work(store)
  } catch (error) {
    throw error instanceof StoreError ? new UsageError(error.message) : error
  } finally {
    store.close()
  }
}
