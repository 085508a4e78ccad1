import { createHash, randomBytes } from 'node:crypto'
import { existsSync } from 'node:fs'
import { readdir, rm, stat } from 'node:fs/promises'
import { hostname } from 'node:os'
import { basename, dirname, join, resolve } from 'node:path'

/**
 * This machine in the names of drafts: runs on a farm share folders, and their processes' numbers mean nothing
 * elsewhere.
 */
const HOST = createHash('sha256').update(hostname()).digest('hex').slice(0, 6)
const MARK = /([0-9a-f]{6})-(\d+)-[0-9a-f]{6}$/
/** Milliseconds without a change after which a draft of another machine counts as left behind. */
const LEFT_BEHIND = 86_400_000

/** What tells the drafts of a run from everybody else's. */
export const ownMark = (): string => `${HOST}-${process.pid}-${randomBytes(3).toString('hex')}`

/**
 * Where a delivery is made before it takes its place: within its folder where that is there, so that a volume's root
 * and a folder whose parent cannot be written will do, and both are in one file system; else beside it.
 */
export const draftOf = (folder: string, mark: string): string =>
  existsSync(folder) ? join(folder, `.part-${mark}`) : `${folder}.part-${mark}`

/** Removes what runs that are no more have left of a delivery into a folder. */
export async function sweepDrafts(folder: string): Promise<void> {
  const whole = resolve(folder)
  const within = (await namesIn(whole)).filter(n => n.startsWith('.part-')).map(n => join(whole, n))
  const parent = dirname(whole)
  const beside = parent === whole ? [] : (await namesIn(parent)).filter(n => n.startsWith(`${basename(whole)}.part-`))
  for (const path of [...within, ...beside.map(n => join(parent, n))])
    if (await isLeft(path)) await rm(path, { recursive: true, force: true })
}

const namesIn = (folder: string): Promise<string[]> => readdir(folder).catch(() => [])

async function isLeft(path: string): Promise<boolean> {
  const [, host, pid] = MARK.exec(path) ?? []
  if (host === undefined) return false
  if (host === HOST) return !runs(Number(pid))
  const changed = await stat(path).then(
    s => s.mtimeMs,
    () => Date.now(),
  )
  return Date.now() - changed > LEFT_BEHIND
}

function runs(pid: number): boolean {
  try {
    process.kill(pid, 0)
    return true
  } catch (error) {
    // It is there, and somebody else's.
    return (error as NodeJS.ErrnoException).code === 'EPERM'
  }
}
