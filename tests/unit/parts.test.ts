import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { random } from '#demo/shapes'
import type { Mesh } from '#core/mesh/mesh'
import { findParts } from '#core/mesh/parts'
import { samplePartPoints, samplePoints } from '#core/mesh/sample'
import { weld } from '#core/mesh/weld'
import { boxes, tablesOf, type BoxSpec } from '../helpers'

/** Boxes that never touch: one in each cell of a grid, with sizes of their own. */
const anyBoxes = (max = 12): fc.Arbitrary<BoxSpec[]> =>
  fc
    .uniqueArray(
      fc.record({
        cell: fc.nat(63),
        object: fc.constantFrom('a', 'b', 'c'),
        size: fc.tuple(...[0, 1, 2].map(() => fc.double({ min: 0.2, max: 0.9, noNaN: true }))),
      }),
      { minLength: 1, maxLength: max, selector: b => b.cell },
    )
    .map(list =>
      list.map(({ cell, object, size }) => ({
        object,
        at: [(cell % 4) * 1.31, ((cell >> 2) % 4) * 1.17, (cell >> 4) * 1.23],
        size: size as [number, number, number],
      })),
    )

/** The same mesh with objects, triangles, corners within triangles and vertices in another order. */
function shuffled(mesh: Mesh, seed: number): Mesh {
  const next = random(seed)
  const permute = (n: number) => {
    const list = [...Array(n).keys()]
    for (let i = n - 1; i > 0; i--) {
      const j = Math.floor(next() * (i + 1))
      ;[list[i], list[j]] = [list[j]!, list[i]!]
    }
    return list
  }
  const positions: number[] = []
  const normals: number[] = []
  const uvs: number[] = []
  const indices: number[] = []
  const objects: Mesh['objects'] = []
  for (const o of permute(mesh.objects.length).map(i => mesh.objects[i]!)) {
    const firstVertex = positions.length / 3
    const firstTriangle = indices.length / 3
    const order = permute(o.vertices)
    const place = new Map(order.map((from, to) => [from + o.firstVertex, to + firstVertex]))
    for (const v of order.map(v => v + o.firstVertex)) {
      positions.push(...mesh.positions.subarray(v * 3, v * 3 + 3))
      normals.push(...mesh.normals.subarray(v * 3, v * 3 + 3))
      uvs.push(...mesh.uvs!.subarray(v * 2, v * 2 + 2))
    }
    for (const t of permute(o.triangles).map(t => t + o.firstTriangle)) {
      const turn = Math.floor(next() * 3)
      for (let c = 0; c < 3; c++) indices.push(place.get(mesh.indices[t * 3 + ((c + turn) % 3)]!)!)
    }
    objects.push({ ...o, firstVertex, firstTriangle })
  }
  return {
    ...mesh,
    positions: Float32Array.from(positions),
    normals: Float32Array.from(normals),
    uvs: Float32Array.from(uvs),
    indices: Uint32Array.from(indices),
    objects,
  }
}
const keysOf = (mesh: Mesh) => findParts(mesh).parts.map(p => p.key)
const sorted = (list: string[]) => [...list].sort()

describe('parts', () => {
  it('are the connected pieces, whatever the vertices are split for', () => {
    fc.assert(
      fc.property(anyBoxes(), specs => {
        const found = findParts(boxes(specs))
        expect(found.parts).toHaveLength(specs.length)
        expect(found.patches).toBe(specs.length * 6)
        expect(new Set(found.parts.map(p => p.key)).size).toBe(specs.length)
      }),
      { numRuns: 60 },
    )
  })

  it('have the measures of the solid', () => {
    const [part] = findParts(boxes([{ object: 'a', at: [1, 2, 3], size: [0.5, 2, 1] }])).parts
    expect(part).toMatchObject({ name: 'a', triangles: 12, size: [0.5, 2, 1], center: [1, 2, 3] })
    expect(part!.area).toBeCloseTo(2 * (0.5 * 2 + 2 * 1 + 0.5 * 1), 6)
    expect(Math.abs(part!.longestAxis[1])).toBeCloseTo(1, 5)
  })

  it('keep their keys when vertices, triangles and objects are shuffled', () => {
    fc.assert(
      fc.property(anyBoxes(), fc.nat(), (specs, seed) => {
        const mesh = boxes(specs)
        const other = shuffled(mesh, seed)
        expect(sorted(keysOf(other))).toEqual(sorted(keysOf(mesh)))
        const names = (m: Mesh) => sorted(findParts(m).parts.map(p => `${p.key} ${p.name}`))
        expect(names(other)).toEqual(names(mesh))
      }),
      { numRuns: 60 },
    )
  })

  it('keep their keys when other parts come and go', () => {
    fc.assert(
      fc.property(anyBoxes(), fc.nat(), (specs, n) => {
        const kept = specs.filter((_, i) => i !== n % specs.length)
        if (!kept.length) return
        const all = new Set(keysOf(boxes(specs)))
        for (const key of keysOf(boxes(kept))) expect(all.has(key)).toBe(true)
      }),
      { numRuns: 60 },
    )
  })

  it('have different keys even where two are the same in every way', () => {
    const same: BoxSpec = { object: 'a', at: [0, 0, 0] }
    const mesh = boxes([same, { object: 'b', at: [0, 0, 0] }])
    expect(new Set(keysOf(mesh)).size).toBe(2)
  })

  it('do not join across objects, and join within one where they touch', () => {
    const touching = (b: string) =>
      findParts(
        boxes([
          { object: 'a', at: [0, 0, 0] },
          { object: b, at: [1, 0, 0] },
        ]),
      ).parts.length
    expect([touching('a'), touching('b')]).toEqual([1, 2])
  })

  it('fall into groups by the map "group", else by object', () => {
    const mesh = boxes(
      [0, 1, 2, 3].map(i => ({ object: i < 3 ? 'a' : 'b', at: [i * 2, 0, 0] as [number, number, number] })),
    )
    expect(findParts(mesh).groups).toHaveLength(2)
    const values = Float32Array.from({ length: 96 }, (_, v) => (v < 48 ? 1 : 2))
    expect(findParts({ ...mesh, maps: [{ name: 'group', components: 1, values }] }).groups).toHaveLength(3)
  })
})

describe('welding', () => {
  it('joins vertices within the distance, across cells of its grid, and no others', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -1000, max: 1000 }),
        fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -1, max: 1, noNaN: true }))),
        fc.boolean(),
        (cell, direction, near) => {
          const distance = 0.01
          const length = Math.hypot(...direction)
          if (length < 0.1) return
          const at = cell * distance * 16
          const gap = distance * (near ? 0.9 : 1.2)
          const positions = Float32Array.from([at, at, at, ...direction.map(d => at + (d / length) * gap)])
          const rep = weld(
            { positions, objects: [{ name: 'a', firstVertex: 0, vertices: 2, firstTriangle: 0, triangles: 0 }] },
            distance,
          )
          expect(rep[1]).toBe(near ? 0 : 1)
        },
      ),
      { numRuns: 300 },
    )
  })
})

describe('sample points', () => {
  const { mesh, parts } = tablesOf(
    boxes([
      { object: 'a', at: [0, 0, 0], size: [1, 1, 1] },
      { object: 'b', at: [5, 0, 0], size: [2, 2, 2] },
    ]),
  )
  it('fall on every triangle by its area', () => {
    const points = samplePoints(mesh, 3000)
    const counts = [0, 0]
    points.triangle.forEach(t => counts[parts.partOfTriangle[t]!]!++)
    expect(counts[parts.partOfTriangle[0]!]! / 3000).toBeCloseTo(6 / 30, 2)
    points.u.forEach((u, i) => expect(u >= 0 && points.v[i]! >= 0 && u + points.v[i]! <= 1).toBe(true))
  })
  it('come in equal numbers for each part, in the order of the parts', () => {
    const points = samplePartPoints(mesh, parts, 50)
    expect(Array.from(points.triangle, t => parts.partOfTriangle[t]!)).toEqual([
      ...Array<number>(50).fill(0),
      ...Array<number>(50).fill(1),
    ])
  })
})
