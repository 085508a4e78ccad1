import {
  chmodSync,
  existsSync,
  readFileSync,
  writeFileSync,
  truncateSync,
  mkdirSync,
  rmSync,
  readdirSync,
  statSync,
} from 'node:fs'
import { join } from 'node:path'
import { setTimeout as wait } from 'node:timers/promises'
import { describe, expect, test } from 'vitest'
import { addNode } from '../../core/graph/edit'
import { emptyLook } from '../../core/graph/look'
import {
  another,
  deliveryOf,
  ended,
  glb,
  named,
  newFolder,
  project,
  Server,
  until,
  type Answer,
  type Delivery,
  type Project,
} from './support'

/** What lies in the folder of deliveries, which is made with the first. */
const deliveriesIn = (server: Server): string[] =>
  existsSync(join(server.folder, 'deliveries')) ? readdirSync(join(server.folder, 'deliveries')) : []
const message = ({ json }: Answer): string => (json as { message: string }).message

describe('what is wrong with the database', () => {
  test('held by another program for a moment: the write waits; for longer: it says so, nothing is changed, and the next one works', async () => {
    const server = await Server.start({ UBBLET_BUSY_SECONDS: '0.8' })
    const { id } = await project(server)
    const other = another(server)
    const short = await other.transaction('write')
    const waiting = server.ask('PATCH', `/api/projects/${id}`, { name: 'After a moment' })
    await wait(250)
    await short.rollback()
    expect((await waiting).status).toBe(200)
    const long = await other.transaction('write')
    const refused = await server.ask('PATCH', `/api/projects/${id}`, { name: 'Never' })
    expect([refused.status, message(refused), refused.headers.get('retry-after')]).toEqual([
      503,
      expect.stringContaining('held by another program'),
      '2',
    ])
    expect((await server.get<Project>(`/api/projects/${id}`)).name).toBe('After a moment')
    await long.rollback()
    expect((await server.ask('PATCH', `/api/projects/${id}`, { name: 'Now' })).status).toBe(200)
    await server.kill()
    const again = await Server.start({}, server.folder)
    expect((await again.get<Project>(`/api/projects/${id}`)).name).toBe('Now')
  })

  test('that cannot be opened is tried again, with a sentence meanwhile', async () => {
    const folder = newFolder()
    // A file where the folder of the database should be.
    writeFileSync(join(folder, 'below'), '')
    const server = await Server.start({ UBBLET_DATABASE: `file:${join(folder, 'below', 'u.db')}` }, folder)
    const down = await server.ask('GET', '/api/projects')
    expect([down.status, message(down)]).toEqual([503, expect.stringContaining('cannot be opened')])
    expect((await server.ask('GET', '/api/health')).status).toBe(503)
    rmSync(join(folder, 'below'))
    mkdirSync(join(folder, 'below'))
    await until('the database', async () => (await server.ask('GET', '/api/projects')).status === 200)
    expect((await server.ask('POST', '/api/projects', { name: 'There' })).status).toBe(200)
  })

  test('that is newer, or damaged, is told of, and nothing is written into it', async () => {
    const server = await Server.start()
    const { id } = await project(server, 40)
    for (let i = 0; i < 8; i++) await server.ask('PUT', `/api/maps/${'0'.repeat(63)}${i}`, Buffer.alloc(1_000_000, i))
    await server.stop()
    const other = another(server)
    await other.execute('INSERT INTO migrations VALUES (999)')
    const newer = await Server.start({}, server.folder)
    const refused = await newer.ask('GET', '/api/projects')
    expect([refused.status, message(refused)]).toEqual([503, expect.stringContaining('newer version')])
    await newer.stop()
    await other.execute('DELETE FROM migrations WHERE number = 999')
    await other.execute('PRAGMA wal_checkpoint(TRUNCATE)')
    other.close()
    truncateSync(join(server.folder, 'u.db'), 4_000_000)
    const damaged = await Server.start({}, server.folder)
    await until('the damage', async () => (await damaged.ask('GET', '/api/health')).status === 503)
    const save = await damaged.ask('PATCH', `/api/projects/${id}`, { name: 'x' })
    expect([save.status, message(save)]).toEqual([500, expect.stringContaining('damaged')])
    // Where the cut goes through what every start reads, the start itself finds it; else the check of the file does.
    await until('a word of it in the log', async () =>
      damaged.log.some(line => /the database file (of the server )?is damaged/i.test(line)),
    )
  })

  test('that can only be read, is read; a write says so in its own words and changes nothing', async () => {
    const server = await Server.start()
    const { id } = await project(server)
    await server.stop()
    chmodSync(server.folder, 0o777)
    chmodSync(join(server.folder, 'u.db'), 0o444)
    // Whoever may do everything may write all the same, so the server is somebody else then.
    const nobody = process.getuid?.() === 0 ? 65534 : undefined
    const narrow = await Server.start({}, server.folder, '', nobody)
    expect((await narrow.get<Project>(`/api/projects/${id}`)).name).toBe('2 boxes')
    const refused = await narrow.ask('PATCH', `/api/projects/${id}`, { name: 'x' })
    expect([refused.status, message(refused)]).toEqual([503, expect.stringContaining('can only be read, not written')])
    await narrow.stop()
    chmodSync(join(server.folder, 'u.db'), 0o644)
    const again = await Server.start({}, server.folder)
    expect((await again.ask('PATCH', `/api/projects/${id}`, { name: 'x' })).status).toBe(200)
  })

  test('that has no room: an upload says that the disk is full, changes nothing, and what is small is still kept', async () => {
    // No file may have more than 12 MB here.
    const server = await Server.start({}, newFolder(), 'ulimit -f 12000')
    const { id } = await project(server)
    const picture = Buffer.concat([readFileSync('docs/screenshots/home.png'), Buffer.alloc(40_000_000, 1)])
    const full = await server.ask('PUT', `/api/projects/${id}/pictures?name=large.png`, picture)
    expect([full.status, message(full)]).toEqual([507, expect.stringContaining('disk of the server is full')])
    expect(await server.get(`/api/projects/${id}/pictures`)).toEqual([])
    expect((await server.ask('PUT', `/api/projects/${id}/look`, { base: 1, look: named('small') })).status).toBe(200)
    await server.kill()
    const again = await Server.start({}, server.folder)
    expect((await again.get<Project>(`/api/projects/${id}`)).look.name).toBe('small')
  })
})

describe('a stop', () => {
  test('three of them in the middle of a delivery do not fail it, each takes at most 10 s, and the log of the file is empty after', async () => {
    let server = await Server.start({ UBBLET_THREADS: '1' })
    const { id } = await project(server, 8)
    // Pictures in kinds that cannot be done in a moment.
    const settings = {
      size: 1024,
      samples: 2,
      meshes: [],
      maps: ['baseColor', 'roughness', 'normal', 'height', 'orm'],
      format: 'png16',
    }
    const asked = (
      await server.ask<Delivery>('POST', `/api/projects/${id}/deliveries`, { name: 'Long', revision: 1, settings })
    ).json
    for (let i = 0; i < 3; i++) {
      await until('the beginning', async () => (await deliveryOf(server, id, asked.id)).state === 'running')
      const { code, ms } = await server.stop()
      expect(code).toBe(0)
      expect(ms).toBeLessThan(10_000)
      expect(statSync(join(server.folder, 'u.db-wal'), { throwIfNoEntry: false })?.size ?? 0).toBe(0)
      server = await Server.start({ UBBLET_THREADS: '1' }, server.folder)
      const now = await deliveryOf(server, id, asked.id)
      expect(['waiting', 'running']).toContain(now.state)
      expect(now.tries).toBeLessThanOrEqual(1)
    }
    expect(await ended(server, id, asked.id)).toMatchObject({ state: 'done' })
  }, 120_000)

  test('answers under way are finished, new work is refused', async () => {
    const server = await Server.start()
    const { id } = await project(server)
    const body = await glb(300)
    const slow = server.ask('PUT', `/api/projects/${id}/mesh?name=more.glb`, body)
    await wait(60)
    const stopped = server.stop()
    await wait(20)
    const late = await server.ask('POST', '/api/projects', { name: 'late' }).then(
      a => a.status,
      () => 0,
    )
    expect([0, 503]).toContain(late)
    expect((await slow).status).toBe(200)
    expect((await stopped).code).toBe(0)
    const again = await Server.start({}, server.folder)
    expect((await again.get<Project>(`/api/projects/${id}`)).parts).toBe(300)
  })
  test('a server whose log nobody reads any more goes on answering, and ends when it is told to', async () => {
    const quit = (server: Server): void => {
      for (const stream of [server.process.stdout!, server.process.stderr!]) stream.destroy()
    }
    const within = (stop: ReturnType<Server['stop']>) =>
      Promise.race([stop, wait(15_000).then(() => ({ code: 'none', ms: Infinity }))])
    const server = await Server.start()
    quit(server)
    for (let i = 0; i < 3; i++) expect((await server.ask('GET', '/api/projects')).status).toBe(200)
    expect((await within(server.stop())).code).toBe(0)
    // What they say of their end is the first thing that nobody hears.
    for (const other of await Promise.all([1, 2, 3].map(() => Server.start()))) {
      quit(other)
      expect((await within(other.stop())).code).toBe(0)
    }
  }, 60_000)
})

describe('two servers on one database', () => {
  test("one makes what the other was asked for, neither takes the other's for cut off, and stopping reaches across", async () => {
    const one = await Server.start({ UBBLET_THREADS: '1' })
    const { id } = await project(one, 6)
    const settings = { samples: 4, meshes: [], maps: ['baseColor', 'normal', 'roughness'] }
    const ask = async (server: Server, name: string, size = 1024) => {
      const asked = { name, revision: 1, settings: { ...settings, size } }
      return (await server.ask<Delivery>('POST', `/api/projects/${id}/deliveries`, asked)).json.id
    }
    const first = await ask(one, 'First')
    await until('a draft', async () => deliveriesIn(one).some(n => n.startsWith(`${first}.part-`)))
    const two = await Server.start({ UBBLET_THREADS: '1' }, one.folder)
    const second = await ask(one, 'Second')
    await until('the second', async () => (await deliveryOf(two, id, second)).state !== 'waiting')
    // The draft of the first is still there, or has become the delivery.
    expect(deliveriesIn(one).some(n => n.startsWith(first))).toBe(true)
    const third = await ask(two, 'Third', 256)
    const stopped = await two.ask<Delivery>('POST', `/api/projects/${id}/deliveries/${second}/cancel`)
    const [a, b, c] = await Promise.all([ended(one, id, first), ended(one, id, second), ended(two, id, third)])
    expect([a.state, a.tries, c.state, c.tries]).toEqual(['done', 1, 'done', 1])
    expect(stopped.status === 200 ? b.state : b.state).toBe(stopped.status === 200 ? 'canceled' : 'done')
    for (const done of [first, third])
      expect(readdirSync(join(one.folder, 'deliveries', done))).toContain('manifest.json')
  }, 120_000)

  test('what a killed server left is taken over when its lease ends, and its drafts go', async () => {
    const one = await Server.start({ UBBLET_THREADS: '1' })
    const { id } = await project(one, 6)
    const settings = { size: 512, samples: 4, meshes: [], maps: ['baseColor', 'normal', 'roughness', 'height'] }
    const made = (
      await one.ask<Delivery>('POST', `/api/projects/${id}/deliveries`, { name: 'Left', revision: 1, settings })
    ).json.id
    await until('a draft', async () => deliveriesIn(one).some(n => n.startsWith(`${made}.part-`)))
    await one.kill()
    const drafts = deliveriesIn(one).filter(n => n.startsWith(`${made}.part-`))
    const two = await Server.start({}, one.folder)
    await wait(600)
    // The lease still runs: nobody knows yet that its server is gone.
    expect((await deliveryOf(two, id, made)).state).toBe('running')
    const other = another(two)
    await other.execute('UPDATE deliveries SET lease_until = 1')
    expect(await ended(two, id, made)).toMatchObject({ state: 'done', tries: 2 })
    expect(deliveriesIn(one).filter(n => drafts.includes(n))).toEqual([])
  }, 120_000)
})

describe('a delivery', () => {
  test('whose end cannot be written for a while ends by itself when it can; stopping and trying again tell the truth', async () => {
    const server = await Server.start({ UBBLET_BUSY_SECONDS: '0.3' })
    const { id } = await project(server)
    const made = (
      await server.ask<Delivery>('POST', `/api/projects/${id}/deliveries`, {
        name: 'Busy',
        revision: 1,
        settings: { size: 512, meshes: [], maps: ['roughness'] },
      })
    ).json.id
    await until('the beginning', async () => (await deliveryOf(server, id, made)).state !== 'waiting')
    const other = another(server)
    const held = await other.transaction('write')
    await until('the files', async () => deliveriesIn(server).includes(made))
    await wait(1500)
    const at = `/api/projects/${id}/deliveries/${made}`
    const cancel = await server.ask('POST', `${at}/cancel`)
    const still = await deliveryOf(server, id, made)
    await held.rollback()
    if (still.state === 'running')
      expect([cancel.status, message(cancel)]).toEqual([503, expect.stringContaining('held by another program')])
    expect((await ended(server, id, made)).state).toBe('done')
    expect(await server.ask('POST', `${at}/cancel`)).toMatchObject({
      status: 409,
      json: { message: 'This delivery has ended already: it is done.' },
    })
    expect(await server.ask('POST', `${at}/again`)).toMatchObject({ status: 409 })
  }, 60_000)

  test('of an old revision is of the mesh, the pictures and the look that it had then', async () => {
    const server = await Server.start()
    const { id } = await project(server, 2)
    const first = (await server.get<Project>(`/api/projects/${id}`)).mesh!.hash
    await server.ask('PUT', `/api/projects/${id}/look`, { base: 1, look: named('Second') })
    expect(
      (await server.ask<Project>('PUT', `/api/projects/${id}/mesh?name=three.glb&base=2`, await glb(3))).json.revision,
    ).toBe(3)
    const deliver = async (revision: number) => {
      const made = (
        await server.ask<Delivery>('POST', `/api/projects/${id}/deliveries`, {
          name: `R${revision}`,
          revision,
          settings: { size: 512, meshes: [], maps: [], tables: ['csv'] },
        })
      ).json.id
      expect(await ended(server, id, made)).toMatchObject({ state: 'done' })
      return JSON.parse(readFileSync(join(server.folder, 'deliveries', made, 'manifest.json'), 'utf8')) as {
        mesh: { hash: string; parts: number; name: string }
      }
    }
    expect((await deliver(1)).mesh).toMatchObject({ hash: first, parts: 2, name: 'boxes.glb' })
    expect((await deliver(3)).mesh).toMatchObject({ parts: 3, name: 'three.glb' })
    // One from before meshes were kept says that it cannot.
    const other = another(server)
    await other.execute('UPDATE revisions SET mesh_hash = NULL, pictures = NULL WHERE number = 1')
    const refused = await server.ask('POST', `/api/projects/${id}/deliveries`, {
      name: 'Old',
      revision: 1,
      settings: { size: 512 },
    })
    expect([refused.status, message(refused)]).toEqual([422, expect.stringContaining('not known which mesh')])
  }, 60_000)
})

describe('revisions', () => {
  test('are listed, looked at, named and restored with their mesh and pictures, as a new one', async () => {
    const server = await Server.start()
    const { id } = await project(server, 2)
    const at = `/api/projects/${id}`
    const png = readFileSync('docs/screenshots/home.png')
    expect((await server.ask('PUT', `${at}/pictures?name=a.png&base=1`, png)).json).toMatchObject({ revision: 1 })
    const look = addNode(emptyLook(), 'noise', [0, 0]).look
    await server.ask('PUT', `${at}/look`, { base: 1, look })
    // Another picture of the same name, and another mesh: each makes a revision, so that the older ones keep what they
    // were made with.
    expect(
      (await server.ask('PUT', `${at}/pictures?name=a.png&base=2`, readFileSync('docs/screenshots/mesh.png'))).json,
    ).toMatchObject({ revision: 3 })
    expect((await server.ask<Project>('PUT', `${at}/mesh?name=five.glb&base=3`, await glb(5))).json).toMatchObject({
      revision: 4,
      parts: 5,
    })
    const list = await server.get<{ number: number; name: string | null; meshName: string }[]>(`${at}/revisions`)
    expect(list.map(r => [r.number, r.meshName])).toEqual([
      [4, 'five.glb'],
      [3, 'boxes.glb'],
      [2, 'boxes.glb'],
      [1, 'boxes.glb'],
    ])
    expect((await server.ask('PATCH', `${at}/revisions/2`, { name: 'Approved' })).status).toBe(200)
    const then = await server.get<Project>(`${at}?revision=2`)
    expect([then.look.nodes.map(n => n.kind), then.mesh!.name, then.parts, then.revision]).toEqual([
      ['result', 'noise'],
      'boxes.glb',
      2,
      2,
    ])
    const pictureThen = (await server.get<{ hash: string }[]>(`${at}/pictures?revision=2`))[0]!.hash
    expect((await server.ask('GET', `${at}/pictures/${pictureThen}`)).bytes.equals(png)).toBe(true)
    expect((await server.ask('GET', `${at}/mesh?revision=1`)).bytes.equals(await glb(2))).toBe(true)

    expect((await server.ask('POST', `${at}/revisions/2/restore`, { base: 3 })).status).toBe(409)
    expect((await server.ask('POST', `${at}/revisions/2/restore`, { base: 4 })).json).toEqual({ revision: 5 })
    const now = await server.get<Project>(at)
    expect([now.revision, now.look.nodes.map(n => n.kind), now.mesh!.name, now.parts]).toEqual([
      5,
      ['result', 'noise'],
      'boxes.glb',
      2,
    ])
    expect((await server.get<{ hash: string }[]>(`${at}/pictures`)).map(p => p.hash)).toEqual([pictureThen])
    expect(
      (await server.get<{ number: number; name: string | null }[]>(`${at}/revisions`)).find(r => r.number === 2)!.name,
    ).toBe('Approved')
    // What was there before is one revision back.
    expect((await server.get<Project>(`${at}?revision=4`)).parts).toBe(5)
    expect((await server.ask('GET', `${at}?revision=99`)).status).toBe(404)
    expect((await server.ask('GET', `${at}?revision=x`)).status).toBe(400)
  }, 60_000)

  test('a mesh or a picture that is based on an older one is refused, and changes nothing', async () => {
    const server = await Server.start()
    const { id } = await project(server, 2)
    await server.ask('PUT', `/api/projects/${id}/look`, { base: 1, look: named('Theirs') })
    expect((await server.ask('PUT', `/api/projects/${id}/mesh?name=x.glb&base=1`, await glb(4))).status).toBe(409)
    expect(
      (
        await server.ask(
          'PUT',
          `/api/projects/${id}/pictures?name=x.png&base=1`,
          readFileSync('docs/screenshots/home.png'),
        )
      ).status,
    ).toBe(409)
    const now = await server.get<Project>(`/api/projects/${id}`)
    expect([now.revision, now.parts, now.look.name]).toEqual([2, 2, 'Theirs'])
  })
})
