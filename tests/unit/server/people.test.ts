import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { notNamed, withGrant, withoutGrant } from '../../../app/people/access'
import { placeHere } from '../../../app/people/placeHere'
import {
  accessOf,
  groupList,
  opens,
  removeGroup,
  roleIn,
  setAccess,
  setGroup,
  visible,
} from '../../../node/store/access'
import { weakness } from '../../../node/store/passwords'
import { deviceOf, openSession, personBySession, rememberDevice, SESSION_LASTS } from '../../../node/store/sessions'
import { projects, sessions, trail, tokens } from '../../../node/store/schema'
import { lesser, makeToken, personByToken } from '../../../node/store/tokens'
import { note, trailLines, trailOf } from '../../../node/store/trail'
import { beginTry, COUNTS_FOR, MOST_FOR_NAME, MOST_FOR_NETWORK, networkOf, rightTry } from '../../../node/store/tries'
import { addUser, changeUser, removeUser } from '../../../node/store/users'
import { meansApi } from '../../../server/utils/addresses'
import { declarationIn, refusalByLock, refusalOf } from '../../../server/rights/declare'
import { opened } from './support'

const DAY = 86_400_000
const PASSWORD = 'tarred rope on deck'

describe('what a route declares', () => {
  const file = (text: string) => `export default route(${text}, async event => event)`
  test('is read from its source, and refused where something is missing', () => {
    expect(declarationIn('a.get.ts', file(`{ may: 'look', project: 'present' }`))).toEqual({
      may: 'look',
      project: 'present',
    })
    const wrong: [string, string, string][] = [
      ['a.get.ts', 'export default defineEventHandler(() => 1)', 'declares no rights'],
      ['a.put.ts', file(`{ may: 'work' }`), 'must say what it does'],
      ['a.get.ts', file(`{ may: 'work', does: 'x' }`), 'must not say what it does'],
      ['a.put.ts', file(`{ may: 'work', project: 'any', does: 'x' }`), 'must say whether a lock holds it'],
      ['a.ts', file(`{ may: 'work' }`), 'does not end in its method'],
    ]
    for (const [path, source, why] of wrong) expect(() => declarationIn(path, source)).toThrow(why)
  })

  test('decides by person, role and lock', () => {
    const work = { may: 'work', lock: 'holds' } as const
    expect(refusalOf(work, undefined)?.[0]).toBe(401)
    expect(refusalOf(work, { name: 'Lena', role: 'look' })).toEqual([
      403,
      'This takes the role "work"; Lena has the role "look".',
    ])
    expect(refusalOf(work, { name: 'Wim', role: 'work' })).toBeUndefined()
    expect(refusalOf({ ...work, byHand: true }, { name: 'Wim', role: 'manage', token: 't' })?.[0]).toBe(403)
    expect(refusalOf({ may: 'everybody' }, undefined)).toBeUndefined()
    const locked = { locked: 1, lockedBy: 'Mara' }
    expect(refusalByLock(work, locked)?.[1]).toContain('by Mara')
    expect(refusalByLock({ ...work, lock: 'passes' }, locked)).toBeUndefined()
    expect(refusalByLock(work, { locked: null, lockedBy: null })).toBeUndefined()
  })
})

test('an address means the interface to programs, however it is spelled', () => {
  const meant = ['/api/x', '/%61pi/x', '//api', '/x/..//API/y', '/%2561pi/x', '\\api\\x', '/./api?x', '/%252561pi']
  expect(meant.filter(path => !meansApi(path))).toEqual([])
  expect(['/', '/apis', '/project/api', '/x?/api/', '/_nuxt/api.js'].filter(meansApi)).toEqual([])
})

test('after signing in one goes to a place of this application', () => {
  expect(placeHere('/project/1?tab=mesh#x')).toBe('/project/1?tab=mesh#x')
  for (const evil of [
    '//evil.example',
    '/\\evil',
    '/\t/evil.example',
    'https://evil.example',
    'javascript:1',
    '/.//evil',
  ])
    expect([evil, placeHere(evil)]).toEqual([evil, '/'])
})

describe('sessions and tokens', () => {
  test('end when they end, and are kept as hashes only', async () => {
    const store = await opened()
    await addUser(store, 'Mara', PASSWORD, 'manage')
    const secret = await openSession(store, 'Mara', 1000)
    expect(await personBySession(store.rows, secret, 1000 + SESSION_LASTS - 1)).toEqual({
      name: 'Mara',
      role: 'manage',
    })
    expect(await personBySession(store.rows, secret, 1000 + SESSION_LASTS)).toBeUndefined()
    const made = await makeToken(store, { user: 'mara', title: 'farm', scope: 'look', days: 2 }, 1000)
    expect(await personByToken(store, made.token, 1000 + 2 * DAY - 1)).toMatchObject({ name: 'Mara', role: 'look' })
    expect(await personByToken(store, made.token, 1000 + 2 * DAY)).toBeUndefined()
    const kept = JSON.stringify([await store.rows.select().from(sessions), await store.rows.select().from(tokens)])
    for (const hidden of [secret, made.token]) expect(kept).not.toContain(hidden)
    expect(lesser('manage', 'look')).toBe('look')
    expect(lesser('look', 'work')).toBe('look')
  })

  test('end with a new password; a new role ends sessions alone', async () => {
    const store = await opened()
    await addUser(store, 'Mara', PASSWORD, 'manage')
    await addUser(store, 'Wim', PASSWORD, 'work')
    const [mara, wim] = [await openSession(store, 'Mara'), await openSession(store, 'Wim')]
    const { token } = await makeToken(store, { user: 'Wim', title: 'x', scope: 'work', days: 1 })
    const device = await rememberDevice(store, 'Wim')
    await changeUser(store, 'wim', { role: 'look' })
    expect(await personBySession(store.rows, wim)).toBeUndefined()
    expect(await personByToken(store, token)).toMatchObject({ role: 'look' })
    expect(await deviceOf(store.rows, device, 'wim')).toBeDefined()
    expect(await deviceOf(store.rows, device, 'Mara')).toBeUndefined()
    await changeUser(store, 'Wim', { password: 'another rope on deck' })
    expect(await personByToken(store, token)).toBeUndefined()
    expect(await deviceOf(store.rows, device, 'Wim')).toBeUndefined()
    expect(await personBySession(store.rows, mara)).toBeDefined()
  })

  test('two who manage and demote each other at once leave one', async () => {
    for (const act of [
      (store: Awaited<ReturnType<typeof opened>>, name: string) => changeUser(store, name, { role: 'look' }),
      removeUser,
    ]) {
      const store = await opened()
      await addUser(store, 'Mara', PASSWORD, 'manage')
      await addUser(store, 'Wim', PASSWORD, 'manage')
      const said = await Promise.all([act(store, 'Wim'), act(store, 'Mara')])
      expect(said.sort()).toEqual(['last', undefined])
    }
  })
})

describe('wrong passwords', () => {
  const trier = (over: object = {}) => ({ network: '10.1.1.1', name: 'Mara', ...over })
  test('make a name wait whatever the address; another name, and a browser of before, need not', async () => {
    const store = await opened()
    for (let i = 0; i < MOST_FOR_NAME; i++)
      expect((await beginTry(store, trier({ network: `10.1.1.${i}` }), 1000 * i)).wait).toBe(0)
    const now = 1000 * MOST_FOR_NAME
    const waits = await beginTry(store, trier({ name: 'MARA', network: '10.9.9.9' }), now)
    expect(waits).toEqual({ wait: (COUNTS_FOR - now) / 1000, rows: [] })
    expect((await beginTry(store, trier({ name: 'Wim' }), now)).wait).toBe(0)
    expect((await beginTry(store, trier({ device: 'd1' }), now)).wait).toBe(0)
    // The first one does not count any more.
    expect((await beginTry(store, trier(), COUNTS_FOR)).wait).toBe(0)
    expect((await beginTry(store, trier(), COUNTS_FOR)).wait).toBeGreaterThan(0)
  })

  test('a right one takes its own try off its network, and no other', async () => {
    const store = await opened()
    for (let i = 0; i < 3 * MOST_FOR_NETWORK; i++) {
      const begun = await beginTry(store, trier({ name: `p${i}` }), 1)
      expect(begun.wait).toBe(0)
      await rightTry(store, trier({ name: `p${i}` }), begun)
    }
    for (let i = 0; i < MOST_FOR_NETWORK; i++) await beginTry(store, trier({ name: `q${i}` }), 2)
    const own = await beginTry(store, trier({ name: 'other', network: '10.2.2.2' }), 3)
    await rightTry(store, trier({ name: 'other', network: '10.2.2.2' }), own)
    expect((await beginTry(store, trier({ name: 'r' }), 3)).wait).toBeGreaterThan(0)
  })

  test('all addresses of an IPv6 network are one', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 65535 }), { minLength: 8, maxLength: 8 }), parts => {
        const text = parts.map(p => p.toString(16))
        const other = [...text.slice(0, 4), '1', '2', '3', '4'].join(':')
        expect(networkOf(text.join(':'))).toBe(networkOf(other))
      }),
    )
    expect(networkOf('2001:db8::1')).toBe('2001:db8:0:0::/64')
    expect(networkOf('2001:db8:0:1::1')).not.toBe(networkOf('2001:db8::1'))
    expect(networkOf('::ffff:10.0.0.7')).toBe('10.0.0.7')
    expect(networkOf('10.0.0.7')).toBe('10.0.0.7')
  })
})

test('passwords that everybody tries first are none', async () => {
  for (const weak of ['aaaaaaaaaa', '1234567890', 'password123', 'qwertyuiop', 'mara123456'])
    expect([weak, await weakness(weak, 'Mara')]).toEqual([weak, expect.stringContaining('guessed too easily')])
  expect(await weakness(PASSWORD, 'Mara')).toBeUndefined()
  expect(await weakness('Halvard Quillfeather', 'Halvard Quillfeather')).toBeDefined()
})

test('the trail is read from its end, page by page, and tells each deed once', async () => {
  const store = await opened()
  for (let i = 0; i < 7; i++)
    await note(store, { who: i % 2 ? 'Mara' : null, address: '::1', did: `deed ${i}`, project: i % 3 ? null : 'p' }, i)
  const first = await trailOf(store.rows, { most: 3 })
  expect(first.map(d => d.did)).toEqual(['deed 6', 'deed 5', 'deed 4'])
  expect((await trailOf(store.rows, { most: 9, before: first[2]!.id })).map(d => d.did)).toHaveLength(4)
  expect((await trailOf(store.rows, { most: 9, project: 'p' })).map(d => d.at)).toEqual([6, 3, 0])
  const lines: unknown[] = []
  for await (const line of trailLines(store.rows)) lines.push(JSON.parse(line))
  expect(lines).toHaveLength((await store.rows.select().from(trail)).length)
  expect(lines[0]).toMatchObject({ at: '1970-01-01T00:00:00.006Z', who: null, did: 'deed 6', project: 'p' })
})

describe('whom a project is open to', () => {
  const made = { created: 1, changed: 1, access: 'all' as const }
  const asker = (name: string, role: 'look' | 'work' | 'manage') => ({ name, role })
  async function pier() {
    const store = await opened()
    for (const [name, role] of [
      ['Mara', 'manage'],
      ['Wim', 'work'],
      ['Lena', 'look'],
      ['Ode', 'work'],
    ] as const)
      await addUser(store, name, PASSWORD, role)
    const own = { ...made, id: 'p', name: 'Pier', owner: 'Wim' }
    await store.write(rows => rows.insert(projects).values([own, { ...made, id: 'q', name: 'Quay' }]))
    const roles = async () => {
      const all = await store.rows.select().from(projects)
      const project = all.find(p => p.id === 'p')!
      const each: Record<string, unknown> = {}
      for (const person of [
        asker('Mara', 'manage'),
        asker('wim', 'work'),
        asker('Lena', 'look'),
        asker('Ode', 'work'),
      ]) {
        const role = await roleIn(store.rows, project, person)
        const seen = (await visible(store.rows, all, person)).find(p => p.id === 'p')?.role
        expect(seen).toBe(role)
        each[person.name] = role ?? null
      }
      return each
    }
    return { store, roles }
  }

  test('everybody has their own role in an open one; in another, who is named, by name or by group', async () => {
    const { store, roles } = await pier()
    expect(await roles()).toEqual({ Mara: 'manage', wim: 'work', Lena: 'look', Ode: 'work' })
    expect(await setAccess(store, 'p', 'named', [])).toBeUndefined()
    expect(await roles()).toEqual({ Mara: 'manage', wim: 'work', Lena: null, Ode: null })
    expect(await setGroup(store, 'Roofs', ['lena'])).toBeUndefined()
    await setAccess(store, 'p', 'named', [
      { kind: 'group', name: 'roofs', role: 'work' },
      { kind: 'user', name: 'LENA', role: 'look' },
      { kind: 'user', name: 'Ode', role: 'look' },
    ])
    expect(await roles()).toEqual({ Mara: 'manage', wim: 'work', Lena: 'work', Ode: 'look' })
    expect(await groupList(store.rows)).toEqual([{ name: 'Roofs', members: ['Lena'] }])
    expect(await removeGroup(store, 'ROOFS')).toBe(true)
    expect(await roles()).toEqual({ Mara: 'manage', wim: 'work', Lena: 'look', Ode: 'look' })
    // Whoever leaves takes along what was open to them: a new user of that name gets nothing of it.
    await removeUser(store, 'Ode')
    expect((await accessOf(store.rows, 'p')).grants).toEqual([{ kind: 'user', name: 'LENA', role: 'look' }])
  })

  test('is not said for somebody who is not there, nor by whoever has not made it', async () => {
    const { store } = await pier()
    const nobody = { kind: 'user' as const, name: 'Nobody', role: 'work' as const }
    expect(await setAccess(store, 'p', 'named', [nobody])).toEqual(nobody)
    expect(await accessOf(store.rows, 'p')).toEqual({ access: 'all', grants: [] })
    expect(await setGroup(store, 'Roofs', ['Nobody'])).toBe('Nobody')
    expect(await groupList(store.rows)).toEqual([])
    const project = { id: 'p', access: 'all' as const, owner: 'Wim' }
    expect(opens(project, asker('WIM', 'work'), 'work')).toBe(true)
    expect(opens(project, asker('Ode', 'work'), 'work')).toBe(false)
    expect(opens(project, asker('Wim', 'look'), 'look')).toBe(false)
    expect(opens({ ...project, owner: null }, asker('Ode', 'work'), 'manage')).toBe(true)
  })

  test('is chosen from those who are not named yet', () => {
    const known = { users: ['Mara', 'Wim'], groups: ['Wim'] }
    const one = withGrant([], 'group:Wim')
    expect(one).toEqual([{ kind: 'group', name: 'Wim', role: 'look' }])
    expect(notNamed(known, one).map(c => c.value)).toEqual(['user:Mara', 'user:Wim'])
    expect(withoutGrant(withGrant(one, 'user:Wim'), one[0]!)).toEqual([{ kind: 'user', name: 'Wim', role: 'look' }])
  })
})
