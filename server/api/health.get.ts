import { sql } from 'drizzle-orm'
import { statfs } from 'node:fs/promises'
import { dirname } from 'node:path'
import { queueState } from '../queue/queue'
import { told } from '../../node/store/faults'
import { useStore } from '../utils/store'
import { route } from '../rights/route'

/** A disk with less than this is not well, in bytes. */
const LOW = 256 * 2 ** 20

/**
 * Whether the server is well: 200 where it is, 503 where it is not. To those who have not signed in it says no more
 * than that.
 */
export default route({ may: 'everybody' }, async event => {
  const problems: string[] = []
  let disk: number | null = null
  let queue: Awaited<ReturnType<typeof queueState>> | null = null
  try {
    const store = await useStore()
    await store.rows.run(sql`SELECT 1 FROM projects LIMIT 1`)
    if (store.damage) problems.push(store.damage.message)
    queue = await queueState()
    if (store.file) {
      const { bavail, bsize } = await statfs(dirname(store.file))
      disk = bavail * bsize
      if (disk < LOW) problems.push(`The disk of the server has ${Math.round(disk / 2 ** 20)} MB left.`)
    }
  } catch (error) {
    problems.push((told(error) as Error).message)
  }
  if (problems.length) setResponseStatus(event, 503)
  const ok = problems.length === 0
  const message = problems.join(' ')
  return event.context.person
    ? { ok, message, problems, disk, queue: queue && { waiting: queue.waiting, running: queue.running } }
    : { ok }
})
