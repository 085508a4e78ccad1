import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { apart } from '#core/evaluate/apart'
import { meanOf, soften } from '#core/evaluate/diffuse'
import { moveEdge } from '#core/evaluate/moveEdge'
import { alikePairs, pick } from '#core/evaluate/pick'
import { meshTables, type MeshTables } from '#core/evaluate/tables'
import type { ParamValue } from '#core/nodes/declare'
import { colorDifference } from '#core/color/difference'
import { drawOf } from '#core/mesh/hash'
import { stiffness } from '#core/geometry/curvature'
import { surfaceOf } from '#core/geometry/surface'
import { findContacts } from '#core/mesh/contacts'
import { findParts } from '#core/mesh/parts'
import { samplePartPoints } from '#core/mesh/sample'
import { kioskRoof } from '#demo/kioskRoof'
import { at, ball, boxes, lookOf, meshOf, notSo, outputsOf, partsOf, row, tablesOf } from '../helpers'

/** A wall of boxes that touch one another. */
function wall(columns: number, rows: number): MeshTables {
  const mesh = boxes(
    Array.from({ length: columns * rows }, (_, i) => ({
      object: `box ${i}`,
      at: [i % columns, Math.floor(i / columns), 0] as [number, number, number],
    })),
  )
  const parts = findParts(mesh)
  const contacts = findContacts(mesh, parts, 0.001)
  return meshTables(mesh, parts, [], undefined, () => contacts)
}
const bricks = wall(6, 5)
const pairs = bricks.touching!().pairs
const gaps = (values: ArrayLike<number>): number[] =>
  Array.from({ length: pairs.length / 2 }, (_, i) => Math.abs(values[pairs[i * 2]!]! - values[pairs[i * 2 + 1]!]!))
/** A port's value on every part, from one point of each. */
const perPart = (kind: string, params: Record<string, ParamValue>, tables: MeshTables, port = 'value'): number[] => [
  ...outputsOf(kind, params, tables, samplePartPoints(tables.mesh, tables.parts, 1))[port]![0]!,
]

const roof = (() => {
  const { mesh } = kioskRoof()
  const parts = findParts(mesh)
  const contacts = findContacts(mesh, parts, 0.001)
  return meshTables(mesh, parts, [], undefined, () => contacts)
})()
const roofPairs = roof.touching!().pairs
const draws = Float32Array.from(roof.parts.parts, p => drawOf(p.key, 3))

describe('Draws apart', () => {
  it('are the same values, and touching parts are never closer than they were, at the closest and in all', () =>
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), seed => {
        const before = perPart('partRandom', { seed }, bricks)
        const after = perPart('partRandom', { seed, how: 'apart' }, bricks)
        const cost = (v: number[]) => gaps(v).reduce((s, g) => s + (1 - g) ** 6, 0)
        expect([...after].sort()).toEqual([...before].sort())
        expect(Math.min(...gaps(after))).toBeGreaterThanOrEqual(Math.min(...gaps(before)))
        expect(cost(after)).toBeLessThanOrEqual(cost(before))
      }),
      { numRuns: 30 },
    ))
  it('differ a good deal where independent ones crowd', () => {
    const close = (how: string) =>
      [1, 2, 3, 4].reduce(
        (s, seed) => s + gaps(perPart('partRandom', { seed, how }, bricks)).filter(g => g < 0.1).length,
        0,
      )
    expect(close('apartBalanced')).toBeLessThan(close('count') / 3)
  })
  it('are far better apart than swaps that only ever help would leave them, and the same in any order of the file', () => {
    const cost = (v: ArrayLike<number>) =>
      roofPairs.reduce((s, p, i) => (i % 2 ? s : s + (1 - Math.abs(v[p]! - v[roofPairs[i + 1]!]!)) ** 6), 0)
    expect(cost(draws)).toBeGreaterThan(150)
    // Swaps that only help end at 46.
    expect(cost(apart(draws, roof))).toBeLessThan(25)
    const turned = Uint32Array.from(draws, (_, i) => draws.length - 1 - i)
    const back = { ...roof, touching: () => ({ ...roof.touching!(), pairs: roofPairs.map(p => turned[p]!) }) }
    const other = apart(
      Float32Array.from(turned, p => draws[p]!),
      back as MeshTables,
    )
    expect(Float32Array.from(turned, p => other[p]!)).toEqual(apart(draws, roof))
  })
  it('leave a mesh alone whose parts do not touch', () => {
    const lone = tablesOf(row(4))
    expect(apart(Float32Array.of(0.1, 0.2, 0.3, 0.4), lone)).toEqual(Float32Array.of(0.1, 0.2, 0.3, 0.4))
  })
})

describe('Single parts of a draw', () => {
  const tables = tablesOf(row(5))
  const key = tables.parts.parts[2]!.key
  it('have a value of their own or are rolled again; the others stay', () => {
    const plain = perPart('partRandom', { seed: 5 }, tables)
    const pinned = perPart('partRandom', { seed: 5, pins: [{ part: key, value: 0.25 }] }, tables)
    const rolled = perPart('partRandom', { seed: 5, pins: [{ part: key, roll: 1 }] }, tables)
    expect(pinned[2]).toBe(0.25)
    expect(rolled[2]).not.toBe(plain[2])
    for (const other of [0, 1, 3, 4]) expect([pinned[other], rolled[other]]).toEqual([plain[other], plain[other]])
  })
  it('a roll of one part is the roll of all by the offset', () => {
    expect(perPart('partRandom', { seed: 5, pins: [{ part: key, roll: 3 }] }, tables)[2]).toBe(
      perPart('partRandom', { seed: 5, offset: 3 }, tables)[2],
    )
  })
  it('an offset rolls all, and none of its streams is one of the offset before', () => {
    const streams = [0, 1].flatMap(offset =>
      ['value', 'second', 'third'].map(port => perPart('partRandom', { seed: 5, offset }, tables, port).join()),
    )
    expect(new Set(streams).size).toBe(6)
  })
})

describe('Draws of patches', () => {
  const tables = tablesOf(row(3))
  it('are one value over a patch, and keep when the mesh is exported in another order', () => {
    const points = samplePartPoints(tables.mesh, tables.parts, 300)
    const values = outputsOf('partRandom', { level: 'patch', seed: 2 }, tables, points).value![0]!
    const known = new Map<number, number>()
    points.triangle.forEach((t, i) => {
      const patch = tables.parts.patchOfTriangle[t]!
      expect(values[i]).toBeCloseTo(known.get(patch) ?? values[i]!, 6)
      known.set(patch, values[i]!)
    })
    expect(new Set(known.values()).size).toBe(18)
    // The same boxes, their triangles in reverse order.
    const indices = Uint32Array.from(
      { length: tables.mesh.indices.length },
      (_, i) => tables.mesh.indices[tables.mesh.indices.length - 3 - Math.floor(i / 3) * 3 + (i % 3)]!,
    )
    const objects = [...tables.mesh.objects].reverse().map((o, i) => ({ ...o, firstTriangle: i * 12 }))
    const other = tablesOf({ ...tables.mesh, indices, objects })
    const again = outputsOf(
      'partRandom',
      { level: 'patch', seed: 2 },
      other,
      samplePartPoints(other.mesh, other.parts, 300),
    ).value![0]!
    expect(new Set([...again].map(x => x.toFixed(5)))).toEqual(new Set([...values].map(x => x.toFixed(5))))
  })
})

describe('Palette', () => {
  it('parts nearly all touching parts of a roof where a third of them began alike, and keeps the shares', () => {
    const list = [
      [3, 0.27, 0.05, 0.03],
      [2, 0.5, 0.19, 0.06],
      [2, 0.05, 0.16, 0.17],
      [2, 0.28, 0.06, 0.04],
      [1, 0.4, 0.4, 0.1],
    ].flat()
    const alike = (differ: number) => {
      const entries = pick(draws, list, differ, 'count', roof)
      return { entries, pairs: alikePairs(entries, list, 8, roofPairs).length / 2 }
    }
    const plain = alike(0)
    const parted = alike(8)
    expect(plain.pairs).toBeGreaterThan(250)
    expect(parted.pairs).toBeLessThan(10)
    expect([...parted.entries].sort()).toEqual([...plain.entries].sort())
  })
  const colors = [
    { at: 3, color: [0.5, 0.02, 0.02] },
    { at: 2, color: [0.02, 0.4, 0.05] },
    { at: 1, color: [0.02, 0.05, 0.5] },
  ] as never
  const counts = (params: Record<string, ParamValue>) =>
    perPart('palette', { colors, ...params }, bricks).reduce(
      (n, v) => n.map((x, i) => x + Number(Math.abs(v * 2 - i) < 0.1)),
      [0, 0, 0],
    )
  it('gives exact shares by count, whatever the seed and however neighbors must differ', () =>
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e5 }),
        fc.constantFrom(0, 10),
        fc.constantFrom(0, 0.5),
        (seed, differ, follow) => {
          expect(counts({ seed, differ, follow })).toEqual([15, 10, 5])
        },
      ),
      { numRuns: 20 },
    ))
  it('gives shares of the area to within the largest part', () => {
    const mesh = boxes(
      Array.from({ length: 24 }, (_, i) => ({
        object: `b${i}`,
        at: [i * 3, 0, 0] as [number, number, number],
        size: [1 + (i % 5) / 4, 1, 1] as [number, number, number],
      })),
    )
    const tables = tablesOf(mesh)
    const which = perPart('palette', { colors, by: 'area', seed: 9 }, tables)
    const areas = tables.parts.parts.map(p => p.area)
    const total = areas.reduce((s, a) => s + a)
    ;[3, 2, 1].forEach((w, i) => {
      const share = areas.reduce((s, a, p) => s + (Math.abs(which[p]! * 2 - i) < 0.1 ? a : 0), 0)
      expect(Math.abs(share - (total * w) / 6)).toBeLessThanOrEqual(Math.max(...areas))
    })
  })
  it('keeps touching parts apart as far as it can', () => {
    const clash = (differ: number) =>
      [1, 2, 3, 4, 5].reduce((s, seed) => {
        const six = [
          [1, 0, 0],
          [0, 1, 0],
          [0, 0, 1],
          [1, 1, 0],
          [0, 1, 1],
          [1, 0, 1],
        ].map(color => ({ at: 1, color })) as never
        return s + gaps(perPart('palette', { colors: six, seed, differ }, bricks)).filter(g => g < 0.1).length
      }, 0)
    expect(clash(10)).toBeLessThan(clash(0) / 4)
    // Colors that differ less than is asked for count as alike even where they are not the same.
    const near = [3, 0.5, 0.02, 0.02, 2, 0.48, 0.025, 0.02, 1, 0, 0, 0.5]
    const ranks = Float32Array.from({ length: 30 }, (_, i) => (i + 0.5) / 30)
    expect(colorDifference([0.5, 0.02, 0.02], [0.48, 0.025, 0.02])).toBeLessThan(5)
    const loose = pick(ranks, near, 0, 'count', bricks)
    const strict = pick(ranks, near, 5, 'count', bricks)
    const alike = (v: Float32Array) => gaps(v.map(x => Math.max(0, x - 1))).filter(g => g === 0).length
    expect(alike(strict)).toBeLessThanOrEqual(alike(loose))
  })
  it('measures differences as CIEDE2000 does', () => {
    // Pure red and green: 86.6, as published for sRGB by several tools.
    expect(colorDifference([1, 0, 0], [0, 1, 0])).toBeCloseTo(86.6, 0)
    expect(colorDifference([0.2, 0.3, 0.4], [0.2, 0.3, 0.4])).toBe(0)
  })
})

describe('Coverage of each part', () => {
  it('is exact on every part, where a share of the whole would favor some', () => {
    const tables = tablesOf(row(4))
    const points = samplePartPoints(tables.mesh, tables.parts, 8000)
    const share = (over: string) => {
      const look = lookOf(
        {
          r: ['partRandom', { seed: 3 }],
          n: ['noise', { size: 30, contrast: 2 }],
          m: ['math', { operation: 'add' }],
          c: ['coverage', { over, share: 30, softness: 0 }],
        },
        ['r.value > m.a', 'n.value > m.b', 'm.value > c.value'],
      )
      const mask = at(look, tables, 'coverage1/value', points)[0]!
      const of = partsOf(tables, points)
      return [0, 1, 2, 3].map(p => mask.reduce((s, x, i) => s + (of[i] === p ? x : 0), 0) / 8000)
    }
    share('part').forEach(s => expect(s).toBeCloseTo(0.3, 1.7))
    expect(Math.max(...share('whole')) - Math.min(...share('whole'))).toBeGreaterThan(0.2)
  })
  it('is as soft on every part as it is told, and evenly to both sides of the share', () => {
    const tables = tablesOf(row(4))
    const points = samplePartPoints(tables.mesh, tables.parts, 8000)
    const look = lookOf({ n: ['noise', { size: 30 }], c: ['coverage', { over: 'part', share: 30, softness: 0.6 }] }, [
      'n.value > c.value',
    ])
    const mask = at(look, tables, 'coverage1/value', points)[0]!
    const of = partsOf(tables, points)
    for (const p of [0, 1, 2, 3]) {
      const own = mask.filter((_, i) => of[i] === p)
      expect(own.filter(x => x > 0.02 && x < 0.98).length / own.length).toBeGreaterThan(0.3)
      expect(own.filter(x => x > 0.5).length / own.length).toBeCloseTo(0.3, 1.7)
    }
  })
})

describe('Soften', () => {
  const tables = tablesOf(meshOf(ball(1, 96, 64)))
  const { positions, indices } = tables.mesh
  const top = Float32Array.from({ length: positions.length / 3 }, (_, v) => Number(positions[v * 3 + 1]! > 0.3))
  /** The mean by area over the triangles. */
  const mean = (values: Float32Array): number => {
    let sum = 0
    let area = 0
    for (let t = 0; t < indices.length; t += 3) {
      const [a, b, c] = [0, 1, 2].map(k => [0, 1, 2].map(j => positions[indices[t + k]! * 3 + j]!)) as [
        number[],
        number[],
        number[],
      ]
      const u = b.map((x, k) => x - a[k]!)
      const v = c.map((x, k) => x - a[k]!)
      const s = Math.hypot(u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!)
      area += s
      sum += (s * (values[indices[t]!]! + values[indices[t + 1]!]! + values[indices[t + 2]!]!)) / 3
    }
    return sum / area
  }
  it.each([0.02, 0.1, 0.5, 3])('keeps the mean on a closed surface within 1 % at a radius of %s m', radius => {
    const after = soften(tables, top, radius)
    expect(Math.abs(mean(after) / mean(top) - 1)).toBeLessThan(0.01)
    expect(Math.min(...after)).toBeGreaterThan(-1e-3)
    expect(Math.max(...after)).toBeLessThan(1 + 1e-3)
  })
  it('damps a pattern on a sphere as the heat equation does: 1 / (1 + t n (n + 1)) for degree n', () => {
    const radius = 0.6
    const t = radius ** 2 / 2
    const z = Float32Array.from({ length: positions.length / 3 }, (_, v) => positions[v * 3 + 1]!)
    const after = soften(tables, z, radius)
    const v = z.findIndex(x => x > 0.7)
    expect(after[v]! / z[v]!).toBeCloseTo(1 / (1 + t * 2), 2)
  })
  it.each([0.05, 0.4])('is what many plain sweeps come to, at a radius of %s m', radius => {
    const grains = Float32Array.from({ length: positions.length / 3 }, (_, v) => Math.sin(v * 12.9898) * 0.5 + 0.5)
    const surface = surfaceOf(tables.mesh, tables.parts)
    const { starts, neighbors, weights, diagonal, mass } = stiffness(surface)
    const f = meanOf(surface, grains)
    const t = radius ** 2 / 2
    // (M + tL) x = Mf by Gauss and Seidel.
    const x = f.slice()
    for (let sweep = 0; sweep < 3000; sweep++)
      for (let i = 0; i < surface.count; i++) {
        let sum = mass[i]! * f[i]!
        for (let k = starts[i]!; k < starts[i + 1]!; k++) sum += t * weights[k]! * x[neighbors[k]!]!
        x[i] = sum / (mass[i]! + t * diagonal[i]!)
      }
    const after = soften(tables, grains, radius)
    expect(notSo(after, (y, v) => Math.abs(y - x[surface.of[v]!]!) < 1e-4)).toEqual([])
    expect(notSo(after, (y, v) => y === grains[v]).length).toBeGreaterThan(50)
  })
  it('shows no seam: vertices in one place get one value', () => {
    const seen = new Map<string, number>()
    const after = soften(
      tables,
      Float32Array.from({ length: positions.length / 3 }, (_, v) => (v % 7) / 7),
      0.05,
    )
    after.forEach((x, v) => {
      const place = [0, 1, 2].map(k => positions[v * 3 + k]!.toFixed(5)).join()
      expect(x).toBeCloseTo(seen.get(place) ?? x, 6)
      seen.set(place, x)
    })
  })
  it('does nothing at a radius of 0, and nothing across parts', () => {
    expect(soften(tables, top, 0)).toEqual(top)
    const two = tablesOf(row(2))
    const mask = Float32Array.from(two.parts.partOfVertex)
    soften(two, mask, 5).forEach((x, v) => expect(x).toBeCloseTo(mask[v]!, 4))
  })
})

describe('Grow and shrink', () => {
  const tables = tablesOf(meshOf(ball(1, 96, 64)))
  const { positions } = tables.mesh
  const count = positions.length / 3
  /** The way along the sphere from its top. */
  const polar = Float32Array.from({ length: count }, (_, v) =>
    Math.acos(Math.min(1, positions[v * 3 + 1]! / Math.hypot(...[0, 1, 2].map(k => positions[v * 3 + k]!)))),
  )
  /** A cap that ends one meter from the top, with a soft edge. */
  const cap = polar.map(x => Math.min(1, Math.max(0, 0.5 + (1 - x) * 4)))
  const edgeOf = (mask: Float32Array): number => {
    const inside = polar.filter((_, v) => mask[v]! > 0.5)
    const outside = polar.filter((_, v) => mask[v]! <= 0.5)
    return (Math.max(...inside) + Math.min(...outside)) / 2
  }
  it.each([0.3, 0.1, -0.2, -0.5])('moves the edge by %f m along the surface', amount => {
    expect(edgeOf(cap)).toBeCloseTo(1, 1.3)
    expect(Math.abs(edgeOf(moveEdge(tables, cap, amount, 0.01)) - (1 + amount))).toBeLessThan(0.05)
  })
  it('makes the edge as wide as asked for', () => {
    const mask = moveEdge(tables, cap, 0.2, 0.4)
    polar.forEach((x, v) => {
      if (Math.abs(x - 1.2) < 0.5)
        expect(Math.abs(mask[v]! - Math.min(1, Math.max(0, 0.5 + (1.2 - x) / 0.4)))).toBeLessThan(0.12)
    })
  })
  it('measures ways across triangles, not along their edges', () => {
    // Around an axis that no line of the sphere's grid goes through.
    const axis = [0.48, 0.6, 0.64]
    const away = Float32Array.from({ length: count }, (_, v) =>
      Math.acos(
        Math.min(
          1,
          axis.reduce((s, a, k) => s + a * positions[v * 3 + k]!, 0),
        ),
      ),
    )
    const mask = moveEdge(
      tables,
      away.map(x => Math.min(1, Math.max(0, 0.5 + (1 - x) * 4))),
      0,
      1.2,
    )
    expect(
      notSo(mask, (y, v) => Math.abs(away[v]! - 1) > 0.55 || Math.abs(0.5 + (1 - away[v]!) / 1.2 - y) < 0.012),
    ).toEqual([])
  })
  it('leaves a part alone that the edge does not pass', () => {
    const flat = new Float32Array(count).fill(0.8)
    expect(moveEdge(tables, flat, 0.3, 0.1)).toEqual(flat)
  })
})
