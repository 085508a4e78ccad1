import { describe, expect, test } from 'vitest'
import { emptyPreparation } from '../../core/mesh/preparation'
import { another, ended, glb, named, project, Server, type Delivery, type Project } from './support'

interface Look {
  id: string
  name: string
  removed: number | null
}
interface Opened extends Omit<Project, 'preparation'> {
  looks: Look[]
  lookId: string
  pictured: boolean
  preparation: { scale: number }
}
const sentence = (answer: { json: unknown }): string => (answer.json as { message: string }).message
const scaled = (scale: number) => ({ ...emptyPreparation(), scale })

/** A project of two looks, `First` and `Second`, and what a test asks of it. */
async function twoLooks() {
  const server = await Server.start()
  const { id } = await project(server, 2)
  const at = `/api/projects/${id}`
  const { lookId: first } = await server.get<Opened>(at)
  await server.ask('PUT', `${at}/look?look=${first}`, { base: 1, look: named('First') })
  const second = (await server.ask<{ id: string }>('POST', `${at}/looks`, { name: 'Second' })).json.id
  const now = (look?: string) => server.get<Opened>(look ? `${at}?look=${look}` : at)
  const save = (look: string, base: number, name: string, more: object = {}) =>
    server.ask<{ revision: number }>('PUT', `${at}/look?look=${look}`, { base, look: named(name), ...more })
  return { server, at, first, second, now, save }
}

describe('looks of a project', () => {
  test('are saved side by side, each based on its own last save', async () => {
    const { server, at, first, second, now, save } = await twoLooks()
    expect((await now()).looks.map(l => l.name)).toEqual(['First', 'Second'])
    // The newest revision is the second look's; the first one is still based on what it was.
    expect((await save(first, 2, 'First again')).json).toEqual({ revision: 4 })
    expect((await save(second, 3, 'Second again')).json).toEqual({ revision: 5 })
    const stale = await save(first, 2, 'From a window that slept')
    expect([stale.status, (stale.json as unknown as { data: unknown }).data]).toEqual([409, { revision: 5 }])
    expect([(await now(first)).look.name, (await now(second)).look.name]).toEqual(['First again', 'Second again'])
    expect((await now()).lookId).toBe(second)
    const numbers = async (look: string) =>
      (await server.get<{ number: number }[]>(`${at}/revisions?look=${look}`)).map(r => r.number)
    expect(await numbers(first)).toEqual([4, 2, 1])
    expect(await numbers(second)).toEqual([5, 3])
    expect((await server.ask('GET', `${at}?look=${at.split('/').at(-1)}`)).status).toBe(404)
    expect((await server.ask('GET', `${at}?look=x`)).status).toBe(404)
  })

  test('share the mesh and how it is prepared: who prepared from an older one is asked', async () => {
    const { first, second, now, save } = await twoLooks()
    expect((await save(first, 3, 'First', { preparation: scaled(0.01) })).json).toEqual({ revision: 4 })
    expect((await now(second)).preparation.scale).toBe(0.01)
    expect((await save(second, 3, 'Second', { preparation: scaled(0.1) })).status).toBe(409)
    expect((await save(second, 4, 'Second')).json).toEqual({ revision: 5 })
    expect((await now(first)).preparation.scale).toBe(0.01)
  })

  test('have a picture until they or the mesh change, also where another look was saved last', async () => {
    const { server, at, first, second, now, save } = await twoLooks()
    const png = Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a)
    const take = (look: string, revision: number) =>
      server.ask('PUT', `${at}/thumbnail?look=${look}&revision=${revision}`, png)
    const pictured = async () => [(await now(first)).pictured, (await now(second)).pictured]
    expect(await pictured()).toEqual([false, false])
    // Revision 3 is the second look's; the first was saved as revision 2, and is the same since.
    expect((await take(first, 3)).status).toBe(200)
    expect(await pictured()).toEqual([true, false])
    await take(second, 3)
    expect(await pictured()).toEqual([true, true])
    await save(second, 3, 'Second again')
    expect(await pictured()).toEqual([true, false])
    // One that was drawn before the look was saved is not of what it is now.
    await take(second, 3)
    expect(await pictured()).toEqual([true, false])
    await save(second, 4, 'Second', { preparation: scaled(0.1) })
    expect(await pictured()).toEqual([false, false])
  })

  test('are restored alone', async () => {
    const { server, at, first, second, now, save } = await twoLooks()
    await save(first, 2, 'First, spoiled')
    await save(second, 3, 'Second, better')
    expect((await server.ask('POST', `${at}/revisions/2/restore`, { base: 5 })).json).toEqual({ revision: 6 })
    expect([(await now(first)).look.name, (await now(second)).look.name]).toEqual(['First', 'Second, better'])
    expect((await now()).looks.map(l => l.name)).toEqual(['First', 'Second, better'])
  })

  test('are copied, put in order, removed and brought back; one stays', async () => {
    const { server, at, first, second, now } = await twoLooks()
    const copy = await server.ask<{ id: string; looks: Look[] }>('POST', `${at}/looks`, { name: 'Third', from: first })
    const third = copy.json.id
    expect(copy.json.looks.map(l => l.name)).toEqual(['First', 'Second', 'Third'])
    expect((await now(third)).look).toEqual({ ...(await now(first)).look, name: 'Third' })
    const change = (look: string, to: object) => server.ask<{ looks: Look[] }>('PATCH', `${at}/looks/${look}`, to)
    expect((await change(third, { position: 0 })).json.looks.map(l => l.name)).toEqual(['Third', 'First', 'Second'])
    expect((await change(third, { position: 1 })).json.looks.map(l => l.name)).toEqual(['First', 'Third', 'Second'])
    for (const look of [third, second]) expect((await change(look, { removed: true })).status).toBe(200)
    const last = await change(first, { removed: true })
    expect([last.status, sentence(last)]).toEqual([422, expect.stringContaining('keeps one look at least')])
    // Without being asked for, a removed look is not opened, though it was saved last.
    expect((await now()).lookId).toBe(first)
    expect((await server.get<{ looks: number }[]>('/api/projects'))[0]!.looks).toBe(1)
    expect((await change(second, { removed: false })).json.looks.filter(l => l.removed === null)).toHaveLength(2)
    const doubled = (await server.ask<Project>('POST', `${at}/duplicate`, {})).json
    const there = await server.get<Opened>(`/api/projects/${doubled.id}`)
    expect([there.looks.map(l => l.name), there.look.name]).toEqual([['First', 'Second'], 'First'])
    expect((await change(doubled.id, { removed: true })).status).toBe(404)
  })

  test('are delivered as they are now, on the mesh that is there now', async () => {
    const { server, at, first, second, now, save } = await twoLooks()
    await server.ask('PUT', `${at}/mesh?name=three.glb&base=3&look=${second}`, await glb(3))
    const settings = { size: 256, maps: [], meshes: [], materials: [], tables: ['csv'], look: true }
    const ask = (of: object) => server.ask<Delivery>('POST', `${at}/deliveries`, { name: 'x', settings, ...of })
    const made = (await ask({ look: first })).json
    // Its last save was of the mesh before: it gets a revision with the one that is there.
    expect(made.revision).toBe(5)
    expect((await ask({ look: first })).json.revision).toBe(5)
    expect((await ended(server, (await now()).id, made.id)).message).toBeNull()
    const under = `${at}/deliveries/${made.id}/files`
    const { files } = await server.get<{ files: { path: string }[] }>(`${under}/manifest.json`)
    const table = await server.ask('GET', `${under}/${files.find(f => f.path.endsWith('.csv'))!.path}`)
    expect(table.bytes.toString().trim().split('\n')).toHaveLength(4)
    for (const wrong of [{}, { look: first, revision: 1 }]) expect((await ask(wrong)).status).toBe(400)
    // Each says which look it is of, and whether that is still as it was delivered.
    const known = () => server.get<{ look: string; current: boolean }>(`${at}/deliveries/${made.id}`)
    expect(await known()).toMatchObject({ look: first, current: true })
    await save(second, 5, 'Second again')
    expect(await known()).toMatchObject({ look: first, current: true })
    await save(first, 6, 'First again')
    expect(await known()).toMatchObject({ look: first, current: false })
  }, 60_000)

  test('a window is told when its look or the mesh was saved elsewhere, and not when another look was', async () => {
    const { server, at, first, second, save } = await twoLooks()
    const behind = async (base: number) =>
      (await server.ask<{ behind: boolean }>('POST', `${at}/presence`, { window: 'w1-1', look: first, base })).json
        .behind
    expect(await behind(2)).toBe(false)
    await save(second, 3, 'Second again')
    expect(await behind(2)).toBe(false)
    await save(second, 4, 'Second again', { preparation: scaled(0.01) })
    expect(await behind(2)).toBe(true)
    expect(await behind(5)).toBe(false)
    await save(first, 5, 'First again')
    expect([await behind(5), await behind(6)]).toEqual([true, false])
  })

  test('a database from before they were kept apart opens, with one look to each project', async () => {
    const server = await Server.start()
    const { id } = await project(server, 2)
    await server.ask('PUT', `/api/projects/${id}/look`, { base: 1, look: named('Moss') })
    await server.stop()
    const old = another(server)
    await old.batch(
      [
        'DELETE FROM migrations WHERE number >= 6',
        ...['grants', 'members', 'groups', 'dense_meshes', 'sessions', 'devices', 'tries', 'trail'].map(
          table => `DROP TABLE ${table}`,
        ),
        'CREATE TABLE secrets (name TEXT PRIMARY KEY, value TEXT NOT NULL)',
        ...['scope', 'ends'].map(column => `ALTER TABLE tokens DROP COLUMN ${column}`),
        ...['access', 'owner'].map(column => `ALTER TABLE projects DROP COLUMN ${column}`),
        'DROP TABLE looks',
        'DROP TABLE sheets',
        'ALTER TABLE revisions DROP COLUMN look_id',
      ],
      'write',
    )
    old.close()
    const again = await Server.start({}, server.folder)
    const there = await again.get<Opened>(`/api/projects/${id}`)
    expect([there.look.name, there.revision, there.looks]).toEqual([
      'Moss',
      2,
      [{ id, name: 'Moss', removed: null, thumbnail: null }],
    ])
    expect((await again.ask('PUT', `/api/projects/${id}/look`, { base: 2, look: named('Moss 2') })).json).toEqual({
      revision: 3,
    })
    expect((await again.get<Opened>(`/api/projects/${id}`)).looks[0]!.name).toBe('Moss 2')
  })
})
