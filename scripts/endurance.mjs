// node scripts/endurance.mjs [TIMES]: kills the server in the middle of deliveries, again and again, and looks each time
// whether anything is broken or lost. Needs a build.
import { spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as wait } from 'node:timers/promises'
import { isDeepStrictEqual } from 'node:util'
import { ROOT } from './lib.mjs'

const times = Number(process.argv[2] ?? 100), folder = mkdtempSync(join(tmpdir(), 'ubblet-endurance-')), deliveries = join(folder, 'deliveries')
const port = await new Promise((resolve) => {
  const probe = createServer().listen(0, '127.0.0.1', () => {
    const { port } = probe.address()
    probe.close(() => resolve(port))
  })
})
const address = `http://127.0.0.1:${port}`, problems = []
const call = async (path, method = 'GET', body) => {
  const answer = await fetch(address + path, { method, headers: { 'content-type': 'application/json' }, ...(body && { body: JSON.stringify(body) }) })
  if (!answer.ok) throw new Error(`${method} ${path}: ${answer.status} ${await answer.text()}`)
  return answer.json()
}
async function start() {
  const server = spawn(process.execPath, [join(ROOT, '.output/server/index.mjs')], { stdio: ['ignore', 'ignore', 'ignore'], env: { ...process.env, HOST: '127.0.0.1', PORT: String(port), UBBLET_HOME: ROOT, UBBLET_DATABASE: `file:${join(folder, 'u.db')}`, UBBLET_DELIVERIES: deliveries } })
  for (let i = 0; i < 400; i++) {
    if (await fetch(`${address}/api/projects`).then(r => r.ok, () => false)) return server
    await wait(25)
  }
  throw new Error('The server does not start.')
}
const kill = server => new Promise((resolve) => {
  server.once('exit', resolve)
  server.kill('SIGKILL')
})
const sha256 = path => createHash('sha256').update(readFileSync(path)).digest('hex')

/** Everything that lies in the folder of a delivery must be what its manifest says, and a delivery that is done must be there. */
async function look(project, saved, round) {
  const now = await call(`/api/projects/${project}`)
  if (!isDeepStrictEqual(now.look, saved)) problems.push(`round ${round}: the look is not the last one whose save was answered`)
  const list = await call(`/api/projects/${project}/deliveries`)
  for (const d of list.filter(d => d.state === 'done')) if (!existsSync(join(deliveries, d.id, 'manifest.json'))) problems.push(`round ${round}: delivery ${d.id} is done and has no files`)
  for (const name of existsSync(deliveries) ? readdirSync(deliveries) : []) {
    if (name === 'cache' || name.includes('.part-')) continue
    const at = join(deliveries, name)
    if (!existsSync(join(at, 'manifest.json'))) {
      problems.push(`round ${round}: the folder of ${name} has no manifest`)
      continue
    }
    const { files } = JSON.parse(readFileSync(join(at, 'manifest.json'), 'utf8'))
    for (const f of files) if (!existsSync(join(at, f.path)) || sha256(join(at, f.path)) !== f.sha256) problems.push(`round ${round}: ${f.path} of ${name} is not what the manifest says`)
  }
  for (const name of existsSync(join(deliveries, 'cache')) ? readdirSync(join(deliveries, 'cache')) : []) {
    // A picture in the cache is whole: its last twelve bytes are the end of a PNG.
    if (name.endsWith('.png') && !readFileSync(join(deliveries, 'cache', name)).subarray(-12).equals(Buffer.from('0000000049454e44ae426082', 'hex'))) problems.push(`round ${round}: ${name} in the cache is cut off`)
  }
  return list
}

let server = await start()
const { id } = await call('/api/demo', 'POST', {}), first = await call(`/api/projects/${id}`)
let saved = first.look, revision = first.revision
for (let round = 1; round <= times; round++) {
  if (round > 1) {
    server = await start()
    await look(id, saved, round)
  }
  const next = { ...saved, name: `Round ${round}` }
  revision = (await call(`/api/projects/${id}`)).revision
  revision = (await call(`/api/projects/${id}/look`, 'PUT', { base: revision, look: next })).revision
  saved = next
  await call(`/api/projects/${id}/deliveries`, 'POST', { name: next.name, revision, settings: { size: 512, seeds: [round], maps: ['roughness'], tables: ['csv'] } })
  // From the first moments of the work to some time after its end.
  await wait(20 + (round * 977) % 2600)
  await kill(server)
}
// Back for good: everything that waits is made, or said to have failed.
server = await start()
let list
do {
  await wait(250)
  list = await call(`/api/projects/${id}/deliveries`)
} while (list.some(d => d.state === 'waiting' || d.state === 'running'))
await look(id, saved, times + 1)
const count = state => list.filter(d => d.state === state).length
for (const d of list.filter(d => d.state === 'failed')) if (!d.message) problems.push(`delivery ${d.id} failed without a word`)
if (list.length !== times) problems.push(`${times} deliveries were asked for, ${list.length} are listed`)
await kill(server)
rmSync(folder, { recursive: true, force: true })
console.log(`killed ${times} times: ${count('done')} deliveries done, ${count('failed')} reported as failed, ${problems.length} problems`)
for (const p of problems.slice(0, 20)) console.log(`  ${p}`)
process.exit(problems.length ? 1 : 0)
