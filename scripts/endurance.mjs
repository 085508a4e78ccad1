// npm run endurance [-- ROUNDS]: two servers on one database, fifty clients who save, rename, upload and ask for
// deliveries all at once, another program that holds the database now and then, and servers that are killed or told to
// stop at random moments. After each round everything that was answered must be there. Needs a build; prints its
// figures, and exits with 1 where anything was lost.
import { spawn, spawnSync } from 'node:child_process'
import { createHash, randomBytes, randomUUID } from 'node:crypto'
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as wait } from 'node:timers/promises'
import { deflateSync, crc32 } from 'node:zlib'
import { ROOT } from './lib.mjs'

const rounds = Number(process.argv[2] ?? 20)
const CLIENTS = 50
const folder = mkdtempSync(join(tmpdir(), 'ubblet-endurance-'))
const database = join(folder, 'u.db')
const deliveries = join(folder, 'deliveries')
const problems = []
problems.push = text => {
  console.error(`${new Date().toISOString()} ${text}`)
  return Array.prototype.push.call(problems, text)
}
const figures = {
  answered: 0,
  refused: 0,
  cutOff: 0,
  killed: 0,
  stopped: 0,
  slowestStop: 0,
  deliveriesDone: 0,
  deliveriesFailed: 0,
}

const pick = list => list[Math.floor(Math.random() * list.length)]
const between = (a, b) => a + Math.random() * (b - a)
const sha256 = bytes => createHash('sha256').update(bytes).digest('hex')

const freePort = () =>
  new Promise(resolve => {
    const probe = createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address()
      probe.close(() => resolve(port))
    })
  })

// ---- Servers ----

/** All processes that were started: they end with this one, whatever ends it. */
const started = []
process.on('exit', () => started.forEach(p => p.kill('SIGKILL')))
process.once('SIGTERM', () => process.exit(1))

async function startServer(port) {
  const env = {
    ...process.env,
    HOST: '127.0.0.1',
    PORT: String(port),
    UBBLET_HOME: ROOT,
    UBBLET_DATABASE: `file:${database}`,
    UBBLET_DELIVERIES: deliveries,
    UBBLET_LOG_LEVEL: 'error',
    UBBLET_THREADS: '1',
  }
  const process_ = spawn(process.execPath, [join(ROOT, '.output/server/index.mjs')], {
    stdio: ['ignore', 'ignore', 'inherit'],
    env,
  })
  started.push(process_)
  const server = { process: process_, address: `http://127.0.0.1:${port}`, port, ending: false, gone: false }
  process_.once('exit', (code, signal) => {
    server.gone = true
    if (!server.ending) problems.push(`a server ended by itself (${code ?? signal})`)
  })
  for (let i = 0; i < 3000; i++) {
    if (
      await fetch(`${server.address}/api/health`).then(
        r => r.ok,
        () => false,
      )
    )
      return server
    await wait(20)
  }
  throw new Error('A server does not start.')
}

async function end(server, signal) {
  server.ending = true
  const from = Date.now()
  const code = await new Promise(resolve => {
    server.process.once('exit', resolve)
    server.process.kill(signal)
  })
  if (signal === 'SIGKILL') {
    figures.killed++
    return
  }
  figures.stopped++
  figures.slowestStop = Math.max(figures.slowestStop, Date.now() - from)
  if (code !== 0) problems.push(`a server that was told to stop ended with ${code}`)
  if (Date.now() - from > 10_000) problems.push(`a server took ${Date.now() - from} ms to stop`)
}

// ---- What is asked, and what was answered ----

/** Everything that was answered with success, by what it is. */
const known = {
  revisions: new Map(),
  names: new Map(),
  presets: new Map(),
  recipes: new Set(),
  pictures: new Map(),
  maps: new Map(),
  meshes: new Map(),
  deliveries: new Map(),
}
/** What was answered in this round: looked at after it. */
let fresh = []
const remember = (kind, key, value) => {
  known[kind].set ? known[kind].set(key, value) : known[kind].add(key)
  fresh.push([kind, key])
}

class CutOff extends Error {}

/** Asks a server. @returns the answer, or nothing where it was refused for a reason that may be */
async function ask(server, method, path, body, may = []) {
  let answer
  let text
  const binary = body instanceof Uint8Array
  try {
    answer = await fetch(server.address + path, {
      method,
      headers: { 'content-type': binary ? 'application/octet-stream' : 'application/json' },
      ...(body !== undefined && { body: binary ? body : JSON.stringify(body) }),
    })
    text = await answer.text()
  } catch {
    figures.cutOff++
    if (!server.ending) {
      await wait(300)
      if (!server.ending && !server.gone) problems.push(`${method} ${path}: cut off by a server that was not stopped`)
    }
    throw new CutOff()
  }
  if (answer.ok) {
    figures.answered++
    return text ? JSON.parse(text) : {}
  }
  if (server.ending && answer.status === 503) throw new CutOff()
  if (may.includes(answer.status)) {
    figures.refused++
    return undefined
  }
  problems.push(`${method} ${path}: ${answer.status} ${text.slice(0, 200)}`)
  return undefined
}

const look = name => ({
  ubblet: 'look',
  version: 1,
  name,
  nodes: [{ id: 'result', kind: 'result', at: [0, 0], params: {} }],
  wires: [],
})

/** A PNG of one row of random gray texels. */
function png() {
  const chunk = (type, data) => {
    const head = Buffer.alloc(8)
    head.writeUInt32BE(data.length)
    head.write(type, 4, 'latin1')
    const sum = Buffer.alloc(4)
    sum.writeUInt32BE(crc32(Buffer.concat([head.subarray(4), data])))
    return Buffer.concat([head, data, sum])
  }
  const header = Buffer.alloc(13)
  header.writeUInt32BE(16, 0)
  header.writeUInt32BE(1, 4)
  header.set([8, 0, 0, 0, 0], 8)
  const texels = Buffer.concat([Buffer.alloc(1), randomBytes(16)])
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    chunk('IHDR', header),
    chunk('IDAT', deflateSync(texels)),
    chunk('IEND', Buffer.alloc(0)),
  ])
}

const shared = []
const own = []
/** Bytes of a mesh, different each time: a comment at the end of an OBJ changes nothing in it. */
const mesh = () =>
  Buffer.from(`o Box\nv 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nf 1 2 3\nf 1 2 4\nf 1 3 4\nf 2 3 4\n# ${randomUUID()}\n`)

/** One thing that a client does; each with how often, beside the others. */
const DOINGS = [
  [
    8,
    async function save(server) {
      const project = pick(shared)
      const base = project.revision
      const name = randomUUID()
      const answer = await ask(server, 'PUT', `/api/projects/${project.id}/look`, { base, look: look(name) }, [409])
      if (!answer)
        project.revision = (await ask(server, 'GET', `/api/projects/${project.id}`))?.revision ?? project.revision
      else {
        project.revision = Math.max(project.revision, answer.revision)
        remember('revisions', `${project.id} ${answer.revision}`, name)
      }
    },
  ],
  [
    3,
    async function rename(server, client) {
      const { id } = own[client]
      const name = `Project ${randomUUID()}`
      // An answer that was cut off may have been carried out: then it is not known which name it has.
      known.names.delete(id)
      if (await ask(server, 'PATCH', `/api/projects/${id}`, { name })) remember('names', id, name)
    },
  ],
  [
    3,
    async function preset(server) {
      const name = randomUUID()
      if (await ask(server, 'PUT', '/api/presets', { name, settings: { size: 512 } })) remember('presets', name, true)
    },
  ],
  [
    2,
    async function recipe(server) {
      const title = randomUUID().slice(0, 20)
      const answer = await ask(server, 'POST', '/api/recipes', {
        recipe: {
          title,
          help: '',
          nodes: [{ id: 'a', kind: 'value', at: [0, 0], params: {} }],
          wires: [],
          inputs: [],
          settings: [],
          outputs: [{ name: 'out', title: 'Out', from: { node: 'a', port: 'value' } }],
        },
      })
      if (answer) remember('recipes', answer.id)
    },
  ],
  [
    3,
    async function picture(server, client) {
      const name = `${randomUUID()}.png`
      const answer = await ask(server, 'PUT', `/api/projects/${own[client].id}/pictures?name=${name}`, png())
      if (answer) remember('pictures', `${own[client].id} ${name}`, answer.hash)
    },
  ],
  [
    3,
    async function map(server) {
      const id = randomBytes(32).toString('hex')
      const count = Math.round(Math.random() < 0.02 ? 700_000 : between(10, 10_000))
      const bytes = Buffer.from(Float32Array.from({ length: count }, Math.random).buffer)
      if (await ask(server, 'PUT', `/api/maps/${id}`, bytes)) remember('maps', id, sha256(bytes))
    },
  ],
  [
    0.4,
    async function upload(server, client) {
      const { id } = own[client]
      known.meshes.delete(id)
      const bytes = mesh()
      const answer = await ask(server, 'PUT', `/api/projects/${id}/mesh?name=box.obj`, bytes, [409])
      if (answer) remember('meshes', id, sha256(bytes))
    },
  ],
  [
    0.15,
    async function delivery(server) {
      const project = pick(shared)
      const settings = { size: 512, meshes: [], maps: [], tables: ['csv'], seeds: [Math.floor(between(1, 1e6))] }
      const answer = await ask(server, 'POST', `/api/projects/${project.id}/deliveries`, {
        name: 'Endurance',
        revision: project.revision,
        settings,
      })
      if (answer) remember('deliveries', answer.id, project.id)
    },
  ],
]
const total = DOINGS.reduce((sum, [weight]) => sum + weight, 0)
function doing() {
  let at = Math.random() * total
  return DOINGS.find(([weight]) => (at -= weight) < 0)?.[1] ?? DOINGS[0][1]
}

/** Whether the clients are to end their round. */
let over = false
async function client(number, servers) {
  while (!over) {
    const up = servers.filter(s => !s.ending)
    if (!up.length) return
    try {
      await doing()(pick(up), number)
    } catch (error) {
      if (!(error instanceof CutOff)) throw error
    }
  }
}

// ---- Whether it is all there ----

const LOOKS = {
  async revisions(server, key) {
    const [id, number] = key.split(' ')
    const now = await ask(server, 'GET', `/api/projects/${id}?revision=${number}`)
    if (now?.look.name !== known.revisions.get(key))
      problems.push(`revision ${number} of ${id} was answered and is not there`)
  },
  async names(server, id) {
    const now = await ask(server, 'GET', `/api/projects/${id}`)
    if (known.names.has(id) && now?.name !== known.names.get(id)) problems.push(`project ${id} was renamed and is not`)
  },
  async maps(server, id) {
    const answer = await fetch(`${server.address}/api/maps/${id}`)
    if (sha256(Buffer.from(await answer.arrayBuffer())) !== known.maps.get(id))
      problems.push(`map ${id.slice(0, 12)} was answered and is not what it was (${answer.status})`)
  },
  async meshes(server, id) {
    const expected = known.meshes.get(id)
    const answer = await fetch(`${server.address}/api/projects/${id}/mesh`)
    if (expected && sha256(Buffer.from(await answer.arrayBuffer())) !== expected)
      problems.push(`the mesh of ${id} was answered and is not what it was`)
  },
  async pictures(server, key) {
    const [id, name] = key.split(' ')
    const list = await ask(server, 'GET', `/api/projects/${id}/pictures`)
    if (!list?.some(p => p.name === name && p.hash === known.pictures.get(key)))
      problems.push(`picture ${name} was answered and is not there`)
  },
  async presets(server, name, lists) {
    if (!lists.presets.has(name)) problems.push(`preset ${name} was answered and is not there`)
  },
  async recipes(server, id, lists) {
    if (!lists.recipes.has(id)) problems.push(`recipe ${id} was answered and is not there`)
  },
  async deliveries(server, id, lists) {
    if (!lists.deliveries.has(id)) problems.push(`delivery ${id} was answered and is not there`)
  },
}

async function listsOf(server) {
  const made = (await Promise.all(shared.map(p => ask(server, 'GET', `/api/projects/${p.id}/deliveries`)))).flat()
  return {
    presets: new Set((await ask(server, 'GET', '/api/presets')).map(p => p.name)),
    recipes: new Set((await ask(server, 'GET', '/api/recipes')).map(r => r.id)),
    deliveries: new Map(made.map(d => [d.id, d])),
  }
}

async function verify(server, entries) {
  const lists = await listsOf(server)
  const left = [...entries]
  await Promise.all(
    Array.from({ length: 8 }, async () => {
      for (let next = left.pop(); next; next = left.pop()) await LOOKS[next[0]](server, next[1], lists)
    }),
  )
  for (const d of lists.deliveries.values()) {
    if (d.state === 'done' && !existsSync(join(deliveries, d.id, 'manifest.json')))
      problems.push(`delivery ${d.id} is done and has no files`)
  }
}

/** Everything in the folder of a delivery must be what its manifest says. */
function verifyFolders() {
  for (const name of existsSync(deliveries) ? readdirSync(deliveries) : []) {
    if (name === 'cache' || name.includes('.part-')) continue
    const at = join(deliveries, name)
    if (!existsSync(join(at, 'manifest.json'))) {
      problems.push(`the folder of ${name} has no manifest`)
      continue
    }
    for (const f of JSON.parse(readFileSync(join(at, 'manifest.json'), 'utf8')).files) {
      if (!existsSync(join(at, f.path)) || sha256(readFileSync(join(at, f.path))) !== f.sha256)
        problems.push(`${f.path} of ${name} is not what its manifest says`)
    }
  }
}

/** Another program, which takes the database for itself now and then; and one that looks for damage. */
const SQLITE = `import { createRequire } from 'node:module'
const { createClient } = createRequire(${JSON.stringify(join(ROOT, 'package.json'))})('@libsql/client')
const client = createClient({ url: ${JSON.stringify(`file:${database}`)}, concurrency: 1, timeout: 2000 })
const wait = ms => new Promise(done => setTimeout(done, ms))
`
const HOLDER = `${SQLITE}for (;;) {
  await wait(100 + Math.random() * 700)
  try {
    const held = await client.transaction('write')
    await wait(Math.random() < 0.1 ? 1500 : Math.random() * 300)
    await held.rollback()
  }
  catch { /* Somebody else has it. */ }
}`
const CHECKER = `${SQLITE}const { rows } = await client.execute('PRAGMA integrity_check')
console.log(rows.map(r => r.integrity_check).join('; '))`
const script = (text, options) => [process.execPath, ['--input-type=module', '-e', text], options]

function checkIntegrity(round) {
  const done = spawnSync(...script(CHECKER, { encoding: 'utf8' }))
  if (done.stdout.trim() !== 'ok')
    problems.push(`round ${round}: integrity_check says ${done.stdout.trim() || done.stderr.slice(0, 300)}`)
}

// ---- The rounds ----

const ports = [await freePort(), await freePort()]
// Two servers that start on a new file at the same moment both come up.
let servers = await Promise.all(ports.map(startServer))
const make = async name => {
  const { id } = await ask(servers[0], 'POST', '/api/projects', { name })
  await ask(servers[0], 'PUT', `/api/projects/${id}/mesh?name=box.obj`, mesh())
  return { id, revision: 1 }
}
for (let i = 0; i < 6; i++) shared.push(await make(`Shared ${i}`))
for (let i = 0; i < CLIENTS; i++)
  own.push({ id: (await ask(servers[0], 'POST', '/api/projects', { name: `Own ${i}` })).id })

const from = Date.now()
for (let round = 1; round <= rounds; round++) {
  fresh = []
  const holder = spawn(...script(HOLDER, { stdio: 'ignore' }))
  started.push(holder)
  const until = Date.now() + between(300, 1500)
  over = false
  const working = Array.from({ length: CLIENTS }, (_, i) => client(i, servers))
  await wait(until - Date.now())
  // One server, while the clients go on with the other for a moment; or both.
  const ended = Math.random() < 0.65 ? [pick(servers)] : servers
  await Promise.all(
    ended.map(async server => {
      await wait(between(0, 50))
      await end(server, Math.random() < 0.5 ? 'SIGKILL' : 'SIGTERM')
    }),
  )
  over = true
  await Promise.all(working)
  holder.kill('SIGKILL')
  if (round % 5 === 0 || round === rounds) checkIntegrity(round)
  servers = await Promise.all(servers.map(s => (s.gone ? startServer(s.port) : s)))
  const before = ['revisions', 'maps', 'presets']
    .map(kind => [kind, pick([...known[kind].keys()])])
    .filter(([, key]) => key)
  await verify(pick(servers), [...fresh, ...before])
  if (problems.length > 20) break
  if (round % 50 === 0) console.error(`${round} rounds, ${figures.answered} answers, ${problems.length} problems`)
}

// Back for good: every delivery ends, and all of everything is there.
for (const limit = Date.now() + 600_000; Date.now() < limit;) {
  const open = [...(await listsOf(servers[0])).deliveries.values()].filter(
    d => d.state === 'waiting' || d.state === 'running',
  )
  if (!open.length) break
  await wait(500)
}
for (const d of (await listsOf(servers[0])).deliveries.values()) {
  if (d.state === 'done') figures.deliveriesDone++
  else if (d.state === 'failed' && /went away 3 times/.test(d.message ?? '')) figures.deliveriesFailed++
  else problems.push(`delivery ${d.id} ended as ${d.state}: ${d.message}`)
}
await verify(
  servers[0],
  Object.entries(known).flatMap(([kind, all]) => [...all.keys()].map(key => [kind, key])),
)
verifyFolders()
await Promise.all(servers.map(s => end(s, 'SIGTERM')))
checkIntegrity('last')
rmSync(folder, { recursive: true, force: true })
console.log(
  [
    `${rounds} rounds in ${Math.round((Date.now() - from) / 1000)} s: ${figures.answered} answers, ${figures.refused} stale saves refused, ${figures.cutOff} requests cut off`,
    `servers killed ${figures.killed} times, stopped ${figures.stopped} times (slowest ${figures.slowestStop} ms)`,
    `deliveries: ${figures.deliveriesDone} done, ${figures.deliveriesFailed} given up after three kills`,
    `${problems.length} problems`,
  ].join('\n'),
)
for (const p of problems.slice(0, 20)) console.log(`  ${p}`)
process.exit(problems.length ? 1 : 0)
