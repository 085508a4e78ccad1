import fc from 'fast-check'
import { Triangle, Vector3 } from 'three'
import { ExtendedTriangle } from 'three-mesh-bvh'
import { describe, expect, it } from 'vitest'
import { findContacts } from '#core/mesh/contacts'
import { inheritKeys, keyTable, keyTableSchema, matchKeys } from '#core/mesh/keys'
import { measureParts } from '#core/mesh/measures'
import { boundsOf, GROUP_MAP, type Mesh } from '#core/mesh/mesh'
import { findParts, type Parts } from '#core/mesh/parts'
import { membersOf, type PartSet } from '#core/mesh/partSets'
import { arrange, emptyPreparation, mapIdOf, prepare, type Preparation } from '#core/mesh/preparation'
import { suggestedSettings } from '#core/geometry/maps'
import { boxes, row, type BoxSpec } from '../helpers'

/** The same surface exported again: objects, triangles and vertices in another order, positions a little off. */
function again(mesh: Mesh, seed: number, jitter: number): Mesh {
  let state = seed
  const next = () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32
  const shuffled = (n: number) => {
    const list = Array.from({ length: n }, (_, i) => i)
    for (let i = n - 1; i > 0; i--) {
      const j = Math.floor(next() * (i + 1))
      ;[list[i], list[j]] = [list[j]!, list[i]!]
    }
    return list
  }
  const positions: number[] = []
  const normals: number[] = []
  const indices: number[] = []
  const objects: Mesh['objects'] = []
  for (const o of shuffled(mesh.objects.length)) {
    const object = mesh.objects[o]!
    const order = shuffled(object.vertices)
    const place = new Map(order.map((v, i) => [v + object.firstVertex, positions.length / 3 + i]))
    objects.push({ ...object, firstVertex: positions.length / 3, firstTriangle: indices.length / 3 })
    for (const v of order) {
      for (let k = 0; k < 3; k++) {
        positions.push(mesh.positions[(v + object.firstVertex) * 3 + k]! + (next() * 2 - 1) * jitter)
        normals.push(mesh.normals[(v + object.firstVertex) * 3 + k]!)
      }
    }
    for (const t of shuffled(object.triangles)) {
      const turn = Math.floor(next() * 3)
      for (let k = 0; k < 3; k++)
        indices.push(place.get(mesh.indices[(t + object.firstTriangle) * 3 + ((k + turn) % 3)]!)!)
    }
  }
  return {
    ...mesh,
    uvs: undefined,
    positions: Float32Array.from(positions),
    normals: Float32Array.from(normals),
    indices: Uint32Array.from(indices),
    objects,
    materials: [{ name: 'plain', firstTriangle: 0, triangles: indices.length / 3 }],
    maps: [],
  }
}

const spec = (i: number, size: number): BoxSpec => ({
  object: `object ${i % 3}`,
  at: [(i * 1.7) % 11, Math.floor(i / 6) * 1.3, ((i * 0.37) % 2) * 3],
  size: [0.2 + size, 0.3, 0.4 + size / 3],
})
/** Keys by where a part is: how a test tells which part is which without trusting the code under test. */
const byPlace = (list: { center: number[]; key: string }[]) =>
  new Map(list.map(p => [p.center.map(x => Math.round(x * 1000)).join(), p.key]))

describe('keys of a mesh that is exported again', () => {
  it('stay with every untouched part, whatever is shuffled, jittered, added or removed', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: 0, max: 60 }), { minLength: 4, maxLength: 24 }),
        fc.integer({ min: 1, max: 2 ** 31 }),
        fc.array(fc.integer({ min: 100, max: 160 }), { maxLength: 5 }),
        fc.integer({ min: 0, max: 3 }),
        (ids, seed, added, removed) => {
          const old = boxes(ids.map(i => spec(i, (i % 7) / 20)))
          const before = findParts(old)
          const table = keyTable(old, before)
          const kept = ids.slice(removed)
          const fresh = [...new Set(added)]
          const mesh = again(
            boxes([...kept.map(i => spec(i, (i % 7) / 20)), ...fresh.map(i => spec(i, (i % 7) / 20))]),
            seed,
            1e-6 * 15,
          )
          const parts = findParts(mesh, { weld: 1e-4 })
          const match = matchKeys(table, mesh, parts)
          inheritKeys(parts, table, match)
          const was = byPlace(before.parts)
          const is = byPlace(parts.parts)
          for (const i of kept) {
            const place = spec(i, 0)
              .at.map(x => Math.round(Math.fround(x) * 1000))
              .join()
            expect(is.get(place)).toBe(was.get(place))
          }
          expect(new Set(parts.parts.map(p => p.key)).size).toBe(parts.parts.length)
        },
      ),
      { numRuns: 60 },
    )
  })

  it('follow a part that moved or turned, and one whose object was renamed', () => {
    const old = boxes([
      { object: 'a', at: [0, 0, 0], size: [1, 2, 3] },
      { object: 'a', at: [5, 0, 0] },
      { object: 'b', at: [0, 9, 0], size: [0.5, 0.5, 2] },
    ])
    const table = keyTable(old, findParts(old))
    const now = boxes([
      { object: 'a', at: [0, 4, 1], size: [1, 3, 2] },
      { object: 'a', at: [5, 0, 0] },
      { object: 'other', at: [0, 9, 0], size: [0.5, 0.5, 2] },
      { object: 'a', at: [-5, 0, 0], size: [2, 2, 2] },
    ])
    const parts = findParts(now)
    const match = matchKeys(table, now, parts)
    inheritKeys(parts, table, match)
    const key = (area: number) => parts.parts.findIndex(p => Math.abs(p.area - area) < 1e-4)
    expect(match.how[key(22)]).toBe('moved')
    expect(match.how[key(6)]).toBe('same')
    expect(match.how[key(4.5)]).toBe('renamed')
    expect(match.how[key(24)]).toBe('new')
    expect(match.lost).toEqual([])
    expect([...parts.parts.map(p => p.key)].sort()).toEqual(expect.arrayContaining([...table.keys].sort()))
  })
  it('go to the first in space where two parts are as near to what was there', () => {
    const bolt = (x: number): BoxSpec => ({ object: 'bolts', at: [x, 0, 0], size: [0.25, 0.25, 0.25] })
    const old = boxes([bolt(1)])
    const table = keyTable(old, findParts(old))
    for (const specs of [
      [bolt(0), bolt(2)],
      [bolt(2), bolt(0)],
    ]) {
      const parts = findParts(boxes(specs))
      const { how, from } = matchKeys(table, boxes(specs), parts)
      expect(parts.parts.map((p, i) => [Math.round(p.center[0]), how[i], from[i]])).toEqual([
        [0, 'moved', 0],
        [2, 'new', -1],
      ])
    }
  })
  it('stay in order where the very same mesh comes again, as a table with more in it has them', () => {
    // Two of them in one place: nothing but their order tells them apart.
    const mesh = boxes([0, 3, 3, 6].map(x => ({ object: 'crate', at: [x, 0, 0] })))
    const [crate] = mesh.objects
    const one = { name: 'crate', triangles: 12, vertices: 24 }
    mesh.objects = [0, 1, 2, 3].map(i => ({ ...crate!, ...one, firstTriangle: i * 12, firstVertex: i * 24 }))
    const parts = findParts(mesh)
    const table = keyTable(mesh, parts)
    const same = matchKeys(table, mesh, parts)
    expect([...same.from]).toEqual(parts.parts.map((_, i) => i))
    expect(same).toMatchObject({ how: parts.parts.map(() => 'same'), lost: [] })
    const far = { keys: ['f'.repeat(16)], object: [0], center: [90, 90, 90], size: [1, 1, 1], spread: [1, 1, 1] }
    const more = { area: [6], triangles: [99] }
    const longer = Object.fromEntries(
      Object.entries({ ...far, ...more }).map(([k, v]) => [k, [...(table[k as 'keys'] as unknown[]), ...v]]),
    )
    const found = matchKeys({ ...table, ...longer }, mesh, parts)
    expect(found.from).toEqual(same.from)
    expect(found.how).toEqual(same.how)
    expect(found.lost).toEqual([parts.parts.length])
  })

  it('are never given twice: a new part that would have the key of another gets one of its own', () => {
    const box = (x: number): BoxSpec => ({ object: 'a', at: [x, 0, 0] })
    const first = boxes([box(0)])
    const there = findParts(first)
    // It moves, and keeps its key; then another comes to where it was, and would be called the same.
    const moved = boxes([box(5)])
    const parts = findParts(moved)
    inheritKeys(parts, keyTable(first, there), matchKeys(keyTable(first, there), moved, parts))
    expect(parts.parts[0]!.key).toBe(there.parts[0]!.key)
    const both = boxes([box(0), box(5)])
    const now = findParts(both)
    const table = keyTable(moved, parts)
    const match = matchKeys(table, both, now)
    inheritKeys(now, table, match)
    expect(now.parts.map(p => Math.round(p.center[0]))).toEqual([0, 5])
    expect(match.how).toEqual(['new', 'same'])
    expect(now.parts[1]!.key).toBe(there.parts[0]!.key)
    expect(now.parts[0]!.key).not.toBe(now.parts[1]!.key)
  })
  it('follow alike parts that made the same move together', () => {
    const at = (dx: number) =>
      boxes(Array.from({ length: 8 }, (_, i) => ({ object: 'bolts', at: [i * 0.5 + dx, 0, 0], size: [0.1, 0.1, 0.1] })))
    const old = at(0)
    const table = keyTable(old, findParts(old))
    const mesh = at(2.2)
    const parts = findParts(mesh)
    const match = matchKeys(table, mesh, parts)
    expect(match.how.every(h => h === 'moved')).toBe(true)
    parts.parts.forEach((p, i) => expect(table.center[match.from[i]! * 3]! + 2.2).toBeCloseTo(p.center[0], 4))
  })
  it('name what is lost, and give no key twice even where a new part stands where a moved one was', () => {
    const old = boxes([
      { object: 'a', at: [0, 0, 0] },
      { object: 'a', at: [5, 0, 0], size: [2, 1, 1] },
      { object: 'a', at: [9, 0, 0], size: [3, 1, 1] },
    ])
    const table = keyTable(old, findParts(old))
    const mesh = boxes([
      { object: 'a', at: [0, 0, 0] },
      { object: 'a', at: [0, 3, 0], size: [2, 1, 1] },
    ])
    const parts = findParts(mesh)
    const match = matchKeys(table, mesh, parts)
    expect(match.lost.map(i => table.size[i * 3])).toEqual([3])
  })
  it('follow the whole mesh into other units, with another axis up, and to another origin', () => {
    const TURNS = [
      (p: number[]) => [p[0]!, p[1]!, p[2]!],
      // From y up to z up, and back.
      (p: number[]) => [p[0]!, -p[2]!, p[1]!],
      (p: number[]) => [p[0]!, p[2]!, -p[1]!],
      (p: number[]) => [p[2]!, p[0]!, p[1]!],
    ]
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: 0, max: 60 }), { minLength: 4, maxLength: 24 }),
        fc.constantFrom(0.001, 0.01, 0.0254, 1, 39.37, 100, 1000),
        fc.integer({ min: 0, max: TURNS.length - 1 }),
        fc.array(fc.integer({ min: -40, max: 40 }), { minLength: 3, maxLength: 3 }),
        (ids, scale, turn, shift) => {
          // Every box has an area of its own, by which it is known again.
          const old = boxes(ids.map(i => spec(i, i / 20)))
          const before = findParts(old)
          const positions = new Float32Array(old.positions.length)
          for (let i = 0; i < positions.length; i += 3) {
            const turned = TURNS[turn]!([...old.positions.slice(i, i + 3)])
            positions.set(
              turned.map((x, k) => (x + shift[k]!) * scale),
              i,
            )
          }
          const mesh = { ...old, positions }
          const parts = findParts(mesh)
          const match = matchKeys(keyTable(old, before), mesh, parts)
          inheritKeys(parts, keyTable(old, before), match)
          const byArea = (list: { area: number; key: string }[]) =>
            [...list].sort((a, b) => a.area - b.area).map(p => p.key)
          expect(byArea(parts.parts)).toEqual(byArea(before.parts))
          expect(match.lost).toEqual([])
        },
      ),
      { numRuns: 120 },
    )
  })
  it('survive as JSON, and a table that does not add up is refused', () => {
    const mesh = row(3)
    const table = keyTable(mesh, findParts(mesh))
    expect(keyTableSchema.parse(JSON.parse(JSON.stringify(table)))).toEqual(table)
    expect(keyTableSchema.safeParse({ ...table, area: [1] }).success).toBe(false)
  })
})

type Corners = [Vector3, Vector3, Vector3]
/** Each triangle as a part of its own. */
function apartAll(positions: Float32Array): Parts {
  const parts = Array.from({ length: positions.length / 9 }, (_, t) => {
    const { min, max } = boundsOf(positions.subarray(t * 9, t * 9 + 9), Uint32Array.of(0, 1, 2))
    return { min, size: max.map((x, k) => x - min[k]!) }
  })
  return { parts, partOfTriangle: Uint32Array.from(parts.keys()) } as unknown as Parts
}
const near = (one: ExtendedTriangle, two: ExtendedTriangle, distance: number): boolean =>
  one.intersectsTriangle(two) || one.distanceToTriangle(two) <= distance

describe('contacts', () => {
  const touching = (mesh: Mesh, distance: number) => {
    const parts = findParts(mesh)
    const { pairs } = findContacts(mesh, parts, distance)
    const x = (n: number) => Math.round(parts.parts[n]!.center[0] * 100) / 100
    return Array.from({ length: pairs.length / 2 }, (_, i) =>
      [x(pairs[i * 2]!), x(pairs[i * 2 + 1]!)].sort((a, b) => a - b),
    )
  }
  it('are pairs of parts no farther apart than the distance', () => {
    const mesh = boxes([
      { object: 'a', at: [0, 0, 0] },
      { object: 'b', at: [1.05, 0, 0] },
      { object: 'c', at: [2.3, 0, 0] },
      { object: 'd', at: [2.3, 0.9, 0] },
    ])
    expect(touching(mesh, 0.06)).toEqual([
      [0, 1.05],
      [2.3, 2.3],
    ])
    expect(touching(mesh, 0.04)).toEqual([[2.3, 2.3]])
    expect(touching(mesh, 0.3)).toHaveLength(4)
  })
  it('include parts that run through one another without a common vertex, and leave out those that only share a box', () => {
    expect(
      touching(
        boxes([
          { object: 'a', at: [0, 0, 0], size: [4, 0.1, 0.1] },
          { object: 'b', at: [0.5, 0, 0], size: [0.2, 3, 0.2] },
        ]),
        0.001,
      ),
    ).toHaveLength(1)
    const frame = boxes([
      { object: 'a', at: [0, 1, 0], size: [4, 0.1, 4] },
      { object: 'b', at: [0, 0, 0], size: [1, 1, 1] },
    ])
    expect(touching(frame, 0.01)).toHaveLength(0)
  })
  it('are those that a plain search over all triangles finds, however these lie to one another', () => {
    const corner = fc.tuple(
      fc.integer({ min: -9, max: 9 }),
      fc.integer({ min: -9, max: 9 }),
      fc.integer({ min: 0, max: 3 }),
    )
    const triangle = fc.tuple(corner, corner, corner)
    fc.assert(
      fc.property(
        fc.array(triangle, { minLength: 2, maxLength: 12 }),
        fc.integer({ min: 1, max: 20 }),
        (list, tenths) => {
          // A triangle of no area is no part; off whole tenths, so that nothing hangs on the last digit.
          const all = list.filter(
            ([a, b, c]) => new Triangle(...([a, b, c].map(p => new Vector3(...p)) as Corners)).getArea() > 0,
          )
          const distance = tenths / 10 + 0.0137
          const positions = Float32Array.from(all.flat(2))
          const indices = Uint32Array.from(positions.keys()).subarray(0, positions.length / 3)
          const { pairs } = findContacts({ positions, indices }, apartAll(positions), distance)
          const exact = all.map(corners => new ExtendedTriangle(...(corners.map(p => new Vector3(...p)) as Corners)))
          const expected = exact.flatMap((one, i) =>
            exact.slice(0, i).flatMap((two, j) => (near(one, two, distance) ? [[j, i]] : [])),
          )
          expect(Array.from({ length: pairs.length / 2 }, (_, i) => [...pairs.subarray(i * 2, i * 2 + 2)])).toEqual(
            expected.sort(([a, b], [c, d]) => a! - c! || b! - d!),
          )
        },
      ),
      { numRuns: 300 },
    )
  })
})

describe('part sets and groups', () => {
  const mesh = boxes([
    { object: 'Bolt left', at: [0, 0, 0], size: [0.1, 0.1, 0.1] },
    { object: 'Bolt right', at: [1, 0, 0], size: [0.1, 0.1, 0.1] },
    { object: 'Frame', at: [0.5, 0.55, 0] },
  ])
  const set = (more: Partial<PartSet>): PartSet => ({
    id: 's',
    name: 'Set',
    match: 'all',
    rules: [],
    plus: [],
    minus: [],
    ...more,
  })
  const names = (s: PartSet) => {
    const parts = findParts(mesh)
    const inside = membersOf(s, mesh, parts, measureParts(mesh, parts))
    return parts.parts.filter((_, i) => inside[i]).map(p => p.name)
  }
  const key = (name: string) => findParts(mesh).parts.find(p => p.name === name)!.key

  it('hold what their rules say, plus and minus single parts', () => {
    expect(names(set({ rules: [{ by: 'name', is: 'begins', text: 'bolt' }] }))).toEqual(['Bolt left', 'Bolt right'])
    expect(
      names(
        set({
          rules: [
            { by: 'name', is: 'begins', text: 'bolt' },
            { by: 'name', is: 'ends', text: 'left' },
          ],
        }),
      ),
    ).toEqual(['Bolt left'])
    expect(
      names(
        set({
          match: 'any',
          rules: [
            { by: 'name', is: 'ends', text: 'left' },
            { by: 'measure', measure: 'area', is: 'above', value: 1 },
          ],
        }),
      ),
    ).toEqual(['Bolt left', 'Frame'])
    expect(names(set({ rules: [{ by: 'material', is: 'exactly', text: 'Plain' }], minus: [key('Frame')] }))).toEqual([
      'Bolt left',
      'Bolt right',
    ])
    expect(names(set({ plus: [key('Frame')] }))).toEqual(['Frame'])
  })
  it('draw a share of many parts at random, the same ones after a new export', () => {
    const many = boxes(
      Array.from({ length: 400 }, (_, i) => ({ object: 'm', at: [(i % 20) * 2, Math.floor(i / 20) * 2, 0] })),
    )
    const fifth = set({ rules: [{ by: 'random', share: 0.2, seed: 3 }] })
    const chosen = (m: Mesh, { parts }: ReturnType<typeof prepare>) => {
      const p = findParts(m)
      p.parts = parts.parts
      return [...membersOf(fifth, m, parts)].flatMap((x, i) => (x ? [parts.parts[i]!.key] : [])).sort()
    }
    const first = prepare(many, emptyPreparation())
    const picked = chosen(many, first)
    expect(picked.length).toBeGreaterThan(50)
    expect(picked.length).toBeLessThan(110)
    const shuffled = again(many, 99, 1e-5)
    expect(chosen(shuffled, prepare(shuffled, { ...emptyPreparation(), weld: 1e-3 }, first.table))).toEqual(picked)
  })
  it('make groups by hand, by material, by touching', () => {
    const grouped = (change: Partial<Preparation['groups']>) => {
      const p: Preparation = { ...emptyPreparation(), contact: 0.01, groups: { base: 'file', named: [], ...change } }
      const { mesh: m, parts } = prepare(mesh, p)
      arrange(m, parts, p)
      return parts.parts.map(part => parts.groups[part.group]!.name)
    }
    expect(new Set(grouped({})).size).toBe(3)
    expect(grouped({ base: 'material' })).toEqual(['plain', 'plain', 'plain'])
    // Each bolt's top is where the frame's foot is, within its width.
    expect(grouped({ base: 'touching' })).toEqual(['Around Frame', 'Around Frame', 'Around Frame'])
    expect(grouped({ named: [set({ name: 'Bolts', rules: [{ by: 'object', is: 'begins', text: 'Bolt' }] })] })).toEqual(
      ['Bolts', 'Bolts', 'Frame'],
    )
  })
  it('come from the vertices that are used, in whatever order, and from no others', () => {
    const spread = (n: number): BoxSpec => ({ object: 'rack', at: [n * 3, 0, 0] })
    const plain = boxes([spread(0), spread(1), spread(2), spread(3)])
    const vertices = plain.positions.length / 3
    const own = Float32Array.from({ length: vertices }, (_, v) => 1 + Math.floor(v / (vertices / 2)))
    const grouped: Mesh = { ...plain, maps: [{ name: GROUP_MAP, components: 1, values: own }] }
    const keysOf = (mesh: Mesh) => {
      const { parts, groups } = findParts(mesh)
      return parts.map(p => groups[p.group]!.key)
    }
    expect(new Set(keysOf(grouped)).size).toBe(2)
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 9 }), { minLength: 1, maxLength: 6 }), strays => {
        // Vertices that no triangle uses come first, as where primitives share a buffer.
        const front = strays.length
        const more = (values: Float32Array, size: number, of: (i: number) => number) =>
          Float32Array.from([...Array.from({ length: front * size }, (_, i) => of(i)), ...values])
        const mesh: Mesh = {
          ...grouped,
          uvs: undefined,
          positions: more(grouped.positions, 3, () => 0),
          normals: more(grouped.normals, 3, () => 1),
          maps: [{ name: GROUP_MAP, components: 1, values: more(own, 1, i => strays[i]!) }],
          indices: grouped.indices.map(v => v + front),
          objects: grouped.objects.map(o => ({ ...o, vertices: o.vertices + front })),
        }
        expect(keysOf(mesh)).toEqual(keysOf(grouped))
      }),
    )
  })
  it('stay with a mesh whose next export has lost its groups, by the table of keys', () => {
    const plain = boxes([0, 1, 2, 3].map(n => ({ object: 'rack', at: [n * 3, 0, 0], size: [1, 1, 1 + n / 10] })))
    const vertices = plain.positions.length / 3
    const own = Float32Array.from({ length: vertices }, (_, v) => 1 + Math.floor(v / (vertices / 2)))
    const grouped: Mesh = { ...plain, maps: [{ name: GROUP_MAP, components: 1, values: own }] }
    const first = prepare(grouped, emptyPreparation())
    arrange(first.mesh, first.parts, emptyPreparation())
    const groupsOf = ({ parts }: { parts: ReturnType<typeof findParts> }) =>
      parts.parts.map(p => [p.key, parts.groups[p.group]!.key, parts.groups[p.group]!.name])
    const second = prepare(plain, emptyPreparation(), JSON.parse(JSON.stringify(first.table)) as typeof first.table)
    arrange(second.mesh, second.parts, emptyPreparation())
    expect(groupsOf(second)).toEqual(groupsOf(first))
    expect(new Set(groupsOf(second).map(g => g[1])).size).toBe(2)
    // And so with the one after that.
    const third = prepare(plain, emptyPreparation(), second.table)
    arrange(third.mesh, third.parts, emptyPreparation())
    expect(groupsOf(third)).toEqual(groupsOf(first))
  })
  it('keep the keys of groups that a named group leaves alone', () => {
    const p = emptyPreparation()
    const plain = prepare(mesh, p)
    const was = plain.parts.groups.map(g => g.key)
    const named = {
      ...p,
      groups: { base: 'file' as const, named: [set({ rules: [{ by: 'name', is: 'exactly', text: 'Frame' }] })] },
    }
    const now = prepare(mesh, named)
    arrange(now.mesh, now.parts, named)
    expect(now.parts.groups.map(g => g.key).filter(k => was.includes(k))).toHaveLength(2)
  })
})

describe('measures', () => {
  it('of a box are its sides from the longest, its area, its volume, and how flat it is', () => {
    const mesh = boxes([
      { object: 'low', at: [0, 0, 0], size: [2, 1, 3] },
      { object: 'high', at: [9, 4, 0], size: [1, 1, 1] },
    ])
    const parts = findParts(mesh)
    const found = measureParts(mesh, parts)
    const of = (object: string): Record<string, number> => {
      const at = parts.parts.findIndex(p => mesh.objects[p.object]!.name === object)
      return Object.fromEntries(Object.entries(found).map(([name, column]) => [name, Number(column[at]!.toFixed(4))]))
    }
    expect(of('low')).toEqual({
      area: 22,
      volume: 6,
      length: 3,
      width: 2,
      thickness: 1,
      flatness: 0.5,
      triangles: 12,
      height: 0.5,
      neighbors: 0,
    })
    expect(of('high')).toMatchObject({ area: 6, volume: 1, flatness: 0, height: 4.5 })
  })
})

describe('the id of a geometry map', () => {
  it('changes with everything that the map is computed from, and with nothing else', () => {
    const settings = suggestedSettings('occlusion', 1)
    const plain = emptyPreparation()
    const id = (change: Partial<Preparation>, of = settings, hash = 'mesh') =>
      mapIdOf(hash, { ...plain, ...change }, of)
    const others = [
      id({ edge: 0.1 }),
      id({ edge: 0.2 }),
      id({ weld: 0.01 }),
      id({ scale: 0.01 }),
      id({}, settings, 'another mesh'),
      id({}, suggestedSettings('thickness', 1)),
    ]
    expect(new Set([id({}), ...others]).size).toBe(others.length + 1)
    expect(id({}, { ...settings, name: 'Another name' })).toBe(id({}))
    expect(id({ sets: [], contact: 5 })).toBe(id({}))
  })
})

describe('preparing', () => {
  it('scales a file in other units, and its keys stay', () => {
    const mesh = row(3)
    const first = prepare(mesh, emptyPreparation())
    const scaled = prepare(mesh, { ...emptyPreparation(), scale: 0.01 }, first.table)
    expect(scaled.parts.parts.map(p => p.key)).toEqual(first.parts.parts.map(p => p.key))
    expect(scaled.parts.parts[0]!.size[0]).toBeCloseTo(0.01, 6)
    expect(scaled.table.size[0]).toBeCloseTo(1, 5)
  })
  it('cuts patches by UV islands or by creases, and welds within a distance', () => {
    const mesh = row(1)
    expect(findParts(mesh).patches).toBe(6)
    expect(findParts(mesh, { patches: { by: 'crease', angle: 60 } }).patches).toBe(6)
    expect(findParts(mesh, { patches: { by: 'crease', angle: 100 } }).patches).toBe(1)
    const gap = boxes([
      { object: 'a', at: [0, 0, 0] },
      { object: 'a', at: [1.002, 0, 0] },
    ])
    expect(findParts(gap).parts).toHaveLength(2)
    expect(findParts(gap, { weld: 0.003 }).parts).toHaveLength(1)
  })
})
