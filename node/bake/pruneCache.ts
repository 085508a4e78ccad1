import { readdir, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'

/**
 * Lets go of the pictures that were not used for the longest time, and of scraps of runs that were cut off, until the
 * rest is small enough.
 */
export async function pruneCache(cache: string, megabytes: number): Promise<void> {
  const found = await Promise.all(
    (await readdir(cache).catch(() => [])).map(async name => {
      const path = join(cache, name)
      // What another run takes away in the meantime is not there to be let go of.
      const is = await stat(path).catch(() => undefined)
      return is && { path, name, size: is.size, used: is.mtimeMs }
    }),
  )
  const entries = found.filter(e => e !== undefined)
  let left = megabytes * 2 ** 20
  for (const e of entries.sort((a, b) => b.used - a.used)) {
    left -= e.size
    const scrap = !/^[0-9a-f]{64}(\.(png|exr|webp)|-\d+\.map)$/.test(e.name) && Date.now() - e.used > 86_400_000
    if (left < 0 || scrap) await rm(e.path, { force: true })
  }
}
