import { readFile } from 'node:fs/promises'
import type { H3Event } from 'h3'
import { setting } from './limits'

/** How often the memory of a process is looked at, in milliseconds. */
const LOOK_EVERY = 100
const PAGE = 4096

/** Resident memory of a process in bytes, where the system tells (proc(5)). */
const memoryOf = (pid: number): Promise<number> =>
  readFile(`/proc/${pid}/statm`, 'latin1').then(
    text => Number(text.split(' ')[1]) * PAGE,
    () => 0,
  )

/** How much memory a process may take that reads what somebody has sent, in megabytes. */
export const readMegabytes = (): number => setting('UBBLET_READ_MEGABYTES', 6144)

/**
 * Watches a process that reads what somebody has sent: it is to stop when it takes too long, when it takes too much
 * memory, and when whoever asked has left.
 * @param pid of the process that reads now
 * @param stop is told why, in a sentence; at most once
 * @param outcome what the sentence says of the project
 * @returns ends the watch
 */
export function watchProcess(
  event: H3Event,
  pid: () => number,
  stop: (why: string) => void,
  outcome = 'the project is as it was',
): () => void {
  const seconds = setting('UBBLET_READ_SECONDS', 300)
  const megabytes = readMegabytes()
  let isOver = false
  const end = (): void => {
    isOver = true
    clearTimeout(tooLong)
    clearInterval(watch)
    event.node.res.off('close', left)
  }
  const say = (why: string): void => {
    if (isOver) return
    end()
    stop(why)
  }
  const tooMuch = (what: string): void =>
    say(`Reading the file took more than ${what}, which is the limit; ${outcome}.`)
  const left = (): void => {
    if (!event.node.res.writableFinished) say('Whoever sent the file has left.')
  }
  const tooLong = setTimeout(() => tooMuch(`${seconds} seconds`), seconds * 1000)
  const watch = setInterval(() => {
    void memoryOf(pid()).then(used => {
      if (used > megabytes * 2 ** 20) tooMuch(`${megabytes} MB of memory`)
    })
  }, LOOK_EVERY)
  event.node.res.once('close', left)
  return end
}
