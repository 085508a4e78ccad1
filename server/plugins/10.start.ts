import type { Server as HttpServer } from 'node:http'
import type { Socket } from 'node:net'
import { startQueue, stopQueue } from '../queue/queue'
import { listensOn, needsSignIn } from '../utils/addresses'
import { setStopping } from '../utils/lifecycle'
import { log } from '../utils/log'
import { peopleCount } from '../utils/people'
import { openStore, useStore } from '../utils/store'
import { startTidying } from '../utils/tidying'

/** Half of what a stop may take, in milliseconds: once for answers under way, once for deliveries and the database. */
const STOP_HALF = 4500
/** When a stop is over, whatever is still under way, in milliseconds. */
const STOP_AT_MOST = 9500
/**
 * How long a connection stays open on which nothing is asked, in milliseconds: longer than the minute that proxies wait
 * by custom, so that none of them writes into one that is just being closed.
 */
const KEPT_OPEN = 65_000

// What the server writes (the database, deliveries) is read by its own user and group alone.
process.umask(process.umask() | 0o027)

// Read by the server after its plugins: this machine alone unless something else is asked for.
process.env.HOST = listensOn()
process.env.NITRO_SHUTDOWN_TIMEOUT ??= String(STOP_HALF)

/** A server that others can reach asks them who they are; without anybody to ask for, it does not start. */
async function refuseWithoutPeople(): Promise<void> {
  const people = await peopleCount().catch((error: Error) => {
    console.error(`ubblet: who may sign in cannot be read: ${error.message}`)
    return 0
  })
  if (people) return
  console.error(
    [
      `ubblet: others could reach this server (it would listen on ${listensOn()}), and nobody may sign in yet.`,
      'Add somebody first:  ./bin/ubblet user add NAME --role manage',
      'or listen on this machine alone:  HOST=127.0.0.1',
    ].join('\n'),
  )
  process.exit(2)
}
if (needsSignIn()) await refuseWithoutPeople()

/** Opens the database, takes up the queue, and lets go of both when the server is told to stop. */
export default defineNitroPlugin(nitro => {
  useStore().catch((error: unknown) =>
    log.error({ err: error }, 'the database could not be opened; it is tried again when somebody asks'),
  )
  startQueue()
  startTidying()
  nitro.hooks.hook('request', ({ node }) => {
    const { server } = node.req.socket as Socket & { server?: HttpServer }
    if (server) server.keepAliveTimeout = KEPT_OPEN
  })
  for (const signal of ['SIGTERM', 'SIGINT'] as const) {
    process.once(signal, () => {
      setStopping()
      log.info({ signal }, 'stopping')
      // Whatever hangs: what it held is taken over when its lease ends.
      setTimeout(() => process.exit(1), STOP_AT_MOST).unref()
    })
  }
  nitro.hooks.hook('close', async () => {
    await stopQueue()
    const store = openStore()
    await store?.checkpoint()
    store?.close()
    log.info('stopped')
  })
})
