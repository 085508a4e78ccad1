import { dirname, join, resolve } from 'node:path'

/** The database: UBBLET_DATABASE (any libSQL URL), or a file under .data of the folder that Ubblet lies in. */
export const databaseUrl = (): string =>
  process.env.UBBLET_DATABASE ?? `file:${join(process.env.UBBLET_HOME ?? '.', '.data', 'ubblet.db')}`

/** Where deliveries and the cache of baked pictures lie: UBBLET_DELIVERIES, or beside the database's file. */
export function deliveryFolder(): string {
  const url = databaseUrl()
  const beside = url.startsWith('file:') ? join(dirname(url.slice('file:'.length)), 'deliveries') : '.data/deliveries'
  return resolve(process.env.UBBLET_DELIVERIES ?? beside)
}

export const cacheFolder = (): string => join(deliveryFolder(), 'cache')
export const folderOf = (id: string): string => join(deliveryFolder(), id)

/** Baked pictures that are kept, in megabytes: UBBLET_CACHE_MEGABYTES. */
export function cacheMegabytes(): number {
  const asked = Number(process.env.UBBLET_CACHE_MEGABYTES)
  return asked > 0 ? asked : 8192
}
