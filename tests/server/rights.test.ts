import { execFileSync, spawnSync } from 'node:child_process'
import { request } from 'node:http'
import { readdirSync, readFileSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { zipSync } from 'fflate'
import { describe, expect, test } from 'vitest'
import { exrFile, hdrFile, lampIn } from '../lightFiles'
import { PICTURE_TYPES, type PictureType } from '../../node/store/pictureTypes'
import { ROLES, type Role } from '../../node/store/schema'
import { atLeast, declarationIn, type Declaration } from '../../server/rights/declare'
import { another, glb, named, newFolder, project, Server, until, type Answer, type Delivery } from './support'

const PASSWORD = 'a long password'
const message = ({ json }: Answer): string => (json as { message: string }).message
const people = (folder: string, ...args: string[]) =>
  execFileSync('./bin/ubblet', ['user', ...args], {
    input: `${PASSWORD}\n`,
    encoding: 'utf8',
    stdio: 'pipe',
    env: { ...process.env, UBBLET_DATABASE: `file:${folder}/u.db` },
  })
type Head = Record<string, string>
const cookiesOf = (answer: Answer): string =>
  answer.headers
    .getSetCookie()
    .map(c => c.split(';')[0]!)
    .join('; ')
async function signedIn(server: Server, name: string, password = PASSWORD, head: Head = {}): Promise<Head> {
  const answer = await server.ask('POST', '/api/session', { name, password }, head)
  expect([name, answer.status]).toEqual([name, 200])
  return { cookie: cookiesOf(answer) }
}

/** A server with one person of each role, who are signed in. */
async function staffed(): Promise<{ server: Server; as: Record<Role | 'nobody', Head> }> {
  const folder = newFolder()
  for (const role of ROLES) people(folder, 'add', `The ${role}`, '--role', role)
  const server = await Server.start({ HOST: '0.0.0.0' }, folder)
  const heads = await Promise.all(ROLES.map(async role => [role, await signedIn(server, `The ${role}`)] as const))
  return { server, as: { ...(Object.fromEntries(heads) as Record<Role, Head>), nobody: {} } }
}

/** Sends a request whose path is spelled as it is given: `fetch` would mend it. */
function asked(server: Server, method: string, path: string, head: Head): Promise<number> {
  return new Promise((resolve, reject) => {
    const { hostname, port } = new URL(server.address)
    const headers = { connection: 'close', ...head, 'content-length': '0' }
    request({ hostname, port, path, method, headers }, answer => {
      answer.resume()
      answer.on('end', () => resolve(answer.statusCode!))
    })
      .on('error', reject)
      .end()
  })
}

interface Listed {
  path: string
  method: string
  declared: Declaration
}
/** Every route, from the folder that they lie in, with the ids of a project in their paths. */
const routesFor = (id: string): Listed[] =>
  readdirSync('server/api', { recursive: true, encoding: 'utf8' })
    .filter(file => file.endsWith('.ts'))
    .map(file => {
      const declared = declarationIn(file, readFileSync(join('server/api', file), 'utf8'))
      const [, address, method] = /^(.*?)\.(\w+)\.ts$/.exec(file)!
      const path = `/api/${address!.replace(/(^|\/)index$/, '')}`
        .replace(/\/$/, '')
        .replace('projects/[id]', `projects/${id}`)
        .replace(/\[\.{3}\w+\]/, 'manifest.json')
        .replace(/\[\w+\]/g, '1')
      return { path, method: method!.toUpperCase(), declared }
    })

/** What must come of a request without a body, as far as rights decide it: a refusal's status, or none of these. */
function mustBe({ declared }: Listed, role: Role | 'nobody', locked: boolean): number | undefined {
  if (declared.may === 'everybody') return undefined
  if (role === 'nobody') return 401
  if (!atLeast(role, declared.may)) return 403
  return locked && declared.lock === 'holds' ? 423 : undefined
}
const REFUSED = [401, 403, 423]

describe('rights', () => {
  test('every route answers each role as it declares, on a locked project too, whatever its query', async () => {
    const { server, as } = await staffed()
    const [open, shut] = [await project(server, 1, as.work), await project(server, 1, as.work)]
    await server.ask('PUT', `/api/projects/${shut.id}/lock`, { locked: true }, as.manage)
    const wrong: unknown[] = []
    // The manager comes last, because a manager's requests delete what the others ask for.
    for (const role of ['nobody', 'look', 'work', 'manage'] as const)
      for (const { id, locked } of [
        { id: shut.id, locked: true },
        { id: open.id, locked: false },
      ])
        for (const route of routesFor(id)) {
          const isLast = route.method === 'DELETE' && route.path === `/api/projects/${id}`
          if (route.path === '/api/session' || (isLast && role !== 'nobody' && role !== 'look' && !locked)) continue
          // Changing somebody, and what is for whoever manages among several, is looked at below.
          if (/^\/api\/(users\/|store\/tidy)/.test(route.path) && role !== 'nobody') continue
          for (const query of ['', '?x/presence', '?/api/health']) {
            const status = await asked(server, route.method, route.path + query, as[role])
            const must = mustBe(route, role, locked)
            const isWrong = must === undefined ? REFUSED.includes(status) || status >= 500 : status !== must
            if (isWrong && route.path !== '/api/health')
              wrong.push({ ...route, declared: undefined, role, locked, query, status, must })
          }
        }
    expect(wrong).toEqual([])
    for (const { id } of [open, shut]) {
      const now = await server.ask<{ name: string; removed: null }>('GET', `/api/projects/${id}`, undefined, as.look)
      expect(now.json).toMatchObject({ name: '1 boxes', removed: null, revision: expect.any(Number) })
    }
  }, 120_000)

  test('an address that is spelled in another way changes nothing, and is logged and counted', async () => {
    const { server, as } = await staffed()
    const { id } = await project(server, 1, as.work)
    const spellings = [
      `/%61pi/projects/${id}`,
      `//api/projects/${id}`,
      `/api//projects/${id}`,
      `/x/../api/projects/${id}`,
      `/API/projects/${id}`,
      `/%2561pi/projects/${id}`,
      `/\\api/projects/${id}`,
      `/api/projects/${id}/?x/presence`,
      `/api/projects/${id}%3Fx/presence`,
      `/api/projects/${id}/../${id}?x/presence`,
      `/api/%70rojects/${id}`,
    ]
    const seen: unknown[] = []
    for (const path of spellings)
      for (const method of ['DELETE', 'PATCH', 'PUT', 'POST', 'QUERY', 'PROPFIND'])
        for (const role of ['nobody', 'look'] as const) {
          const status = await asked(server, method, path, as[role])
          if (status < 400 || status >= 500) seen.push([method, path, role, status])
        }
    expect(seen).toEqual([])
    expect((await server.ask('GET', `/api/projects/${id}`, undefined, as.look)).status).toBe(200)
    for (const [i, path] of spellings.entries()) {
      const known = `spelling-${i}`
      await asked(server, 'DELETE', path, { 'x-request-id': known })
      await until(`a line of ${path}`, async () => server.log.some(line => line.includes(known)), 5000)
    }
    const metrics = (await server.ask('GET', '/api/metrics', undefined, as.look)).bytes.toString()
    expect(metrics).toMatch(/ubblet_request_seconds_count\{method="DELETE",route="other",status="404"\} \d+/)
  }, 60_000)

  test('a project is open to all, or to who is named, with a role of its own; to others it is not there', async () => {
    const { server, as } = await staffed()
    const made = await project(server, 1, as.work)
    const at = `/api/projects/${made.id}`
    const open = (body: object, head: Head) => server.ask('PUT', `${at}/access`, body, head)
    const named = { access: 'named', grants: [{ kind: 'user', name: 'The look', role: 'work' }] }
    expect((await open(named, as.look)).status).toBe(403)
    expect((await open({ ...named, grants: [{ kind: 'user', name: 'X', role: 'work' }] }, as.work)).status).toBe(422)
    expect((await open(named, as.work)).status).toBe(200)
    // Named, somebody may here what is not theirs elsewhere.
    expect((await server.ask('PATCH', at, { name: 'Buoy' }, as.look)).status).toBe(200)
    expect((await server.ask('POST', `${at}/duplicate`, {}, as.look)).status).toBe(403)
    expect((await server.ask('POST', '/api/projects', { name: 'x' }, as.look)).status).toBe(403)
    const token = (await server.ask<{ token: string }>('POST', '/api/tokens', { title: 'x' }, as.look)).json.token
    const bearer = { authorization: `Bearer ${token}` }
    expect((await server.ask('PATCH', at, { name: 'Mine' }, bearer)).status).toBe(403)
    const copy = (await server.ask<{ id: string }>('POST', `${at}/duplicate`, {}, as.work)).json
    expect((await open({ access: 'named', grants: [] }, as.manage)).status).toBe(200)
    for (const [method, path, body] of [
      ['GET', at, undefined],
      ['GET', `${at}/mesh`, undefined],
      ['GET', `${at}/trail`, undefined],
      ['PATCH', at, { name: 'Mine' }],
    ] as const)
      expect([path, (await server.ask(method, path, body, as.look)).status]).toEqual([path, 404])
    const listed = async (head: Head) =>
      (await server.ask<{ id: string; role: string }[]>('GET', '/api/projects', undefined, head)).json
    expect((await listed(as.look)).map(p => p.id)).toEqual([copy.id])
    expect((await listed(as.work)).map(p => p.role)).toEqual(['work', 'work'])
  }, 60_000)

  test('a token does what its scope says, changes no password, makes no token, and ends', async () => {
    const { server, as } = await staffed()
    interface Made {
      id: string
      token: string
      ends: number
    }
    const make = async (head: Head, body: object) =>
      (await server.ask<Made>('POST', '/api/tokens', { title: 'farm', ...body }, head)).json
    const [looks, works] = [await make(as.manage, { scope: 'look' }), await make(as.work, { scope: 'work', days: 7 })]
    expect(works.ends - Date.now()).toBeGreaterThan(6.9 * 86_400_000)
    expect(works.ends - Date.now()).toBeLessThan(7.1 * 86_400_000)
    const look: Head = { authorization: `Bearer ${looks.token}` }
    const work: Head = { authorization: `Bearer ${works.token}` }
    expect((await server.ask('GET', '/api/projects', undefined, look)).status).toBe(200)
    // Its user may manage; the token may look.
    expect((await server.ask('POST', '/api/projects', { name: 'x' }, look)).status).toBe(403)
    expect((await server.ask('POST', '/api/projects', { name: 'x' }, work)).status).toBe(200)
    for (const [method, path, body] of [
      ['POST', '/api/tokens', { title: 'more' }],
      ['GET', '/api/tokens', undefined],
      ['PATCH', '/api/users/The%20work', { password: 'quite another password', before: PASSWORD }],
    ] as const) {
      const refused = await server.ask(method, path, body, work)
      expect([path, refused.status, message(refused)]).toEqual([path, 403, expect.stringContaining('A token may not')])
    }
    interface Token {
      id: string
      user: string
      used: number | null
    }
    expect((await server.ask('GET', '/api/tokens?all', undefined, as.work)).status).toBe(403)
    const all = (await server.ask<Token[]>('GET', '/api/tokens?all', undefined, as.manage)).json
    expect(all.map(t => [t.user, t.used !== null])).toEqual([
      ['The manage', true],
      ['The work', true],
    ])
    // Nobody ends another's token but who manages.
    expect((await server.ask('DELETE', `/api/tokens/${works.id}`, undefined, as.look)).status).toBe(404)
    expect((await server.ask('DELETE', `/api/tokens/${works.id}`, undefined, as.manage)).status).toBe(200)
    expect((await server.ask('GET', '/api/projects', undefined, work)).status).toBe(401)
  }, 60_000)

  test('signing out ends the session on the server; a new password ends sessions and tokens', async () => {
    const { server, as } = await staffed()
    const second = await signedIn(server, 'The work')
    expect((await server.ask('DELETE', '/api/session', undefined, second)).status).toBe(200)
    expect((await server.ask('GET', '/api/projects', undefined, second)).status).toBe(401)
    expect((await server.ask('GET', '/api/projects', undefined, as.work)).status).toBe(200)
    const { token } = (await server.ask<{ token: string }>('POST', '/api/tokens', { title: 'x' }, as.work)).json
    const change = (body: object) => server.ask('PATCH', '/api/users/The%20work', body, as.work)
    const guessed = await change({ password: 'a quiet harbor at noon', before: 'not this one' })
    expect([guessed.status, message(guessed)]).toEqual([403, 'Your password until now is not right.'])
    for (const weak of ['aaaaaaaaaa', 'theworkthework', 'password123']) {
      const refused = await change({ password: weak, before: PASSWORD })
      expect([weak, refused.status]).toEqual([weak, 422])
    }
    expect((await change({ password: 'a quiet harbor at noon', before: PASSWORD })).status).toBe(200)
    expect((await server.ask('GET', '/api/projects', undefined, as.work)).status).toBe(401)
    const bearer = { authorization: `Bearer ${token}` }
    expect((await server.ask('GET', '/api/projects', undefined, bearer)).status).toBe(401)
  }, 60_000)

  test('many right passwords from one address are let in; a stranger keeps nobody out who was here before', async () => {
    const folder = newFolder()
    people(folder, 'add', 'Mara', '--role', 'manage')
    let server = await Server.start({ HOST: '0.0.0.0' }, folder)
    for (let i = 0; i < 45; i++) await signedIn(server, 'Mara')
    const known = await signedIn(server, 'Mara')
    const wrong = () => server.ask('POST', '/api/session', { name: 'mara', password: 'wrong password' })
    const statuses: number[] = []
    for (let i = 0; i < 10; i++) statuses.push((await wrong()).status)
    expect(statuses).toEqual([...Array<number>(8).fill(401), 429, 429])
    // A restart clears nothing.
    await server.stop()
    server = await Server.start({ HOST: '0.0.0.0' }, folder)
    expect((await server.ask('POST', '/api/session', { name: 'Mara', password: PASSWORD })).status).toBe(429)
    await signedIn(server, 'Mara', PASSWORD, known)
  }, 60_000)

  test('the trail tells who did what, to those of the project and to who manages, as lines of JSON too', async () => {
    const { server, as } = await staffed()
    const { id } = await project(server, 1, as.work)
    await server.ask('PATCH', `/api/projects/${id}`, { name: 'Buoy' }, as.work)
    await server.ask('PATCH', `/api/projects/${id}`, { name: 'Mine' }, as.look)
    await server.ask('PUT', `/api/projects/${id}/lock`, { locked: true }, as.manage)
    interface Entry {
      who: string
      did: string
      detail: string | null
    }
    const own = (await server.ask<Entry[]>('GET', `/api/projects/${id}/trail`, undefined, as.look)).json
    expect(own.map(e => [e.who, e.did, e.detail])).toEqual([
      ['The manage', 'locked the project', null],
      ['The work', 'renamed the project', '1 boxes → Buoy'],
      ['The work', 'put a mesh', null],
      ['The work', 'made a project', null],
    ])
    expect((await server.ask('GET', '/api/trail', undefined, as.work)).status).toBe(403)
    const lines = (await server.ask('GET', '/api/trail?lines', undefined, as.manage)).bytes
      .toString()
      .trim()
      .split('\n')
    const all = lines.map(l => JSON.parse(l) as Entry & { at: string; projectName: string | null })
    expect(all[0]).toMatchObject({ who: 'The manage', did: 'locked the project', projectName: 'Buoy' })
    const signedInNow = all.filter(e => e.did === 'signed in').map(e => e.who)
    expect(signedInNow.sort()).toEqual(['The look', 'The manage', 'The work'])
  }, 60_000)
})

describe('what was approved', () => {
  test('a lock holds: thumbnails, names of revisions, decodings and deliveries stay, and delivering adds no revision', async () => {
    const server = await Server.start()
    const { id } = await project(server)
    const at = `/api/projects/${id}`
    await server.ask('PUT', `${at}/look`, { base: 1, look: named('Second') })
    const { id: look } = (await server.get<{ looks: { id: string }[] }>(at)).looks[0]!
    const settings = { size: 256, meshes: [], tables: ['csv'] }
    const deliver = (body: object) => server.ask<Delivery>('POST', `${at}/deliveries`, { name: 'x', settings, ...body })
    const first = (await deliver({ look })).json
    await until('the delivery', async () => {
      const [delivery] = await server.get<Delivery[]>(`${at}/deliveries`)
      return delivery!.state === 'done'
    })
    // Now what the look is, is not in its last save: another mesh lies under it.
    const other = await server.ask<{ id: string }>('POST', `${at}/looks`, { name: 'Other' })
    const { revision } = await server.get<{ revision: number }>(at)
    await server.ask('PUT', `${at}/mesh?name=b.glb&look=${other.json.id}`, await glb(3))
    await server.ask('PUT', `${at}/lock`, { locked: true })
    const before = await server.get<unknown[]>(`${at}/revisions`)
    const png = Buffer.from(
      'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
      'base64',
    )
    for (const [method, path, body] of [
      ['PUT', '/thumbnail', png],
      ['PATCH', '/revisions/1', { name: 'Mine' }],
      ['PUT', `/pictures/${'a'.repeat(64)}/decoded`, png],
      ['DELETE', `/deliveries/${first.id}`, undefined],
      ['PUT', '/lights?name=a.hdr', Buffer.from(hdrFile(lampIn(2, 2, [0, 0, [1, 1, 1]])))],
    ] as const)
      expect([path, (await server.ask(method, at + path, body)).status]).toEqual([path, 423])
    const refused = await deliver({ look })
    expect([refused.status, message(refused as Answer)]).toEqual([423, expect.stringContaining('would add a revision')])
    expect((await deliver({ revision: 1 })).status).toBe(200)
    expect(await server.get<unknown[]>(`${at}/revisions`)).toEqual(before)
    expect(revision).toBeGreaterThan(1)
  }, 60_000)

  test('a geometry map and a decoded picture are never replaced, and a map has finite numbers', async () => {
    const server = await Server.start()
    const key = 'c'.repeat(64)
    const put = (...values: number[]) =>
      server.ask('PUT', `/api/maps/${key}`, Buffer.from(Float32Array.from(values).buffer))
    const broken = await put(1, NaN, 2)
    expect([broken.status, message(broken)]).toEqual([422, 'A geometry map has finite numbers only.'])
    expect((await put(1, 2, 3)).status).toBe(200)
    expect((await put(0, 0, 0)).status).toBe(200)
    const kept = (await server.ask('GET', `/api/maps/${key}`)).bytes
    expect([...new Float32Array(new Uint8Array(kept).buffer)]).toEqual([1, 2, 3])
  })

  test('every kind of picture that a project may hold goes out in its file and comes back, in order', async () => {
    const jpeg = Buffer.alloc(32)
    jpeg.set([0xff, 0xd8, 0xff, 0xc0, 0, 17, 8, 0, 2, 0, 3])
    const webp = Buffer.alloc(32)
    webp.write('RIFF', 0, 'latin1')
    webp.write('WEBPVP8X', 8, 'latin1')
    const png = Buffer.alloc(32)
    png.set([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a])
    png.writeUInt32BE(3, 16)
    png.writeUInt32BE(2, 20)
    const files: Record<PictureType, Buffer> = {
      'image/png': png,
      'image/jpeg': jpeg,
      'image/webp': webp,
      'image/x-exr': Buffer.from(exrFile(lampIn(3, 2, [0, 0, [4, 2, 1]]))),
    }
    const server = await Server.start()
    const { id } = await project(server)
    for (const type of PICTURE_TYPES) {
      const name = `${type.split('/')[1]}.file`
      const put = await server.ask('PUT', `/api/projects/${id}/pictures?name=${name}`, files[type])
      expect([type, put.status]).toEqual([type, 200])
    }
    const file = await server.ask('GET', `/api/projects/${id}/file`)
    const arrived = await server.ask<{ id: string }>('POST', '/api/projects/file', file.bytes)
    expect(arrived.status).toBe(200)
    interface Kept {
      name: string
      hash: string
    }
    const listed = (of: string) => server.get<Kept[]>(`/api/projects/${of}/pictures`)
    const there = await listed(arrived.json.id)
    expect(there).toEqual(await listed(id))
    for (const [i, type] of PICTURE_TYPES.entries()) {
      const back = await server.ask('GET', `/api/projects/${arrived.json.id}/pictures/${there[i]!.hash}`)
      expect([type, back.headers.get('content-type')]).toEqual([type, type])
      expect(back.bytes.equals(files[type])).toBe(true)
    }
    // Restored, they stand as they stood.
    await server.ask('PUT', `/api/projects/${id}/look`, { base: 1, look: named('Second') })
    expect((await server.ask('POST', `/api/projects/${id}/revisions/1/restore`, { base: 2 })).status).toBe(200)
    expect((await listed(id)).map(p => p.name)).toEqual(there.map(p => p.name))
  }, 60_000)
})

describe('nobody stops the others', () => {
  /** The longest that somebody else waits for an answer while `work` is under way, in milliseconds. */
  async function longestWait(server: Server, work: Promise<unknown>): Promise<number> {
    let isDone = false
    void work.finally(() => {
      isDone = true
    })
    let longest = 0
    while (!isDone) {
      const from = performance.now()
      await server.ask('GET', '/api/health')
      longest = Math.max(longest, performance.now() - from)
    }
    return longest
  }

  test('project files that unpack to much, or nest without end, are refused beside the server', async () => {
    const server = await Server.start({ UBBLET_MAX_PROJECT_MEGABYTES: '400' })
    const deep = Buffer.alloc(64 * 2 ** 20, '[')
    const files: [string, Uint8Array, string][] = [
      ['nested', zipSync({ 'project.json': deep }), 'nests deeper than 200 levels'],
      ['zeros', zipSync({ 'project.json': Buffer.alloc(300 * 2 ** 20) }), 'is not JSON'],
      ['larger', zipSync({ [`files/${'a'.repeat(64)}`]: Buffer.alloc(500 * 2 ** 20) }), 'more than 400 MB'],
    ]
    for (const [name, bytes, why] of files) {
      const sent = server.ask('POST', '/api/projects/file', bytes)
      const longest = await longestWait(server, sent)
      const refused = await sent
      expect([name, refused.status, message(refused)]).toEqual([name, 422, expect.stringContaining(why)])
      expect(longest, name).toBeLessThan(2000)
    }
    // A picture whose head has no end is read no further than any head is long.
    const { id } = await project(server)
    const jpeg = Buffer.alloc(200 * 2 ** 20, 0xff)
    jpeg[1] = 0xd8
    const put = await server.ask('PUT', `/api/projects/${id}/pictures?name=a.jpg`, jpeg)
    expect([put.status, message(put)]).toEqual([422, expect.stringContaining('does not say how large it is')])
  }, 120_000)
})

describe('damage', () => {
  test('a mesh of which a bit has changed is not handed out, and a backup tells it by name', async () => {
    const server = await Server.start()
    const { id, mesh } = await project(server)
    const other = another(server)
    await other.execute({
      sql: `UPDATE chunks SET bytes = CAST(substr(bytes, 1, 200) || 'X' || substr(bytes, 202) AS BLOB) WHERE hash = ?`,
      args: [mesh!.hash],
    })
    other.close()
    await server.stop()
    const again = await Server.start({}, server.folder)
    const told = await again.ask('GET', `/api/projects/${id}/mesh`)
    expect([told.status, message(told)]).toEqual([500, expect.stringContaining('is not what it was')])
    const env = { ...process.env, UBBLET_DATABASE: `file:${server.folder}/u.db` }
    const done = spawnSync('./bin/ubblet', ['backup', join(server.folder, 'copy.db')], { encoding: 'utf8', env })
    expect([done.status, done.stdout]).toEqual([1, expect.stringContaining(`File ${mesh!.hash.slice(0, 12)}`)])
  }, 60_000)
})

describe('files and headers', () => {
  test('the database, backups and deliveries are for their owner and group, and a restored backup signs nobody in', async () => {
    const folder = newFolder()
    people(folder, 'add', 'Mara', '--role', 'manage')
    const server = await Server.start({ HOST: '0.0.0.0' }, folder)
    const mara = await signedIn(server, 'Mara')
    const made = (await server.ask<{ token: string }>('POST', '/api/tokens', { title: 'x' }, mara)).json
    const { id } = await project(server, 1, mara)
    const settings = { size: 256, meshes: [], tables: ['csv'] }
    await server.ask('POST', `/api/projects/${id}/deliveries`, { name: 'x', revision: 1, settings }, mara)
    const done = await until('the delivery', async () => {
      const [d] = (await server.ask<Delivery[]>('GET', `/api/projects/${id}/deliveries`, undefined, mara)).json
      return d!.state === 'done' && d
    })
    const env = { ...process.env, UBBLET_DATABASE: `file:${folder}/u.db` }
    const ubblet = (...args: string[]) => execFileSync('./bin/ubblet', args, { encoding: 'utf8', stdio: 'pipe', env })
    const copy = join(folder, 'copy.db')
    await server.stop()
    ubblet('backup', copy)
    ubblet('restore', copy)
    const files = ['u.db', 'copy.db', `deliveries/${done.id}/manifest.json`]
    expect(files.filter(f => statSync(join(folder, f)).mode & 0o007)).toEqual([])
    expect(statSync(copy).mode & 0o077).toBe(0)
    const again = await Server.start({ HOST: '0.0.0.0' }, folder)
    expect((await again.ask('GET', '/api/projects', undefined, mara)).status).toBe(401)
    const bearer = { authorization: `Bearer ${made.token}` }
    expect((await again.ask('GET', '/api/projects', undefined, bearer)).status).toBe(401)
    await signedIn(again, 'Mara')
  }, 90_000)

  test('an encrypted way stays encrypted, and nothing says what the server is made of', async () => {
    const folder = newFolder()
    people(folder, 'add', 'Mara', '--role', 'manage')
    const server = await Server.start({ UBBLET_PROXY: '1', UBBLET_HOSTS: 'pier.example' }, folder)
    const way = { 'x-forwarded-host': 'pier.example', 'x-forwarded-proto': 'https' }
    const from = (origin: string) => server.ask('GET', '/api/me', undefined, { ...way, origin })
    expect((await from('https://pier.example')).status).toBe(200)
    expect((await from('http://pier.example')).status).toBe(403)
    const page = await server.ask('GET', '/', undefined, way)
    expect(page.headers.get('strict-transport-security')).toMatch(/^max-age=\d{8}/)
    const missing = await server.ask('GET', '/_nuxt/none.js', undefined, way)
    expect(missing.status).toBe(404)
    expect(missing.headers.get('content-security-policy')).toContain(`default-src 'none'`)
    for (const { headers } of [page, missing]) expect(headers.get('x-powered-by')).toBeNull()
  }, 60_000)
})
