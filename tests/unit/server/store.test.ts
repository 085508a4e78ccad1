import { createClient } from '@libsql/client'
import { and, eq } from 'drizzle-orm'
import fc from 'fast-check'
import { createHash } from 'node:crypto'
import { chmodSync, copyFileSync, openSync, readFileSync, writeFileSync, writeSync, closeSync } from 'node:fs'
import { join } from 'node:path'
import { setTimeout as wait } from 'node:timers/promises'
import { describe, expect, test } from 'vitest'
import { damageOf, restore } from '../../../node/store/backup'
import { blobInfo, blobPieces, CHUNK, getBlob, putBlob } from '../../../node/store/blobs'
import { StoreError, told } from '../../../node/store/faults'
import { MIGRATIONS } from '../../../node/store/migrations'
import { chunks, looks, presets, projects, revisions } from '../../../node/store/schema'
import { Store } from '../../../node/store/store'
import { newFolder, opened } from './support'

const preset = (name: string) => ({ name, settings: '{}', saved: 1 })
const namesIn = async (file: string): Promise<string[]> => {
  const client = createClient({ url: `file:${file}`, concurrency: 1 })
  const { rows } = await client.execute('SELECT name FROM presets ORDER BY name')
  client.close()
  return rows.map(r => String(r.name))
}
const faultIn = (work: Promise<unknown>): Promise<string> =>
  work.then(
    () => 'nothing',
    (error: unknown) => (told(error) as StoreError).fault ?? String(error),
  )

describe('writes', () => {
  test('whatever is answered is in the file, while another program takes the database again and again', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.nat(40), { minLength: 2, maxLength: 6 }), async holds => {
        const file = join(newFolder(), 'u.db')
        const store = await opened(file)
        const other = createClient({ url: `file:${file}`, concurrency: 1, timeout: 1000 })
        const disturbed = (async () => {
          for (const ms of holds) {
            const held = await other.transaction('write').catch(() => undefined)
            await wait(ms)
            await held?.rollback()
            await wait(2)
          }
        })()
        const answered: string[] = []
        await Promise.all(
          Array.from({ length: 30 }, async (_, i) => {
            await wait(i % 7)
            await store.write(rows => rows.insert(presets).values(preset(`p${i}`)))
            answered.push(`p${i}`)
          }),
        )
        await disturbed
        other.close()
        // Seen from outside, as after a crash of the server: another connection knows what is committed.
        expect(await namesIn(file)).toEqual(answered.sort())
        expect(answered).toHaveLength(30)
      }),
      { numRuns: 6 },
    )
  })

  test('a write that met a lock leaves nothing behind that swallows the next ones', async () => {
    const file = join(newFolder(), 'u.db')
    const store = await opened(file, 60)
    const other = createClient({ url: `file:${file}`, concurrency: 1 })
    const held = await other.transaction('write')
    expect(await faultIn(store.write(rows => rows.insert(presets).values(preset('late'))))).toBe('busy')
    await held.rollback()
    await store.write(rows => rows.insert(presets).values(preset('after')))
    await store.write(rows => rows.insert(presets).values(preset('again')))
    expect(await namesIn(file)).toEqual(['again', 'after'].sort())
    other.close()
  })

  test('all of a write happens, or nothing of it; others go on in their order', async () => {
    const store = await opened()
    const failing = store.write(async rows => {
      await rows.insert(presets).values(preset('half'))
      throw new Error('no')
    })
    const next = store.write(rows => rows.insert(presets).values(preset('next')))
    await expect(failing).rejects.toThrow('no')
    await next
    expect((await store.rows.select().from(presets)).map(p => p.name)).toEqual(['next'])
  })

  test('what a write reads cannot change before it writes: of many saves of one revision, one is taken', async () => {
    const store = await opened()
    await store.write(rows => rows.insert(projects).values({ id: 'p', name: 'P', created: 1, changed: 1 }))
    const save = (look: string) =>
      store.write(async rows => {
        const all = await rows.select().from(revisions).where(eq(revisions.project, 'p'))
        if (all.length) return false
        await rows.insert(revisions).values({ project: 'p', number: 1, saved: 1, look })
        return true
      })
    const taken = await Promise.all(Array.from({ length: 20 }, (_, i) => save(String(i))))
    expect(taken.filter(Boolean)).toHaveLength(1)
    expect((await store.rows.select().from(revisions))[0]!.look).toBe(String(taken.indexOf(true)))
  })

  test('reads cannot write', async () => {
    const store = await opened()
    expect(
      await faultIn(
        store.rows
          .insert(presets)
          .values(preset('x'))
          .then(() => {}),
      ),
    ).toBe('readonly')
    expect(await store.rows.select().from(presets)).toEqual([])
  })

  test('reads go on while somebody writes', async () => {
    const store = await opened()
    let release = (): void => {}
    const gate = new Promise<void>(resolve => {
      release = resolve
    })
    const slow = store.write(async rows => {
      await rows.insert(presets).values(preset('slow'))
      await gate
    })
    expect(await store.rows.select().from(presets)).toEqual([])
    release()
    await slow
    expect(await store.rows.select().from(presets)).toHaveLength(1)
  })
})

describe('opening', () => {
  test('several servers on a new file all come up', async () => {
    const file = join(newFolder(), 'u.db')
    const all = await Promise.all(Array.from({ length: 4 }, () => opened(file)))
    await Promise.all(all.map((store, i) => store.write(rows => rows.insert(presets).values(preset(`s${i}`)))))
    expect(await namesIn(file)).toEqual(['s0', 's1', 's2', 's3'])
  })

  test("a newer database, another program's, a file that is none, and a folder that cannot be are each refused in a sentence", async () => {
    const folder = newFolder()
    const newer = join(folder, 'newer.db')
    const store = await opened(newer)
    await store.write(rows => rows.run(`INSERT INTO migrations VALUES (${MIGRATIONS.length})`))
    const problem = (await Store.open({ url: `file:${newer}` }).catch((error: StoreError) => error)) as StoreError
    expect([problem.fault, problem.message]).toEqual(['newer', expect.stringContaining('newer version')])

    const foreign = createClient({ url: `file:${join(folder, 'other.db')}` })
    await foreign.execute('CREATE TABLE notes (text TEXT)')
    foreign.close()
    expect(await faultIn(Store.open({ url: `file:${join(folder, 'other.db')}` }))).toBe('foreign')

    writeFileSync(join(folder, 'text.db'), 'a shopping list, saved under the wrong name'.repeat(100))
    expect(await faultIn(Store.open({ url: `file:${join(folder, 'text.db')}` }))).toBe('damaged')
    expect(await faultIn(Store.open({ url: `file:${join(folder, 'text.db', 'below', 'u.db')}` }))).toBe('unreachable')
  })

  test('a database that cannot be written says so, and one that is damaged', async () => {
    const folder = newFolder()
    const file = join(folder, 'u.db')
    const store = await opened(file)
    const hash = await putBlob(store, Buffer.alloc(3 * CHUNK, 7), 'application/octet-stream')
    await store.checkpoint()
    store.close()
    const damaged = join(folder, 'damaged.db')
    copyFileSync(file, damaged)
    const handle = openSync(damaged, 'r+')
    // All of the pieces' pages; the tables before them stay whole.
    const whole = 4096 * 80
    const rest = readFileSync(damaged).length - whole
    writeSync(handle, Buffer.alloc(rest, 0xff), 0, rest, whole)
    closeSync(handle)
    expect(readFileSync(damaged).equals(readFileSync(file))).toBe(false)
    expect(await damageOf(file)).toEqual([])
    expect((await damageOf(damaged)).length).toBeGreaterThan(0)
    // Answer by answer: what is whole can still be read, what is not says so.
    const reader = await opened(damaged)
    expect(await reader.rows.select().from(presets)).toEqual([])
    expect(await faultIn(getBlob(reader, hash))).toBe('damaged')
    if (process.getuid?.() !== 0) {
      chmodSync(file, 0o444)
      const locked = await opened(file)
      expect(await faultIn(locked.write(r => r.insert(presets).values(preset('x'))))).toBe('readonly')
    }
  })

  test('nothing is written into a damaged file any more', async () => {
    const store = await opened()
    store.damage = new StoreError('damaged', 'The file is damaged.')
    expect(await faultIn(store.write(rows => rows.insert(presets).values(preset('x'))))).toBe('damaged')
  })

  test('each fault of SQLite has a sentence of its own', () => {
    const faults = {
      SQLITE_BUSY_SNAPSHOT: 'busy',
      SQLITE_FULL: 'full',
      SQLITE_READONLY_DBMOVED: 'readonly',
      SQLITE_CORRUPT_VTAB: 'damaged',
      SQLITE_CANTOPEN: 'unreachable',
    }
    const sentences = Object.entries(faults).map(([code, fault]) => {
      const error = told(new Error('outer', { cause: Object.assign(new Error('inner'), { code }) })) as StoreError
      expect(error.fault).toBe(fault)
      return error.message
    })
    expect(new Set(sentences).size).toBe(5)
    const other = Object.assign(new Error('UNIQUE constraint failed'), { code: 'SQLITE_CONSTRAINT' })
    expect(told(other)).toBe(other)
  })
})

describe('files', () => {
  test('come back as they were, piece by piece, whatever their size', async () => {
    const store = await opened()
    for (const size of [0, 1, CHUNK - 1, CHUNK, CHUNK + 1, 5 * CHUNK + 17]) {
      const bytes = Buffer.from(Uint8Array.from({ length: size }, (_, i) => (i * 31 + (i >> 8)) & 255))
      const hash = await putBlob(store, bytes, 'image/png')
      const info = (await blobInfo(store, hash))!
      expect([info.size, info.type]).toEqual([size, 'image/png'])
      expect((await getBlob(store, hash))!.bytes.equals(bytes)).toBe(true)
      const pieces: Buffer[] = []
      for await (const piece of blobPieces(store, info)) pieces.push(piece)
      expect(pieces.map(p => p.length)).toEqual(
        Array.from({ length: Math.ceil(size / CHUNK) }, (_, i) => Math.min(CHUNK, size - i * CHUNK)),
      )
      expect(await putBlob(store, bytes, 'image/png')).toBe(hash)
    }
  })

  test('a file whose pieces are still arriving is not there yet, and arrives all the same when it is sent again', async () => {
    const store = await opened()
    const bytes = Buffer.alloc(2 * CHUNK + 5, 3)
    const hash = await putBlob(store, bytes, 'image/png')
    // As a server leaves it that is killed between two pieces.
    await store.write(async rows => {
      await rows.run(`UPDATE blobs SET size = -1`)
      await rows.delete(chunks).where(eq(chunks.number, 2))
    })
    expect(await blobInfo(store, hash)).toBeUndefined()
    expect(await getBlob(store, hash)).toBeUndefined()
    expect(await putBlob(store, bytes, 'image/png')).toBe(hash)
    expect((await getBlob(store, hash))!.bytes.equals(bytes)).toBe(true)
  })
})

test('a database from before keeps its files, its looks, and its newest revisions get the mesh and the pictures that are there', async () => {
  const file = join(newFolder(), 'u.db')
  const old = createClient({ url: `file:${file}`, concurrency: 1 })
  await old.execute('CREATE TABLE migrations (number INTEGER PRIMARY KEY)')
  for (let i = 0; i < 4; i++)
    await old.batch([...MIGRATIONS[i]!, { sql: 'INSERT INTO migrations VALUES (?)', args: [i] }], 'write')
  const bytes = Uint8Array.from({ length: 2 * CHUNK + 9 }, (_, i) => (i * 7) & 255)
  const sha = (of: Uint8Array): string => createHash('sha256').update(of).digest('hex')
  const [mesh, empty] = [sha(bytes), sha(new Uint8Array())]
  await old.batch(
    [
      { sql: `INSERT INTO blobs VALUES (?, 'application/octet-stream', ?, ?)`, args: [mesh, bytes.length, bytes] },
      `INSERT INTO blobs VALUES ('${empty}', 'image/png', 0, x'')`,
      `INSERT INTO projects (id, name, created, changed, mesh_hash, mesh_name, triangles, parts) VALUES ('p', 'Pier', 1, 2, '${mesh}', 'pier.glb', 12, 3)`,
      `INSERT INTO projects (id, name, created, changed) VALUES ('q', 'Empty', 3, 4)`,
      `INSERT INTO revisions VALUES ('p', 1, 10, '{}', NULL), ('p', 2, 20, '{"name":"Moss"}', NULL), ('q', 1, 30, '{"name":""}', NULL)`,
      `INSERT INTO pictures (project, name, hash, added, decoded) VALUES ('p', 'moss.jpg', '${empty}', 5, '${empty}')`,
    ],
    'write',
  )
  old.close()
  const store = await opened(file)
  expect((await getBlob(store, mesh))!.bytes.equals(Buffer.from(bytes))).toBe(true)
  expect((await getBlob(store, empty))!.bytes).toHaveLength(0)
  const own = eq(revisions.project, 'p')
  const [first, second] = await store.rows.select().from(revisions).where(own).orderBy(revisions.number)
  expect([first!.meshHash, first!.pictures]).toEqual([null, null])
  expect([second!.meshHash, second!.meshName, second!.triangles, second!.parts]).toEqual([mesh, 'pier.glb', 12, 3])
  expect(JSON.parse(second!.pictures!)).toEqual([{ name: 'moss.jpg', hash: empty }])
  // A project had one look then: its name is the one in the newest save.
  expect(await store.rows.select().from(looks).orderBy(looks.id)).toEqual([
    { id: 'p', project: 'p', name: 'Moss', position: 0, made: 1, removed: null, thumbnailHash: null },
    { id: 'q', project: 'q', name: 'Look', position: 0, made: 3, removed: null, thumbnailHash: null },
  ])
  expect([first!.lookId, second!.lookId]).toEqual(['p', 'p'])
})

describe('restoring', () => {
  test('takes nothing that is not ours, and leaves what was there', async () => {
    const folder = newFolder()
    const to = join(folder, 'u.db')
    ;(await opened(to)).close()
    const before = readFileSync(to)
    const [empty, foreign] = [join(folder, 'empty.db'), join(folder, 'foreign.db')]
    writeFileSync(empty, '')
    const other = createClient({ url: `file:${foreign}` })
    await other.execute('CREATE TABLE songs (title TEXT)')
    other.close()
    for (const from of [empty, foreign])
      await expect(restore(from, to)).rejects.toThrow(`${from} is no backup of Ubblet's`)
    expect(readFileSync(to).equals(before)).toBe(true)
  })
})

test('a file of which one bit has changed never comes whole, wherever the bit lies', async () => {
  const store = await opened()
  const bytes = Buffer.alloc(3 * CHUNK - 7, 'pier')
  const hash = await putBlob(store, bytes, 'application/octet-stream')
  const sizeOf = async (): Promise<number> => {
    let size = 0
    for await (const piece of blobPieces(store, { hash, type: '', size: bytes.length })) size += piece.length
    return size
  }
  expect(await sizeOf()).toBe(bytes.length)
  for (const number of [0, 1, 2]) {
    const at = and(eq(chunks.hash, hash), eq(chunks.number, number))
    const [kept] = await store.rows.select({ bytes: chunks.bytes }).from(chunks).where(at)
    const flipped = Buffer.from(kept!.bytes)
    flipped[5]! ^= 1
    await store.write(rows => rows.update(chunks).set({ bytes: flipped }).where(at))
    await expect(sizeOf()).rejects.toThrow(/is not what it was/)
    await store.write(rows => rows.update(chunks).set({ bytes: kept!.bytes }).where(at))
  }
})
