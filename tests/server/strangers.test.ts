import { request } from 'node:http'
import { createClient } from '@libsql/client'
import { execFile, execFileSync } from 'node:child_process'
import { promisify } from 'node:util'
import { cpSync, existsSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { Document, WebIO } from '@gltf-transform/core'
import { EXTMeshGPUInstancing } from '@gltf-transform/extensions'
import { describe, expect, test } from 'vitest'
import { emptyLook } from '../../core/graph/look'
import type { DenseSetup } from '../../core/dense/setup'
import { mapIdOf } from '../../core/mesh/preparation'
import { DEMO_SETUP } from '../../demo/detail'
import { exrFile, hdrFile, lampIn } from '../lightFiles'
import { glb, named, newFolder, project, Server, until, type Answer, type Delivery, type Project } from './support'

const message = ({ json }: Answer): string => (json as { message: string }).message

/** Processes of a server that read meshes, by their numbers. */
const readersOf = (server: Server): string[] =>
  execFileSync('ps', ['-eo', 'pid,ppid,args'], { encoding: 'utf8' })
    .split('\n')
    .map(line => line.trim().split(/\s+/))
    .filter(([, parent, ...args]) => parent === String(server.process.pid) && args.join(' ').includes('mesh-job.mjs'))
    .map(([pid]) => pid!)

/** Sends a body in pieces of 64 KB without saying how long it is, until an answer comes. */
function chunked(server: Server, path: string, bytes: number): Promise<{ status: number; sent: number }> {
  return new Promise((resolve, reject) => {
    const { hostname, port } = new URL(server.address)
    let sent = 0
    let answered = false
    const out = request(
      { hostname, port, path, method: 'PUT', headers: { 'content-type': 'application/json' } },
      answer => {
        answered = true
        answer.resume()
        resolve({ status: answer.statusCode!, sent })
      },
    )
    out.on('error', error => (answered ? undefined : reject(error)))
    const piece = Buffer.alloc(65_536, 32)
    const more = (): void => {
      while (!answered && sent < bytes) {
        sent += piece.length
        if (!out.write(piece)) {
          out.once('drain', more)
          return
        }
      }
      if (!answered) out.end()
    }
    more()
  })
}

describe('addresses and heads', () => {
  test('what is not there is 404, and another method 405, both in JSON', async () => {
    const server = await Server.start()
    const { id } = await project(server)
    for (const path of [
      '/api/nothing',
      '/api/projects/x/y/z',
      `/api/projects/${id}/nothing`,
      '/api/projects/..%2F..%2Fetc',
    ]) {
      expect([path, (await server.ask('GET', path)).json]).toEqual([path, expect.objectContaining({ statusCode: 404 })])
    }
    const wrong = await server.ask('DELETE', '/api/projects')
    expect([wrong.status, wrong.headers.get('allow'), message(wrong)]).toEqual([
      405,
      'GET, POST',
      expect.stringContaining('not DELETE'),
    ])
    expect((await server.ask('POST', `/api/projects/${id}/mesh`)).status).toBe(405)
  })

  test('every answer says what a browser may do with it; scripts of the page are named by their hashes', async () => {
    const server = await Server.start()
    const page = await server.ask('GET', '/')
    const policy = page.headers.get('content-security-policy')!
    expect(policy).toMatch(/script-src 'self' 'wasm-unsafe-eval' 'sha256-[^']+='/)
    expect(policy).not.toMatch(/script-src[^;]*'unsafe-inline'/)
    expect(policy).toContain(`frame-ancestors 'none'`)
    for (const path of ['/', '/api/projects', '/mark.svg']) {
      const { headers } = await server.ask('GET', path)
      expect([
        path,
        headers.get('x-content-type-options'),
        headers.get('referrer-policy'),
        headers.get('x-frame-options'),
      ]).toEqual([path, 'nosniff', 'same-origin', 'DENY'])
    }
    expect((await server.ask('GET', '/api/projects')).headers.get('content-security-policy')).toContain(
      `default-src 'none'`,
    )
  })

  test('odd origins, foreign ones and foreign names are refused; names are added with spaces and ports', async () => {
    const server = await Server.start({ UBBLET_HOSTS: 'one.example, two.example:8443  three.example' })
    const status = async (headers: Record<string, string>): Promise<number> =>
      new Promise(resolve => {
        const { hostname, port } = new URL(server.address)
        request({ hostname, port, path: '/api/projects', headers }, answer => {
          answer.resume()
          resolve(answer.statusCode!)
        }).end()
      })
    expect(await status({ origin: 'b%%:ad' })).toBe(400)
    expect(await status({ origin: 'http://[::1' })).toBe(400)
    expect(await status({ origin: 'null' })).toBe(403)
    expect(await status({ origin: 'http://elsewhere.example' })).toBe(403)
    expect(await status({ host: 'elsewhere.example' })).toBe(403)
    expect(await status({ host: 'one.example' })).toBe(200)
    expect(await status({ host: 'THREE.example:99' })).toBe(200)
    expect(await status({ host: 'two.example:8443' })).toBe(200)
    expect(await status({ host: 'two.example:8444' })).toBe(403)
  })
})

describe('limits', () => {
  test('a body that is too long is refused while it arrives, in one piece or in many', async () => {
    const server = await Server.start()
    const { id } = await project(server)
    const path = `/api/projects/${id}/look`
    const told = await server.ask('PUT', path, Buffer.alloc(17 * 2 ** 20, 32))
    expect([told.status, message(told)]).toEqual([413, 'The request is larger than 16 MB, which is the limit.'])
    const pieces = await chunked(server, path, 400 * 2 ** 20)
    expect(pieces.status).toBe(413)
    expect(pieces.sent).toBeLessThan(64 * 2 ** 20)
    expect((await server.ask('POST', '/api/projects', { name: 'x', more: 'y'.repeat(300_000) })).status).toBe(413)
    expect((await server.get<Project>(`/api/projects/${id}`)).revision).toBe(1)
  })

  test('recipes and looks that nest without end are refused, and so is what is no JSON', async () => {
    const server = await Server.start()
    const { id } = await project(server)
    const deep = `${'{"recipe":'.repeat(50_000)}1${'}'.repeat(50_000)}`
    const refused = await server.ask('POST', '/api/recipes', deep)
    expect([refused.status, message(refused)]).toEqual([400, expect.stringContaining('deeper than 200 levels')])
    const lists = await server.ask(
      'PUT',
      `/api/projects/${id}/look`,
      `{"base":1,"look":${'['.repeat(9000)}${']'.repeat(9000)}}`,
    )
    expect(lists.status).toBe(400)
    expect((await server.ask('POST', '/api/recipes', '{"a":')).status).toBe(400)
  })

  test('a mesh that would grow without end is refused from its head, at once', async () => {
    const server = await Server.start()
    const { id } = await project(server)
    const document = new Document()
    const buffer = document.createBuffer()
    const primitive = document
      .createPrimitive()
      .setAttribute(
        'POSITION',
        document.createAccessor().setType('VEC3').setArray(new Float32Array(9)).setBuffer(buffer),
      )
    const instances = document
      .createExtension(EXTMeshGPUInstancing)
      .createInstancedMesh()
      .setAttribute(
        'TRANSLATION',
        document.createAccessor().setType('VEC3').setArray(new Float32Array(3)).setBuffer(buffer),
      )
    document
      .createScene()
      .addChild(
        document
          .createNode()
          .setMesh(document.createMesh().addPrimitive(primitive))
          .setExtension('EXT_mesh_gpu_instancing', instances),
      )
    const bytes = Buffer.from(await new WebIO().registerExtensions([EXTMeshGPUInstancing]).writeBinary(document))
    // The instances' accessor claims thirty million of them, and lies nowhere.
    const text = bytes.toString('latin1')
    const at = text.lastIndexOf('"count":1')
    const claims = Buffer.from(text.slice(0, at) + '"count":29000000'.padEnd(9) + text.slice(at + 9), 'latin1')
    const grown = claims.length - bytes.length
    claims.writeUInt32LE(claims.length, 8)
    claims.writeUInt32LE(bytes.readUInt32LE(12) + grown, 12)
    const refused = await server.ask('PUT', `/api/projects/${id}/mesh?name=many.glb`, claims)
    expect([refused.status, message(refused)]).toEqual([422, expect.stringContaining('more than 5,000,000 triangles')])

    const json = JSON.stringify({
      asset: { version: '2.0' },
      extensionsUsed: ['EXT_meshopt_compression'],
      buffers: [{ byteLength: 4 }],
      bufferViews: [
        {
          buffer: 0,
          byteLength: 4,
          extensions: {
            EXT_meshopt_compression: {
              buffer: 0,
              byteLength: 4,
              count: 100_000_000,
              byteStride: 64,
              mode: 'ATTRIBUTES',
            },
          },
        },
      ],
    })
    const zip = await server.ask('PUT', `/api/projects/${id}/mesh?name=packed.gltf`, Buffer.from(json))
    expect([zip.status, message(zip)]).toEqual([
      422,
      expect.stringContaining('Unpacked, the data of the file would take 6104 MB'),
    ])
    expect((await server.get<Project>(`/api/projects/${id}`)).parts).toBe(2)
  })

  test('reading a mesh ends at its limits of time and memory, and when whoever asked has left', async () => {
    const mesh = await glb(3000)
    const hurried = await Server.start({ UBBLET_READ_SECONDS: '0.05' })
    const slow = (await hurried.ask<Project>('POST', '/api/projects', { name: 'x' })).json
    const late = await hurried.ask('PUT', `/api/projects/${slow.id}/mesh?name=a.glb`, mesh)
    expect([late.status, message(late)]).toEqual([422, expect.stringContaining('took more than 0.05 seconds')])
    const narrow = await Server.start({ UBBLET_READ_MEGABYTES: '20' })
    const big = (await narrow.ask<Project>('POST', '/api/projects', { name: 'x' })).json
    const fat = await narrow.ask('PUT', `/api/projects/${big.id}/mesh?name=a.glb`, mesh)
    expect([fat.status, message(fat)]).toEqual([422, expect.stringContaining('memory')])
    const server = await Server.start()
    const { id } = (await server.ask<Project>('POST', '/api/projects', { name: 'x' })).json
    const leaving = new AbortController()
    const left = fetch(`${server.address}/api/projects/${id}/mesh?name=a.glb`, {
      method: 'PUT',
      body: new Uint8Array(mesh),
      signal: leaving.signal,
    }).catch(() => {})
    await until('a reader', async () => readersOf(server).length > 0, 10_000)
    leaving.abort()
    await left
    await until('the end of the reader', async () => readersOf(server).length === 0, 5000)
    expect((await server.get<Project>(`/api/projects/${id}`)).mesh).toBeNull()
  }, 60_000)

  test('a process that has read a mesh reads the next ones, as a new one would, and ends with its server', async () => {
    const server = await Server.start()
    const { id } = (await server.ask<Project>('POST', '/api/projects', { name: 'x' })).json
    const [few, many, more] = [await glb(3), await glb(40), await glb(3000)]
    const put = async (mesh: Buffer) => {
      const answer = await server.ask('PUT', `/api/projects/${id}/mesh?name=a.glb`, mesh)
      return [answer.status, readersOf(server)] as const
    }
    const [status, first] = await put(few)
    expect([status, first]).toEqual([200, [expect.any(String)]])
    const keys = await server.get(`/api/projects/${id}/keys`)
    // What is no mesh leaves nothing behind that the next one would be read with.
    expect(await put(Buffer.from('glTF of another kind'))).toEqual([422, first])
    expect(await put(many)).toEqual([200, first])
    expect(await put(few)).toEqual([200, first])
    expect(await server.get(`/api/projects/${id}/keys`)).toEqual(keys)
    // Two at once are read by two.
    const both = await Promise.all([put(more), put(more)])
    expect(both.map(([answered]) => answered).sort()).toEqual([200, 409])
    expect(readersOf(server)).toHaveLength(2)
    // One that ends while it waits is missed by nobody.
    for (const pid of readersOf(server)) process.kill(Number(pid), 'SIGKILL')
    await until('their end', async () => readersOf(server).length === 0, 5000)
    expect((await put(few))[0]).toBe(200)
    const [last] = readersOf(server)
    await server.stop()
    await until('the end of the last one', async () => !existsSync(`/proc/${last}`), 5000)
  }, 60_000)

  test('a picture is looked at before anybody decodes it, and decoding never stands in the way of answers', async () => {
    const server = await Server.start()
    const { id } = await project(server)
    const head = (width: number, height: number): Buffer => {
      const bytes = Buffer.alloc(64)
      bytes.set([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a])
      bytes.writeUInt32BE(width, 16)
      bytes.writeUInt32BE(height, 20)
      return bytes
    }
    const put = (bytes: Buffer) => server.ask('PUT', `/api/projects/${id}/pictures?name=a.png`, bytes)
    expect(message(await put(head(60_000, 60_000)))).toContain('60000 x 60000 pixels')
    expect((await put(head(0, 4))).status).toBe(422)
    expect((await put(head(9000, 9000))).status).toBe(200)
    // Larger than what the server's threads decode: the delivery says so, and the server goes on answering.
    const look = {
      ...emptyLook(),
      nodes: [
        ...emptyLook().nodes,
        { id: 'p', kind: 'picture', at: [0, 0] as [number, number], params: { picture: 'a.png' } },
      ],
    }
    await server.ask('PUT', `/api/projects/${id}/look`, { base: 1, look })
    const made = (
      await server.ask<Delivery>('POST', `/api/projects/${id}/deliveries`, {
        name: 'x',
        revision: 2,
        settings: { size: 512 },
      })
    ).json
    const done = await until('the end', async () => {
      const from = Date.now()
      const d = (await server.get<Delivery[]>(`/api/projects/${id}/deliveries`)).find(x => x.id === made.id)!
      expect(Date.now() - from).toBeLessThan(2000)
      return d.state === 'failed' && d
    })
    expect(done.message).toContain('larger than 8192 x 8192')
  }, 60_000)
})

describe('files of the database', () => {
  test('carry a tag and are not sent twice; small and large ones come whole; behind a proxy they are compressed', async () => {
    const server = await Server.start()
    const { id } = await project(server, 60)
    // A connection stays open for longer than a proxy keeps it.
    const { headers } = await server.ask('GET', '/api/health', undefined, { connection: 'keep-alive' })
    expect(headers.get('keep-alive')).toBe('timeout=65')
    const first = await server.ask('GET', `/api/projects/${id}/mesh`)
    const tag = first.headers.get('etag')!
    expect(first.bytes.equals(await glb(60))).toBe(true)
    const again = await server.ask('GET', `/api/projects/${id}/mesh`, undefined, { 'if-none-match': `"x", W/${tag}` })
    expect([again.status, again.bytes.length]).toEqual([304, 0])
    // Larger than what is kept in memory: streamed from the database, piece by piece.
    const floats = Buffer.from(Float32Array.from({ length: 1_600_000 }, (_, i) => i % 977).buffer)
    const key = 'a'.repeat(64)
    await server.ask('PUT', `/api/maps/${key}`, floats)
    const map = await server.ask('GET', `/api/maps/${key}`)
    expect(map.bytes.equals(floats)).toBe(true)
    expect([map.headers.get('cache-control'), map.headers.get('content-length')]).toEqual([
      'private, max-age=31536000, immutable',
      String(floats.length),
    ])
    expect((await server.ask('GET', `/api/maps/${'b'.repeat(64)}`)).status).toBe(204)

    await server.stop()
    execFileSync('./bin/ubblet', ['user', 'add', 'Mara', '--role', 'manage'], {
      input: 'a long password\n',
      env: { ...process.env, UBBLET_DATABASE: `file:${server.folder}/u.db` },
    })
    const behind = await Server.start({ UBBLET_PROXY: '1', UBBLET_HOSTS: 'pier.example' }, server.folder)
    const jar = (
      await behind.ask(
        'POST',
        '/api/session',
        { name: 'mara', password: 'a long password' },
        { 'x-forwarded-host': 'pier.example', 'x-forwarded-proto': 'https' },
      )
    ).headers.get('set-cookie')!
    expect(jar).toMatch(/; Secure/)
    const zipped = await fetch(`${behind.address}/api/maps/${key}`, {
      headers: { cookie: jar.split(';')[0]!, 'accept-encoding': 'gzip' },
    })
    expect(zipped.headers.get('content-encoding')).toBe('gzip')
    expect(Buffer.from(await zipped.arrayBuffer()).equals(floats)).toBe(true)
  }, 60_000)
})

describe('people', () => {
  const PASSWORD = 'a long password'
  const people = (folder: string, ...args: string[]) =>
    execFileSync('./bin/ubblet', ['user', ...args], {
      input: `${PASSWORD}\n`,
      encoding: 'utf8',
      env: { ...process.env, UBBLET_DATABASE: `file:${folder}/u.db` },
    })
  const signedIn = async (server: Server, name: string, password = PASSWORD): Promise<Record<string, string>> => {
    const answer = await server.ask('POST', '/api/session', { name, password })
    expect(answer.status).toBe(200)
    return { cookie: answer.headers.get('set-cookie')!.split(';')[0]! }
  }

  test('a server that others can reach does not start without anybody who may sign in, and says how', async () => {
    const server = await Server.start({ HOST: '0.0.0.0' })
    await until('its end', async () => server.code !== undefined)
    expect([server.code, server.log.join('\n')]).toEqual([2, expect.stringContaining('ubblet user add NAME')])
  })

  test('on this machine alone nobody signs in', async () => {
    const server = await Server.start()
    expect(await server.get('/api/me')).toEqual({ signIn: false, name: null, role: 'manage' })
    expect((await server.ask('POST', '/api/session', { name: 'a', password: 'b' })).status).toBe(409)
  })

  test('roles are held to, names stand on what was done, and a locked project is not changed', async () => {
    const folder = newFolder()
    for (const [name, role] of [
      ['Mara', 'manage'],
      ['Wim', 'work'],
      ['Lena', 'look'],
    ] as const)
      people(folder, 'add', name, '--role', role)
    const server = await Server.start({ HOST: '0.0.0.0' }, folder)
    expect((await server.ask('GET', '/api/projects')).status).toBe(401)
    expect((await server.ask('GET', '/api/health')).json).toEqual({ ok: true })
    expect((await server.ask('POST', '/api/session', { name: 'wim', password: 'wrong password' })).status).toBe(401)
    expect((await server.ask('POST', '/api/session', { name: 'nobody', password: 'wrong password' })).status).toBe(401)
    const [mara, wim, lena] = [
      await signedIn(server, 'Mara'),
      await signedIn(server, 'wim'),
      await signedIn(server, 'Lena'),
    ]
    const made = await project(server, 2, wim)
    const at = `/api/projects/${made.id}`
    expect((await server.ask('PUT', `${at}/look`, { base: 1, look: named('x') }, lena)).status).toBe(403)
    expect((await server.ask('PUT', `${at}/look`, { base: 1, look: named('x') }, wim)).status).toBe(200)
    expect(
      (await server.ask<{ author: string }[]>('GET', `${at}/revisions`, undefined, lena)).json.map(r => r.author),
    ).toEqual(['Wim', 'Wim'])
    const delivery = await server.ask<Delivery>(
      'POST',
      `${at}/deliveries`,
      { name: 'x', revision: 2, settings: { size: 512, meshes: [], tables: ['csv'] } },
      mara,
    )
    expect(delivery.json.author).toBe('Mara')
    expect((await server.ask('GET', '/api/users', undefined, wim)).status).toBe(403)
    expect((await server.ask('POST', '/api/store/tidy', {}, wim)).status).toBe(403)

    // Who is there, on any machine.
    await server.ask('POST', `${at}/presence`, { window: 'w1-1' }, lena)
    expect((await server.ask('POST', `${at}/presence`, { window: 'w2-2' }, wim)).json).toMatchObject({
      revision: 2,
      others: [{ user: 'Lena' }],
    })
    await server.ask('POST', `${at}/presence`, { window: 'w1-1', leaves: true }, lena)
    expect((await server.ask('POST', `${at}/presence`, { window: 'w2-2' }, wim)).json).toMatchObject({ others: [] })

    expect((await server.ask('PUT', `${at}/lock`, { locked: true }, mara)).json).toMatchObject({ lockedBy: 'Mara' })
    for (const [method, path, body] of [
      ['PUT', '/look', { base: 2, look: named('y') }],
      ['PATCH', '', { name: 'y' }],
      ['DELETE', '', undefined],
      ['PUT', '/mesh?name=a.glb', await glb(1)],
      ['POST', '/revisions/1/restore', { base: 2 }],
    ] as const) {
      const refused = await server.ask(method, at + path, body, wim)
      expect([path, refused.status, message(refused)]).toEqual([
        path,
        423,
        'The project is locked against changes by Mara; unlock it first.',
      ])
    }
    expect((await server.ask('PUT', `${at}/lock`, { locked: false }, wim)).status).toBe(403)
    expect((await server.ask('PUT', `${at}/lock`, { locked: false }, mara)).status).toBe(200)
    expect((await server.ask('PATCH', at, { name: 'y' }, wim)).status).toBe(200)
  }, 60_000)

  test('sessions end with a new password and a new role, tokens with their user; the last who manages stays', async () => {
    const folder = newFolder()
    people(folder, 'add', 'Mara', '--role', 'manage')
    people(folder, 'add', 'Wim')
    const server = await Server.start({ HOST: '0.0.0.0' }, folder)
    const [mara, wim] = [await signedIn(server, 'Mara'), await signedIn(server, 'Wim')]
    const made = async (head: Record<string, string>) => {
      const asked = { title: 'farm', scope: 'work' }
      return (await server.ask<{ token: string }>('POST', '/api/tokens', asked, head)).json.token
    }
    const token = await made(wim)
    const bearer = { authorization: `Bearer ${token}` }
    expect((await server.ask('POST', '/api/projects', { name: 'by script' }, bearer)).status).toBe(200)
    expect((await server.ask('GET', '/api/projects', undefined, { authorization: `Bearer ${token}x` })).status).toBe(
      401,
    )
    expect(
      (await server.ask('PATCH', '/api/users/Wim', { password: 'another password', before: PASSWORD }, wim)).status,
    ).toBe(200)
    expect((await server.ask('GET', '/api/projects', undefined, wim)).status).toBe(401)
    const fresh = await signedIn(server, 'Wim', 'another password')
    expect((await server.ask('GET', '/api/projects', undefined, bearer)).status).toBe(401)
    bearer.authorization = `Bearer ${await made(fresh)}`
    expect((await server.ask('PATCH', '/api/users/Wim', { role: 'manage' }, fresh)).status).toBe(403)
    expect((await server.ask('PATCH', '/api/users/Wim', { role: 'look' }, mara)).status).toBe(200)
    expect((await server.ask('GET', '/api/projects', undefined, fresh)).status).toBe(401)
    expect((await server.ask('POST', '/api/projects', { name: 'x' }, bearer)).status).toBe(403)
    expect((await server.ask('DELETE', '/api/users/Mara', undefined, mara)).status).toBe(409)
    expect((await server.ask('DELETE', '/api/users/Wim', undefined, mara)).status).toBe(200)
    expect((await server.ask('GET', '/api/projects', undefined, bearer)).status).toBe(401)
    // A cookie that somebody made up opens nothing.
    expect((await server.ask('GET', '/api/projects', undefined, { cookie: 'ubblet=Fe26.2**abc' })).status).toBe(401)
  }, 60_000)

  test('wrong passwords make a name wait, also when they are tried all at once', async () => {
    const folder = newFolder()
    people(folder, 'add', 'Mara', '--role', 'manage')
    const server = await Server.start({ HOST: '0.0.0.0' }, folder)
    const tries = await Promise.all(
      Array.from({ length: 20 }, () =>
        server.ask('POST', '/api/session', { name: 'Mara', password: 'wrong password' }),
      ),
    )
    expect(tries.filter(t => t.status === 401).length).toBeLessThanOrEqual(8)
    const right = await server.ask('POST', '/api/session', { name: 'Mara', password: PASSWORD })
    expect([right.status, Number(right.headers.get('retry-after')) > 60]).toEqual([429, true])
  }, 60_000)

  test('under a path of its own, the application and its answers lie there', async () => {
    const server = await Server.start({ NUXT_APP_BASE_URL: '/pier/' })
    expect((await server.ask('GET', '/api/projects')).status).toBe(200)
    const page = (await server.ask('GET', '/')).bytes.toString()
    expect(page).toContain('src="/pier/_nuxt/')
    expect((await fetch(`${new URL(server.address).origin}/api/projects`)).status).toBe(404)
    const script = /src="\/pier(\/_nuxt\/[^"]+)"/.exec(page)![1]!
    expect((await server.ask('GET', script)).status).toBe(200)
  })
})

test('what is built runs by itself: a copy elsewhere reads meshes, has the demo, delivers, and looks after its database', async () => {
  const elsewhere = newFolder()
  cpSync('.output', join(elsewhere, '.output'), { recursive: true })
  const data = newFolder()
  const server = await Server.start({ UBBLET_HOME: elsewhere }, data, `cd "${elsewhere}"`, undefined, elsewhere)
  const { id } = await project(server, 3)
  expect((await server.ask('POST', '/api/demo', {})).status).toBe(200)
  const settings = { size: 256, meshes: ['glb'], maps: ['roughness'] }
  const made = await server.ask<Delivery>('POST', `/api/projects/${id}/deliveries`, {
    name: 'Away',
    revision: 1,
    settings,
  })
  await until('the delivery', async () => {
    const [delivery] = await server.get<Delivery[]>(`/api/projects/${id}/deliveries`)
    if (delivery!.state === 'failed') throw new Error(delivery!.message ?? 'failed')
    return delivery!.id === made.json.id && delivery!.state === 'done'
  })
  expect((await server.ask('POST', '/api/store/tidy', { removed: false })).json).toMatchObject({ shrunk: true })
  await server.stop()
  // Damage where only the check of the whole file comes by: most of it is pages of meshes.
  const file = join(data, 'u.db')
  const bytes = readFileSync(file)
  writeFileSync(file, bytes.fill(0x55, bytes.length >> 1, bytes.length - (bytes.length >> 3)))
  const again = await Server.start({ UBBLET_HOME: elsewhere }, data, `cd "${elsewhere}"`, undefined, elsewhere)
  await until('the finding', async () => again.log.some(line => line.includes('the database file is damaged')))
}, 120_000)

test('every project of the demo can be delivered as it comes, before anybody has opened it', async () => {
  const server = await Server.start()
  expect((await server.ask('POST', '/api/demo', {})).status).toBe(200)
  const projects = await server.get<{ id: string; name: string }[]>('/api/projects')
  expect(projects).toHaveLength(4)
  const settings = { size: 256, meshes: ['glb'] }
  for (const { id, name } of projects) {
    const { mesh, preparation } = await server.get<Project>(`/api/projects/${id}`)
    for (const map of preparation.maps) {
      const kept = await server.ask('GET', `/api/maps/${mapIdOf(mesh!.hash, preparation, map)}`)
      expect(kept.status, `${name}: ${map.name} is there`).toBe(200)
    }
    const asked = await server.ask<Delivery>('POST', `/api/projects/${id}/deliveries`, { name, revision: 1, settings })
    expect(asked.status, name).toBe(200)
    await until(
      name,
      async () => {
        const [delivery] = await server.get<Delivery[]>(`/api/projects/${id}/deliveries`)
        if (delivery!.state === 'failed') throw new Error(delivery!.message ?? 'failed')
        return delivery!.state === 'done'
      },
      90_000,
    )
  }
}, 180_000)

test('requests are logged as lines of JSON with id, time and status, and counted for Prometheus', async () => {
  const server = await Server.start()
  const answer = await server.ask('GET', '/api/projects/00000000-0000-4000-8000-000000000000')
  await until('a line of it', async () => server.log.some(l => l.includes(answer.headers.get('x-request-id')!)))
  const lines = server.log.flatMap(l => {
    try {
      return [JSON.parse(l) as Record<string, unknown>]
    } catch {
      return []
    }
  })
  expect(lines.find(l => l.request === answer.headers.get('x-request-id'))).toMatchObject({
    method: 'GET',
    status: 404,
    failure: 'There is no such project.',
    ms: expect.any(Number),
  })
  const metrics = (await server.ask('GET', '/api/metrics')).bytes.toString()
  expect(metrics).toMatch(/ubblet_request_seconds_count\{method="GET",route="\/api\/projects\/:id",status="404"\} 1/)
  expect(metrics).toMatch(/ubblet_deliveries\{state="waiting"\} 0/)
})

test('a backup is made while a server runs; one is brought back only when none does', async () => {
  const server = await Server.start()
  const { id } = await project(server)
  const env = { ...process.env, UBBLET_DATABASE: `file:${server.folder}/u.db` }
  // Without standing still meanwhile, or it would not be noticed that the server ends idle connections.
  const ubblet = async (...args: string[]): Promise<string> =>
    (await promisify(execFile)('./bin/ubblet', args, { encoding: 'utf8', env })).stdout
  await ubblet('backup', `${server.folder}/backup.db`)
  expect(await ubblet('check', `${server.folder}/backup.db`)).toContain('is sound')
  await server.ask('PATCH', `/api/projects/${id}`, { name: 'After the backup' })
  await expect(ubblet('restore', `${server.folder}/backup.db`)).rejects.toThrow(/open; stop it first/)
  expect((await server.get<Project>(`/api/projects/${id}`)).name).toBe('After the backup')
  await server.stop()
  expect(await ubblet('restore', `${server.folder}/backup.db`)).toContain('what was there is kept as')
  const again = await Server.start({}, server.folder)
  expect((await again.get<Project>(`/api/projects/${id}`)).name).toBe('2 boxes')
  expect(await ubblet('store')).toMatch(/Meshes/)
  expect(JSON.parse(await ubblet('check', '--json'))).toEqual([])
}, 60_000)

test('a project leaves as one file and arrives on another server with its history', async () => {
  const [here, there] = [await Server.start(), await Server.start()]
  const { id } = await project(here, 3)
  await here.ask('PUT', `/api/projects/${id}/look`, { base: 1, look: named('Second') })
  const file = await here.ask('GET', `/api/projects/${id}/file`)
  expect(file.headers.get('content-disposition')).toBe('attachment; filename="3-boxes.ubblet.zip"')
  const arrived = await there.ask<Project>('POST', '/api/projects/file', file.bytes)
  const now = await there.get<Project>(`/api/projects/${arrived.json.id}`)
  expect([now.name, now.revision, now.look.name, now.parts]).toEqual(['3 boxes', 2, 'Second', 3])
  expect((await there.ask('GET', `/api/projects/${now.id}/mesh`)).bytes.equals(await glb(3))).toBe(true)
  const refused = await there.ask('POST', '/api/projects/file', file.bytes.subarray(0, 3000))
  expect([refused.status, message(refused)]).toEqual([422, expect.stringContaining('no zip')])
})

test('a picture of light is kept with its project, goes with a copy and a project file, and its room is given back', async () => {
  const server = await Server.start()
  const { id } = await project(server)
  const [dusk, dawn] = [exrFile(lampIn(6, 4, [2, 0, [48, 16, 1]])), hdrFile(lampIn(6, 4, [2, 0, [48, 16, 1]]))]
  const put = (name: string, bytes: Uint8Array) =>
    server.ask<{ hash: string }>('PUT', `/api/projects/${id}/lights?name=${name}`, bytes)
  const { hash } = (await put('dusk.exr', dusk)).json
  await put('dawn.hdr', dawn)
  const list = (of = id) => server.get<{ name: string; hash: string }[]>(`/api/projects/${of}/lights`)
  expect((await list()).map(l => l.name)).toEqual(['dusk.exr', 'dawn.hdr'])
  expect((await server.ask('GET', `/api/projects/${id}/lights/${hash}`)).bytes.equals(dusk)).toBe(true)
  const none = await put('none.hdr', new TextEncoder().encode('hello'))
  expect([none.status, message(none)]).toEqual([
    422,
    'none.hdr is no picture of light; Radiance HDR and OpenEXR files are.',
  ])

  const copy = (await server.ask<Project>('POST', `/api/projects/${id}/duplicate`)).json
  const file = await server.ask('GET', `/api/projects/${id}/file`)
  const arrived = (await server.ask<Project>('POST', '/api/projects/file', file.bytes)).json
  for (const other of [copy.id, arrived.id]) {
    expect(await list(other)).toEqual(await list())
    expect((await server.ask('GET', `/api/projects/${other}/lights/${hash}`)).bytes.equals(dusk)).toBe(true)
  }

  // It stays as long as one of them has it.
  const tidied = async (): Promise<number> => {
    const other = createClient({ url: `file:${server.folder}/u.db`, concurrency: 1, timeout: 2000 })
    await other.execute('UPDATE blobs SET used = 1')
    await server.ask('POST', '/api/store/tidy', { removed: true })
    const { rows } = await other.execute({ sql: 'SELECT hash FROM blobs WHERE hash = ?', args: [hash] })
    other.close()
    return rows.length
  }
  for (const of of [id, copy.id])
    expect((await server.ask('DELETE', `/api/projects/${of}/lights/${hash}`)).status).toBe(200)
  expect((await list()).map(l => l.name)).toEqual(['dawn.hdr'])
  expect((await server.ask('DELETE', `/api/projects/${id}/lights/${hash}`)).status).toBe(404)
  expect((await server.ask('GET', `/api/projects/${id}/lights/${hash}`)).status).toBe(404)
  expect(await tidied()).toBe(1)
  await server.ask('DELETE', `/api/projects/${arrived.id}`)
  expect(await tidied()).toBe(0)
}, 60_000)

test('room is given back on request: a removed project goes for good, and the file gets smaller', async () => {
  const server = await Server.start()
  const { id } = await project(server, 400)
  for (let i = 0; i < 4; i++) await server.ask('PUT', `/api/projects/${id}/mesh?name=${i}.glb`, await glb(500 + i))
  expect((await server.ask('DELETE', `/api/projects/${id}?forever`)).status).toBe(409)
  await server.ask('DELETE', `/api/projects/${id}`)
  const other = createClient({ url: `file:${server.folder}/u.db`, concurrency: 1, timeout: 2000 })
  await other.execute('UPDATE blobs SET used = 1')
  other.close()
  const before = (await server.get<{ kind: string; bytes: number }[]>('/api/store')).find(h => h.kind === 'meshes')!
  expect(before.bytes).toBeGreaterThan(1_000_000)
  const freed = (
    await server.ask<{ projects: number; bytes: number; shrunk: boolean }>('POST', '/api/store/tidy', { removed: true })
  ).json
  expect(freed).toMatchObject({ projects: 1, shrunk: true })
  expect(freed.bytes).toBeGreaterThanOrEqual(before.bytes)
  expect(statSync(`${server.folder}/u.db`).size).toBeLessThan(500_000)
  expect(await server.get('/api/projects')).toEqual([])
}, 60_000)

test('a dense mesh is kept with its project and what was chosen, goes with a copy and a file, and keeps its keys', async () => {
  const server = await Server.start()
  const { id } = await project(server)
  const path = (rest = '', of = id): string => `/api/projects/${of}/dense${rest}`
  interface Kept {
    name: string
    hash: string
    triangles: number
    parts: number
    setup: DenseSetup | null
  }
  const keptOf = async (of = id) => (await server.get<{ dense: Kept | null }>(path('', of))).dense
  expect(await keptOf()).toBeNull()
  expect((await server.ask('GET', path('/file'))).status).toBe(404)
  expect((await server.ask('PATCH', path(), DEMO_SETUP)).status).toBe(404)

  // A file that is none changes nothing.
  const broken = await server.ask('PUT', path('?name=broken.glb'), Buffer.from('glTF and no more'))
  expect([broken.status, message(broken)]).toEqual([422, expect.stringContaining('not a GLB file')])
  expect(await keptOf()).toBeNull()

  const three = await glb(3)
  const put = await server.ask<Kept>('PUT', path('?name=fine.glb'), three)
  expect(put.json).toMatchObject({ name: 'fine.glb', triangles: 36, parts: 3 })
  const [first] = (await server.get<{ keys: string[] }>(path('/keys'))).keys
  const setup = { ...DEMO_SETUP, given: { [first!]: '' }, cages: { [first!]: { outward: 0.25, inward: 0 } } }
  expect((await server.ask('PATCH', path(), setup)).status).toBe(200)
  const refused = await server.ask('PATCH', path(), { ...setup, outward: -1 })
  expect([refused.status, message(refused)]).toEqual([400, expect.stringContaining('outward')])
  const kept = { name: 'fine.glb', hash: put.json.hash, triangles: 36, parts: 3, setup }
  expect(await keptOf()).toEqual(kept)
  expect((await server.ask('GET', path('/file'))).bytes.equals(three)).toBe(true)

  const copy = (await server.ask<Project>('POST', `/api/projects/${id}/duplicate`)).json
  const file = await server.ask('GET', `/api/projects/${id}/file`)
  const arrived = (await server.ask<Project>('POST', '/api/projects/file', file.bytes)).json
  for (const other of [copy.id, arrived.id]) {
    expect(await keptOf(other)).toEqual(kept)
    expect((await server.ask('GET', path('/file', other))).bytes.equals(three)).toBe(true)
  }

  // Another export in the same place: its parts go by the same keys, and what was chosen stays.
  const four = await glb(4)
  const again = await server.ask<Kept>('PUT', path('?name=finer.glb'), four)
  expect(again.json).toMatchObject({ name: 'finer.glb', parts: 4 })
  const keys = (await server.get<{ keys: string[] }>(path('/keys'))).keys
  expect(keys).toContain(first)
  expect((await keptOf())?.setup).toEqual(setup)

  expect((await server.ask('PUT', `/api/projects/${id}/lock`, { locked: true })).status).toBe(200)
  for (const answer of [
    await server.ask('DELETE', path()),
    await server.ask('PATCH', path(), setup),
    await server.ask('PUT', path('?name=x.glb'), three),
  ])
    expect(answer.status).toBe(423)
  expect((await server.ask('DELETE', path('', copy.id))).status).toBe(200)
  expect(await keptOf(copy.id)).toBeNull()
})
