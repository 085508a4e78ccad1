import { desc, eq } from 'drizzle-orm'
import fc from 'fast-check'
import { copyFileSync, existsSync, mkdirSync, readFileSync, utimesSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { unzipSync, zipSync } from 'fflate'
import { emptyLook } from '../../../core/graph/look'
import { emptyPreparation, mapIdOf, type Preparation } from '../../../core/mesh/preparation'
import { backup, BackupError, checkContents, damageOf, restore } from '../../../node/store/backup'
import { blobInfo, getBlob, putBlob } from '../../../node/store/blobs'
import { exportProject, importProject, ProjectFileError } from '../../../node/store/projectFile'
import {
  blobs,
  chunks,
  decodings,
  deliveries,
  geometryMaps,
  looks,
  pictures,
  projects,
  revisions,
  sheets,
} from '../../../node/store/schema'
import type { Store } from '../../../node/store/store'
import { EVERY_FOR, HOURLY_FOR, thinned } from '../../../node/store/thin'
import { holdings, tidy } from '../../../node/store/tidy'
import { newFolder, opened } from './support'

const HOUR = 3_600_000
const DAY = 24 * HOUR
const now = Date.UTC(2026, 10, 20, 12)

describe('thinning', () => {
  test('keeps all of a day, one an hour for a week, one a day before that, and the newest', () => {
    const at = (...hoursAgo: number[]) =>
      hoursAgo.map((h, i) => ({ number: hoursAgo.length - i, saved: now - h * HOUR, stays: false })).reverse()
    // Within a day nothing goes.
    expect(thinned(at(0, 0.1, 0.2, 23.9), now)).toEqual([])
    // 30 hours ago: three of one hour leave the last of them.
    expect(
      thinned(
        [
          { number: 1, saved: now - 30.9 * HOUR, stays: false },
          { number: 2, saved: now - 30.5 * HOUR, stays: false },
          { number: 3, saved: now - 30.1 * HOUR, stays: false },
          { number: 4, saved: now, stays: false },
        ],
        now,
      ),
    ).toEqual([2, 1])
    // Ten days ago: of a day's three the last stays, and the one with a name.
    const old = now - 10 * DAY
    expect(
      thinned(
        [
          { number: 1, saved: old, stays: false },
          { number: 2, saved: old + HOUR, stays: true },
          { number: 3, saved: old + 2 * HOUR, stays: false },
          { number: 4, saved: now, stays: false },
        ],
        now,
      ),
    ).toEqual([1])
    // The newest stays, however old.
    expect(thinned([{ number: 1, saved: old - 100 * DAY, stays: false }], now)).toEqual([])
  })

  test('whatever is saved when: what stays stays when it is thinned again, every day keeps one, and named ones never go', () => {
    const saves = fc.array(fc.record({ ago: fc.integer({ min: 0, max: 60 * 24 * 60 }), stays: fc.boolean() }), {
      minLength: 1,
      maxLength: 80,
    })
    fc.assert(
      fc.property(saves, list => {
        const all = list
          .sort((a, b) => b.ago - a.ago)
          .map(({ ago, stays }, i) => ({ number: i + 1, saved: now - ago * 60_000, stays }))
        const gone = new Set(thinned(all, now))
        const left = all.filter(r => !gone.has(r.number))
        expect(thinned(left, now)).toEqual([])
        for (const r of all.filter(r => gone.has(r.number))) {
          expect(r.stays || now - r.saved < EVERY_FOR || r.number === all.length).toBe(false)
          const span = now - r.saved < HOURLY_FOR ? HOUR : DAY
          expect(left.some(l => l.number > r.number && Math.floor(l.saved / span) === Math.floor(r.saved / span))).toBe(
            true,
          )
        }
      }),
    )
  })
})

const withMap: Preparation = {
  ...emptyPreparation(),
  maps: [{ name: 'edges', kind: 'convexity', radius: 0.02 } as unknown as Preparation['maps'][number]],
}
const text = (words: string): Buffer => Buffer.from(words)

/** A project with a mesh, two revisions, a picture with what it was decoded to, and a geometry map. */
async function filled(store: Store, id: string, saved = now, preparation = emptyPreparation()) {
  const put = (words: string, type = 'application/octet-stream') => putBlob(store, text(`${id} ${words}`), type)
  const [mesh, before, keys, picture, decoded, thumbnail] = [
    await put('mesh'),
    await put('mesh before'),
    await putBlob(store, text(JSON.stringify({ version: 1, parts: [] })), 'application/json'),
    await put('picture', 'image/jpeg'),
    await put('decoded', 'image/png'),
    await put('thumbnail', 'image/png'),
  ]
  const look = JSON.stringify({ ...emptyLook(), name: id })
  const own = JSON.stringify([{ name: 'moss.jpg', hash: picture }])
  await store.write(async rows => {
    await rows.insert(projects).values({
      id,
      name: `Project ${id}`,
      created: saved,
      changed: saved,
      meshHash: mesh,
      meshName: 'm.glb',
      keysHash: null,
      thumbnailHash: thumbnail,
      triangles: 1,
      parts: 1,
    })
    await rows
      .insert(looks)
      .values({ id: `look ${id}`, project: id, name: id, position: 0, made: saved, thumbnailHash: thumbnail })
    await rows.insert(revisions).values([
      {
        project: id,
        lookId: `look ${id}`,
        number: 1,
        saved,
        look,
        preparation: JSON.stringify(preparation),
        meshHash: before,
        meshName: 'b.glb',
        pictures: '[]',
      },
      {
        project: id,
        lookId: `look ${id}`,
        number: 2,
        saved: saved + HOUR * 0.1,
        look,
        preparation: JSON.stringify(preparation),
        meshHash: mesh,
        meshName: 'm.glb',
        pictures: own,
        author: 'Mara',
      },
    ])
    await rows.insert(pictures).values({ project: id, name: 'moss.jpg', hash: picture, added: saved })
    await rows.insert(decodings).values({ hash: picture, decoded })
  })
  return { mesh, before, keys, picture, decoded, thumbnail }
}
/** Gives project `a` a second look, saved once and removed at some time, and saves the first once more after it. */
async function withSecondLook(store: Store, removed: number, saved = now): Promise<void> {
  const [newest] = await store.rows.select().from(revisions).orderBy(desc(revisions.number)).limit(1)
  await store.write(async rows => {
    await rows.insert(looks).values({ id: 'second', project: 'a', name: 'Second', position: 1, made: saved, removed })
    await rows.insert(revisions).values({ ...newest!, lookId: 'second', number: 3, saved, meshHash: null })
    await rows.insert(revisions).values({ ...newest!, number: 4, saved })
  })
}
/** Makes everything that is there look as old as `ms`. */
const age = (store: Store, ms: number) => store.write(rows => rows.update(blobs).set({ used: now - ms }))
const folders = () => {
  const deliveries = newFolder()
  return { deliveries, cache: join(deliveries, 'cache') }
}

describe('tidying', () => {
  test('frees what nothing names, keeps what anything names, and lets young files alone', async () => {
    const store = await opened()
    const kept = await filled(store, 'a')
    const loose = await putBlob(store, text('loose'), 'image/png')
    const at = folders()
    await age(store, 30 * 60_000)
    expect(await tidy(store, at, { now })).toMatchObject({ files: 0 })
    await age(store, 2 * HOUR)
    const told = (await holdings(store, at, now)).find(h => h.kind === 'idle')!
    expect(told).toMatchObject({ count: 2, bytes: 5 + 24, frees: 5 + 24 })
    // The key table is named by nobody here either.
    expect(await tidy(store, at, { now })).toMatchObject({ files: 2, projects: 0, revisions: 0 })
    expect(await blobInfo(store, loose)).toBeUndefined()
    for (const hash of [kept.mesh, kept.before, kept.picture, kept.decoded, kept.thumbnail])
      expect(await blobInfo(store, hash)).toBeDefined()
    expect(await store.rows.select().from(chunks).where(eq(chunks.hash, loose))).toEqual([])
  })

  test('removed projects go after thirty days with all that only they name; sooner where that is asked for', async () => {
    const store = await opened()
    const [a, b] = [await filled(store, 'a'), await filled(store, 'b')]
    // Both projects show one picture.
    await store.write(rows => rows.update(pictures).set({ hash: a.picture }).where(eq(pictures.project, 'b')))
    await store.write(rows =>
      rows
        .update(projects)
        .set({ removed: now - 29 * DAY })
        .where(eq(projects.id, 'a')),
    )
    const at = folders()
    await store.write(rows =>
      rows.insert(deliveries).values({
        id: '00000000-0000-4000-8000-00000000000a',
        project: 'a',
        name: 'x',
        revision: 2,
        settings: '{}',
        asked: 1,
        state: 'done',
        tries: 1,
      }),
    )
    mkdirSync(join(at.deliveries, '00000000-0000-4000-8000-00000000000a'))
    await age(store, 2 * HOUR)
    expect(await tidy(store, at, { now })).toMatchObject({ projects: 0 })
    expect(await blobInfo(store, a.mesh)).toBeDefined()
    expect(await tidy(store, at, { now: now + 2 * DAY })).toMatchObject({ projects: 1 })
    expect(await store.rows.select({ id: projects.id }).from(projects)).toEqual([{ id: 'b' }])
    expect(await store.rows.select().from(revisions).where(eq(revisions.project, 'a'))).toEqual([])
    expect([await blobInfo(store, a.mesh), await blobInfo(store, a.before)]).toEqual([undefined, undefined])
    expect(await blobInfo(store, a.picture)).toBeDefined()
    expect(await blobInfo(store, a.decoded)).toBeDefined()
    expect(await blobInfo(store, b.mesh)).toBeDefined()
    expect(existsSync(join(at.deliveries, '00000000-0000-4000-8000-00000000000a'))).toBe(false)
    await store.write(rows => rows.update(projects).set({ removed: now }).where(eq(projects.id, 'b')))
    expect(await tidy(store, at, { now, removedFor: 0 })).toMatchObject({ projects: 1 })
  })

  test('old revisions are thinned with the meshes that only they had; named and delivered ones stay; maps go with the last that asks for them', async () => {
    const store = await opened()
    const old = await filled(store, 'a', now - 20 * DAY, withMap)
    const id = mapIdOf(old.mesh, withMap, withMap.maps[0]!)
    const stray = 'f'.repeat(64)
    const values = await putBlob(store, text('values of a map'), 'application/octet-stream')
    await store.write(rows =>
      rows.insert(geometryMaps).values([
        { id, hash: values, made: now - 3 * DAY },
        { id: stray, hash: old.keys, made: now - 3 * DAY },
      ]),
    )
    await age(store, 2 * HOUR)
    const at = folders()
    await store.write(rows => rows.update(revisions).set({ name: 'Approved' }).where(eq(revisions.number, 1)))
    expect(await tidy(store, at, { now })).toMatchObject({ revisions: 0, maps: 1 })
    expect((await store.rows.select({ id: geometryMaps.id }).from(geometryMaps)).map(m => m.id)).toEqual([id])
    await store.write(rows => rows.update(revisions).set({ name: null }).where(eq(revisions.number, 1)))
    await store.write(rows =>
      rows
        .insert(deliveries)
        .values({ id: 'd', project: 'a', name: 'x', revision: 1, settings: '{}', asked: 1, state: 'done', tries: 1 }),
    )
    expect(await tidy(store, at, { now })).toMatchObject({ revisions: 0 })
    await store.write(rows => rows.delete(deliveries))
    expect(await tidy(store, at, { now })).toMatchObject({ revisions: 1 })
    expect(await blobInfo(store, old.before)).toBeUndefined()
    expect(await blobInfo(store, old.mesh)).toBeDefined()
  })

  test('looks are thinned by themselves; one removed long ago goes with its revisions, except what was named or is the newest', async () => {
    const store = await opened()
    const at = folders()
    await filled(store, 'a', now - 20 * DAY)
    await withSecondLook(store, now - 29 * DAY, now - 20 * DAY + 0.2 * HOUR)
    // All four are of one day, and two of them the last of their look.
    expect(await tidy(store, at, { now })).toMatchObject({ revisions: 2 })
    const numbers = async () => (await store.rows.select().from(revisions)).map(r => r.number)
    expect(await numbers()).toEqual([3, 4])
    await store.write(rows => rows.update(revisions).set({ name: 'Approved' }).where(eq(revisions.number, 3)))
    await tidy(store, at, { now: now + 2 * DAY })
    expect(await numbers()).toEqual([3, 4])
    expect(await store.rows.select().from(looks)).toHaveLength(2)
    await store.write(rows => rows.update(revisions).set({ name: null }).where(eq(revisions.number, 3)))
    await tidy(store, at, { now: now + 2 * DAY })
    expect(await numbers()).toEqual([4])
    expect((await store.rows.select().from(looks)).map(l => l.id)).toEqual(['look a'])
    // The newest of a project stays, whoever's it is: it has the mesh and how it is prepared.
    await store.write(rows => rows.update(looks).set({ removed: now - 40 * DAY }))
    await tidy(store, at, { now })
    expect(await numbers()).toEqual([4])
  })

  test('folders of deliveries that nobody knows go when they are old', async () => {
    const store = await opened()
    const at = folders()
    const stray = join(at.deliveries, '11111111-0000-4000-8000-000000000000')
    mkdirSync(stray)
    writeFileSync(join(stray, 'a.png'), 'x')
    expect(await tidy(store, at)).toMatchObject({ deliveries: 0 })
    utimesSync(stray, new Date(Date.now() - 2 * HOUR), new Date(Date.now() - 2 * HOUR))
    expect(await tidy(store, at)).toMatchObject({ deliveries: 1 })
    expect(existsSync(stray)).toBe(false)
  })
})

describe('backup', () => {
  test('is a whole copy of one moment while others write, and comes back; what was there is kept', async () => {
    const folder = newFolder()
    const file = join(folder, 'u.db')
    const store = await opened(file)
    await filled(store, 'a')
    let writing = true
    const busy = (async () => {
      for (let i = 0; writing; i++) await store.write(rows => rows.update(projects).set({ changed: i }))
    })()
    const copy = join(folder, 'copies', 'one.db')
    await backup(file, copy)
    writing = false
    await busy
    expect(await damageOf(copy)).toEqual([])
    await expect(backup(file, copy)).rejects.toThrow('replaces nothing')
    await store.write(rows => rows.update(projects).set({ name: 'After the backup' }))
    // Onto a database that nobody has open: whether somebody has is tried with a running server elsewhere.
    await store.checkpoint()
    const closed = join(folder, 'closed.db')
    copyFileSync(file, closed)
    const before = (await restore(copy, closed))!
    expect((await (await opened(closed)).rows.select().from(projects))[0]!.name).toBe('Project a')
    expect((await (await opened(before)).rows.select().from(projects))[0]!.name).toBe('After the backup')
    const junk = join(folder, 'junk.db')
    writeFileSync(junk, 'x'.repeat(9000))
    await expect(restore(junk, join(folder, 'v.db'))).rejects.toThrow(BackupError)
    expect(existsSync(join(folder, 'v.db'))).toBe(false)
  })

  test('a check finds files that are not what they were, and what is missing', async () => {
    const store = await opened()
    const { mesh, before } = await filled(store, 'a')
    expect(await checkContents(store)).toEqual([])
    await store.write(rows =>
      rows
        .update(chunks)
        .set({ bytes: text('a mesX') })
        .where(eq(chunks.hash, mesh)),
    )
    await store.write(async rows => {
      await rows.run('PRAGMA defer_foreign_keys = ON')
      await rows.delete(chunks).where(eq(chunks.hash, before))
    })
    const found = await checkContents(store)
    expect(found).toHaveLength(2)
    expect(found.join()).toContain(mesh.slice(0, 12))
    // Nor is either handed out.
    for (const hash of [mesh, before]) await expect(getBlob(store, hash)).rejects.toThrow(/is not what it was/)
  })
})

describe('a project file', () => {
  const exported = async (store: Store, id: string): Promise<Buffer> => {
    const pieces: Uint8Array[] = []
    for await (const piece of exportProject(store, id)) pieces.push(piece)
    return Buffer.concat(pieces)
  }

  test('brings a project to another database whole: mesh, looks, pictures, maps and history', async () => {
    const [here, there] = [await opened(), await opened()]
    const own = await filled(here, 'a', now, withMap)
    const id = mapIdOf(own.mesh, withMap, withMap.maps[0]!)
    const map = await putBlob(here, text('values'), 'application/octet-stream')
    await here.write(rows => rows.insert(geometryMaps).values({ id, hash: map, made: now }))
    const file = await exported(here, 'a')
    const arrived = await importProject(there, file, 1e9)
    const [project] = await there.rows.select().from(projects).where(eq(projects.id, arrived))
    expect([project!.name, project!.meshHash]).toEqual(['Project a', own.mesh])
    const history = async (store: Store, of: string) =>
      (await store.rows.select().from(revisions).where(eq(revisions.project, of)).orderBy(revisions.number)).map(r => ({
        ...r,
        project: '',
        lookId: '',
        look: JSON.parse(r.look) as unknown,
        preparation: JSON.parse(r.preparation!) as unknown,
      }))
    expect(await history(there, arrived)).toEqual(await history(here, 'a'))
    expect((await there.rows.select().from(pictures)).map(p => [p.name, p.hash])).toEqual([['moss.jpg', own.picture]])
    expect(await there.rows.select().from(decodings)).toEqual([{ hash: own.picture, decoded: own.decoded }])
    expect((await there.rows.select().from(geometryMaps)).map(m => m.id)).toEqual([id])
    for (const hash of [own.mesh, own.before, own.picture, own.decoded, own.thumbnail, map]) {
      expect((await getBlob(there, hash))!.bytes.equals((await getBlob(here, hash))!.bytes)).toBe(true)
    }
    const [look] = await there.rows.select().from(looks)
    expect([look!.name, look!.project, look!.thumbnailHash]).toEqual(['a', arrived, own.thumbnail])
    expect((await there.rows.select().from(revisions)).map(r => r.lookId)).toEqual([look!.id, look!.id])
    // Again into the same database: a project of its own, sharing the files.
    expect(await importProject(there, file, 1e9)).not.toBe(arrived)
    expect(await there.rows.select().from(projects)).toHaveLength(2)
  })

  test('from before a project had several looks has one, called what its newest revision is', async () => {
    const [here, there] = [await opened(), await opened()]
    await filled(here, 'a')
    const files = unzipSync(await exported(here, 'a'))
    const {
      looks: _,
      sheets: __,
      ...document
    } = JSON.parse(Buffer.from(files['project.json']!).toString()) as {
      looks: unknown
      sheets: unknown
      revisions: { lookId?: string }[]
    }
    for (const r of document.revisions) delete r.lookId
    const old = zipSync({ ...files, 'project.json': text(JSON.stringify({ ...document, version: 1 })) })
    const arrived = await importProject(there, old, 1e9)
    const own = await there.rows.select().from(looks)
    expect(own.map(l => [l.name, l.project, l.removed])).toEqual([['a', arrived, null]])
    expect((await there.rows.select().from(revisions)).map(r => r.lookId)).toEqual([own[0]!.id, own[0]!.id])
  })

  test('keeps the looks of a project apart, with their order, what is removed, and the sheets', async () => {
    const [here, there] = [await opened(), await opened()]
    await filled(here, 'a')
    await withSecondLook(here, now)
    await here.write(rows =>
      rows.insert(sheets).values({ project: 'a', name: 'Reds', saved: 7, sheet: '{"kind":"rolls"}' }),
    )
    await importProject(there, await exported(here, 'a'), 1e9)
    const own = await there.rows.select().from(looks).orderBy(looks.position)
    expect(own.map(l => [l.name, l.removed])).toEqual([
      ['a', null],
      ['Second', now],
    ])
    const saves = await there.rows.select().from(revisions).orderBy(revisions.number)
    expect(saves.map(r => own.findIndex(l => l.id === r.lookId))).toEqual([0, 0, 1, 0])
    expect(await there.rows.select({ name: sheets.name, sheet: sheets.sheet }).from(sheets)).toEqual([
      { name: 'Reds', sheet: '{"kind":"rolls"}' },
    ])
  })

  test('that is cut off, changed, too large, or something else changes nothing', async () => {
    const store = await opened()
    await filled(store, 'a')
    const file = await exported(store, 'a')
    const files = unzipSync(file)
    const document = JSON.parse(Buffer.from(files['project.json']!).toString()) as {
      version: number
      revisions: { look: unknown; lookId: string }[]
      looks: { id: string }[]
    }
    const changed = (change: (d: typeof document) => void): Buffer => {
      const copy = structuredClone(document)
      change(copy)
      return Buffer.from(zipSync({ ...files, 'project.json': text(JSON.stringify(copy)) }))
    }
    const first = Object.keys(files).find(name => name.startsWith('files/'))!
    const wrong: [Buffer, RegExp][] = [
      [file.subarray(0, file.length - 200), /no zip, or it is cut off/],
      [readFileSync('package.json'), /no zip/],
      [Buffer.from(zipSync({ ...files, [first]: text('other bytes') })), /is not what it was/],
      [
        Buffer.from(zipSync(Object.fromEntries(Object.entries(files).filter(([name]) => name !== first)))),
        /is missing/,
      ],
      [
        changed(d => {
          d.version = 9
        }),
        /newer version/,
      ],
      [
        changed(d => {
          d.revisions[0]!.look = { hello: 1 }
        }),
        /./,
      ],
      [
        changed(d => {
          d.revisions[0]!.lookId = 'another'
        }),
        /revision 1 is of a look that is not in it/,
      ],
      [
        changed(d => {
          d.revisions.push(d.revisions[0]!)
        }),
        /the revision 1 stands in it twice/,
      ],
      [
        changed(d => {
          d.looks.push({ ...d.looks[0]! })
        }),
        /the look .* stands in it twice/,
      ],
      [Buffer.from(zipSync({ 'project.json': text('['.repeat(300)) })), /nests deeper than 200 levels/],
      [
        changed(d => {
          d.revisions.length = 0
        }),
        /revisions/,
      ],
    ]
    for (const [bytes, why] of wrong) await expect(importProject(store, bytes, 1e9)).rejects.toThrow(why)
    await expect(importProject(store, file, 100)).rejects.toThrow(ProjectFileError)
    expect(await store.rows.select().from(projects)).toHaveLength(1)
  })
})
