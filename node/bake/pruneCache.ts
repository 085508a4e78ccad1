import { readdir, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'

/**
 * Lets go of the pictures that were not used for the longest time, and of scraps of runs that were cut off, until the
 * rest is small enough.
 */
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
