import { spawn, spawnSync } from 'node:child_process'
import { mkdir, mkdtemp, readdir, utimes, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join, relative } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { draftOf, ownMark, sweepDrafts } from '../../node/bake/drafts'
import { removeFolder } from '../folders'

let folder = ''
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ubblet-drafts-'))
})
afterAll(() => removeFolder(folder))

/** The mark of a run of another process, on this machine or another. */
const markOf = (pid: number, host = ownMark().slice(0, 6)): string => `${host}-${pid}-0a1b2c`

describe('a draft of a delivery', () => {
  it('is made within a folder that is there, and beside one that is not', async () => {
    const there = join(folder, 'there')
    await mkdir(there)
    expect(dirname(draftOf(there, ownMark()))).toBe(there)
    expect(dirname(draftOf(join(folder, 'new'), ownMark()))).toBe(folder)
  })

  it('goes at the next run when its process is gone, and stays while it works', async () => {
    const out = join(folder, 'out')
    const { pid: gone } = spawnSync(process.execPath, ['-e', '0'])
    const working = spawn(process.execPath, ['-e', 'setTimeout(() => {}, 60_000)'])
    const put = async (path: string): Promise<string> => {
      await mkdir(path, { recursive: true })
      await writeFile(join(path, 'half.png'), 'half')
      return relative(folder, path)
    }
    try {
      const beside = await put(`${out}.part-${markOf(gone)}`)
      const alive = await put(`${out}.part-${markOf(working.pid!)}`)
      const within = await put(join(out, `.part-${markOf(gone)}`))
      const elsewhere = await put(join(out, `.part-${markOf(gone, 'ffffff')}`))
      const old = await put(join(out, `.part-${markOf(gone, 'eeeeee')}`))
      const another = await put(`${out} 2.part-${markOf(gone)}`)
      const other = await put(join(out, 'textures'))
      const lease = await put(`${out}.part-lease`)
      await utimes(join(folder, old), new Date('2020-01-01'), new Date('2020-01-01'))
      await sweepDrafts(out)
      const left = (await readdir(folder, { recursive: true })).filter(name => !name.endsWith('.png'))
      for (const path of [alive, elsewhere, another, other, lease]) expect(left).toContain(path)
      for (const path of [beside, within, old]) expect(left).not.toContain(path)
    } finally {
      working.kill()
    }
  })
})
