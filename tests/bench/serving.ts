import { spawn } from 'node:child_process'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { Agent, request } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { endAll, Server } from '../builtServer'

const MEGABYTE = 2 ** 20
/** How long each round lasts, in milliseconds, how many there are, and how many requests are under way at once. */
const ROUND = 4000
const ROUNDS = 3
const AT_ONCE = 8

/** The bare server of the comparison, a process of its own: one file, streamed, and nothing else. */
const BARE = `import { createReadStream, statSync } from 'node:fs'
import { createServer } from 'node:http'
const path = process.argv[1]
const server = createServer((_, answer) => {
  answer.writeHead(200, { 'content-type': 'application/octet-stream', 'content-length': statSync(path).size })
  createReadStream(path, { highWaterMark: 2 ** 20 }).pipe(answer)
}).listen(0, '127.0.0.1', () => console.log(server.address().port))`

/** GETs of one address from one thread for a while. @returns how many were answered in a second */
async function getsPerSecond(address: string, ms: number): Promise<number> {
  const agent = new Agent({ keepAlive: true, maxSockets: AT_ONCE })
  const once = (): Promise<number> =>
    new Promise((resolve, reject) => {
      request(address, { agent }, answer => {
        let bytes = 0
        answer.on('data', (piece: Buffer) => {
          bytes += piece.length
        })
        answer.on('end', () => resolve(bytes))
      })
        .on('error', reject)
        .end()
    })
  const from = performance.now()
  let answered = 0
  await Promise.all(
    Array.from({ length: AT_ONCE }, async () => {
      while (performance.now() - from < ms) {
        if ((await once()) !== MEGABYTE) throw new Error('An answer was not whole.')
        answered++
      }
    }),
  )
  agent.destroy()
  return (answered / (performance.now() - from)) * 1000
}

const at = (list: number[], share: number): number =>
  [...list].sort((a, b) => a - b)[Math.min(list.length - 1, Math.floor(list.length * share))]!
const rounded = (x: number): number => Number(x.toPrecision(3))

/** Saves one after the other for a while, in a process of its own, and prints how long each took in milliseconds. */
const SAVES = `const [address, ms] = process.argv.slice(1)
const ask = (method, path, body) => fetch(address + path, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }).then(a => a.json())
const { id } = await ask('POST', '/api/projects', { name: 'Saves' })
const look = { ubblet: 'look', version: 1, name: 'a', nodes: [{ id: 'result', kind: 'result', at: [0, 0], params: {} }], wires: [] }
const times = []
for (let revision = 1, from = performance.now(); performance.now() - from < Number(ms);) {
  const before = performance.now()
  revision = (await ask('PUT', '/api/projects/' + id + '/look', { base: revision, look })).revision
  times.push(performance.now() - before)
  await new Promise(done => setTimeout(done, 20))
}
console.log(JSON.stringify(times))`
async function saves(address: string, ms: number): Promise<number[]> {
  const child = spawn(process.execPath, ['--input-type=module', '-e', SAVES, address, String(ms)], {
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  let text = ''
  child.stdout.on('data', (piece: Buffer) => {
    text += piece.toString()
  })
  await new Promise(resolve => {
    child.once('close', resolve)
  })
  return JSON.parse(text) as number[]
}

/**
 * A file of the database of one MiB, asked for again and again by one client, beside a bare server that streams the
 * same bytes from a file; and saves meanwhile.
 */
export async function serving(): Promise<object> {
  const server = await Server.start({ UBBLET_LOG_LEVEL: 'error' })
  const bytes = Buffer.alloc(MEGABYTE, 'ubblet')
  const id = 'c'.repeat(64)
  await server.ask('PUT', `/api/maps/${id}`, bytes)
  const path = join(mkdtempSync(join(tmpdir(), 'ubblet-bench-')), 'a.bin')
  writeFileSync(path, bytes)
  const bare = spawn(process.execPath, ['--input-type=module', '-e', BARE, path], {
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  const port = await new Promise<number>(resolve => {
    bare.stdout.once('data', (text: Buffer) => resolve(Number(text.toString())))
  })
  const ours: number[] = []
  const theirs: number[] = []
  const withSaves: number[] = []
  const waits: number[] = []
  for (let i = 0; i < ROUNDS; i++) {
    theirs.push(await getsPerSecond(`http://127.0.0.1:${port}/`, ROUND))
    ours.push(await getsPerSecond(`${server.address}/api/maps/${id}`, ROUND))
    const [meanwhile, took] = await Promise.all([
      getsPerSecond(`${server.address}/api/maps/${id}`, ROUND),
      saves(server.address, ROUND),
    ])
    withSaves.push(meanwhile)
    waits.push(...took)
  }
  bare.kill()
  await endAll()
  return {
    getsPerSecond: rounded(at(ours, 0.5)),
    bareServer: rounded(at(theirs, 0.5)),
    times: rounded(at(ours, 0.5) / at(theirs, 0.5)),
    getsPerSecondWithSaves: rounded(at(withSaves, 0.5)),
    saveMedianMs: rounded(at(waits, 0.5)),
    saveP99Ms: rounded(at(waits, 0.99)),
    saves: waits.length,
  }
}
