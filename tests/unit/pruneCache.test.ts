import { mkdtemp, readdir, rm, symlink, utimes, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { pruneCache } from '../../node/bake/pruneCache'

let cache = ''
beforeEach(async () => {
  cache = await mkdtemp(join(tmpdir(), 'ubblet-cache-'))
})
afterEach(() => rm(cache, { recursive: true, force: true }))

const named = (digit: string, ending: string) => digit.repeat(64) + ending
/** A file of a tenth of a megabyte that was used some days ago. */
async function kept(name: string, days: number): Promise<void> {
  await writeFile(join(cache, name), new Uint8Array(1e5))
  const at = Date.now() / 1000 - days * 86_400
  await utimes(join(cache, name), at, at)
}

describe('what is let go of a cache', () => {
  it('is what was not used for the longest time, and scraps of runs that were cut off', async () => {
    await kept(named('a', '.png'), 3)
    await kept(named('b', '.webp'), 2)
    await kept(named('c', '.exr'), 1.5)
    await kept(named('d', '-3.map'), 1.2)
    await kept(named('e', '.png.band-0'), 2)
    await pruneCache(cache, 1)
    const all = [named('a', '.png'), named('b', '.webp'), named('c', '.exr'), named('d', '-3.map')]
    expect((await readdir(cache)).sort()).toEqual(all)
    await pruneCache(cache, 0.25)
    expect((await readdir(cache)).sort()).toEqual(all.slice(2))
  })
  it('is not what another run has taken away in the meantime', async () => {
    await kept(named('a', '.png'), 0)
    // Listed, and gone when it is looked at.
    await symlink(join(cache, 'gone'), join(cache, named('f', '.png.band-0')))
    await pruneCache(cache, 1)
    expect(await readdir(cache)).toContain(named('a', '.png'))
  })
  it('is nothing where there is none', async () => {
    await expect(pruneCache(join(cache, 'none'), 1)).resolves.toBeUndefined()
  })
})
