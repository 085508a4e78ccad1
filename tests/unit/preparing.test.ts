import { describe, expect, it } from 'vitest'
import { falseColor, swatchOf } from '#core/color/falseColor'
import { decodeSrgb, toLch } from '#core/color/convert'
import { replacementOf } from '#core/evaluate/replacement'
import { Workpiece } from '#core/evaluate/workpiece'
import { readMesh } from '#core/exchange/readMesh'
import { unwrap } from '#core/exchange/unwrap'
import { check } from '#core/graph/check'
import { emptyLook } from '#core/graph/look'
import { addNode } from '#core/graph/edit'
import { findContacts } from '#core/mesh/contacts'
import { keyOf } from '#core/mesh/hash'
import { READING_BINS, readVertexMap } from '#core/mesh/mapReading'
import type { PartSet } from '#core/mesh/partSets'
import { findParts } from '#core/mesh/parts'
import { emptyPreparation, type Preparation } from '#core/mesh/preparation'
import { oddities } from '#core/mesh/report'
import { freeName, newSet, renameMap, renameSet } from '#core/mesh/setEdits'
import { inspectUvs, uvLayout } from '#core/mesh/uvs'
import { at, boxes, crowd, lookOf, partsOf, row } from '../helpers'
import { samplePoints } from '#core/mesh/sample'

const byObject = (name: string, text: string): PartSet => ({
  ...newSet([], [], name),
  rules: [{ by: 'object', is: 'exactly', text }],
})
const prepared = (change: Partial<Preparation>): Preparation => ({ ...emptyPreparation(), ...change })

describe('a workpiece', () => {
  it('finds contacts piece by piece, once for all who want them, and anew for another distance', () => {
    const mesh = crowd()
    const all = (distance: number) => findContacts(mesh, findParts(mesh), distance)
    const piece = new Workpiece(mesh, prepared({ contact: 0.001 }))
    const first = piece.findingTouching()
    const second = piece.findingTouching()
    expect(first.next().done).toBe(false)
    expect(piece.tables.touchingKnown!()).toBe(false)
    expect(piece.arranged.measures.neighbors[0]).toBe(0)
    expect(second.next().done).toBe(false)
    const found = piece.touching()
    expect(found).toEqual(all(0.001))
    expect(first.next()).toEqual({ done: true, value: found })
    expect(piece.touching()).toBe(found)
    expect(piece.arranged.measures.neighbors[0]).toBe(59)

    const begun = piece.findingTouching()
    piece.apply(prepared({ contact: 2.5 }))
    begun.next()
    piece.apply(prepared({ contact: 1.5 }))
    const steps = [...piece.findingTouching()]
    expect(steps.length).toBeGreaterThan(2)
    expect(begun.next()).toEqual({ done: true, value: all(1.5) })

    // Three rows beside one another, then too far away.
    piece.apply(prepared({ contact: 2.5 }))
    piece.findingTouching().next()
    piece.apply(prepared({ contact: 2.5, scale: 3 }))
    expect(piece.touching().pairs.length).toBeLessThan(all(2.5).pairs.length / 2)
  })
  it('does again only what a change asks for', () => {
    const piece = new Workpiece(row(4), prepared({}))
    const { positions } = piece.tables.mesh
    expect(piece.apply(prepared({ sets: [byObject('One', 'box 1')] }))).toBe(false)
    expect(piece.tables.mesh.positions).toBe(positions)
    expect(piece.arranged.sets[0]!.members).toEqual(Uint8Array.of(0, 1, 0, 0))
    expect(piece.apply(prepared({ weld: 1.5 }))).toBe(true)
    expect(piece.parts.parts).toHaveLength(4)
    expect(piece.apply(prepared({ edge: 0.3 }))).toBe(true)
    expect(piece.tables.mesh.indices.length).toBeGreaterThan(row(4).indices.length * 8)
    expect(piece.mesh.indices.length).toBe(row(4).indices.length)
  })

  it('drops computed maps with the vertices that they belong to, and prefers one to a map of the file', () => {
    const mesh = row(2)
    const zeros = new Float32Array(mesh.positions.length / 3)
    mesh.maps.push({ name: 'salt', components: 1, values: zeros })
    const piece = new Workpiece(mesh, prepared({ maps: [{ kind: 'facing', name: 'salt', direction: [0, 1, 0] }] }))
    piece.computeAll()
    const salt = () => piece.tables.mesh.maps.filter(m => m.name === 'salt')
    expect(salt()).toHaveLength(1)
    expect(Math.max(...salt()[0]!.values)).toBe(1)
    piece.apply(prepared({ edge: 0.5 }))
    expect(salt().map(m => Math.max(...m.values))).toEqual([0])
  })
})

describe('the part set node', () => {
  it('is 1 on the parts of its set and 0 elsewhere, and the outside is the rest', () => {
    const { tables } = new Workpiece(row(5), prepared({ sets: [byObject('Middle', 'box 2')] }))
    const points = samplePoints(tables.mesh, 500)
    const look = lookOf({ it: ['partSet', { set: 'Middle' }] }, [])
    const inside = at(look, tables, 'partSet1/value', points)[0]!
    const outside = at(look, tables, 'partSet1/outside', points)[0]!
    partsOf(tables, points).forEach((p, i) => expect([inside[i], outside[i]]).toEqual(p === 2 ? [1, 0] : [0, 1]))
    const unknown = at(lookOf({ it: ['partSet', { set: 'nobody' }] }, []), tables, 'partSet1/value', points)[0]!
    expect(unknown.every(x => x === 0)).toBe(true)
  })
  it('is found wanting where the project has no such set', () => {
    const { look } = addNode(emptyLook(), 'partSet', [0, 0], { set: 'Gone' })
    expect(
      check(look, { sets: ['Here'] })
        .map(f => f.message)
        .join(),
    ).toContain('Gone')
    expect(check(look, { sets: ['Gone'] }).some(f => f.message.includes('Gone'))).toBe(false)
  })
})

describe('names', () => {
  const document = {
    look: lookOf(
      { a: ['partSet', { set: 'Old' }], b: ['partSet', { set: 'Other' }], m: ['vertexMap', { map: 'salt' }] },
      [],
    ),
    preparation: prepared({
      sets: [
        { ...newSet([], []), name: 'Old' },
        { ...newSet([], []), id: 'set2', name: 'Other' },
      ],
      maps: [{ kind: 'facing', name: 'up', direction: [0, 1, 0] }],
    }),
  }
  const param = (d: typeof document, id: string) => d.look.nodes.find(n => n.id === id)!.params
  it('are made free by a number', () => {
    expect(freeName('Set', ['Set', 'Set 2'])).toBe('Set 3')
    expect(freeName('  ', [])).toBe('Set')
  })
  it('of sets take the nodes that read them along', () => {
    const next = renameSet(document, 'set1', 'New')
    expect([param(next, 'partSet1').set, param(next, 'partSet2').set, next.preparation.sets[0]!.name]).toEqual([
      'New',
      'Other',
      'New',
    ])
    expect(renameSet(document, 'set1', 'Other').preparation.sets[0]!.name).toBe('Other 2')
    expect(renameSet(document, 'set1', ' ')).toBe(document)
  })
  it('of maps do the same, and a name given back leaves nothing behind', () => {
    const next = renameMap(document, 'salt', 'weather', ['salt', 'up'])
    expect([param(next, 'vertexMap1').map, next.preparation.renamed]).toEqual([
      'weather',
      [{ from: 'salt', to: 'weather' }],
    ])
    const back = renameMap(next, 'weather', 'salt', ['weather', 'up'])
    expect([param(back, 'vertexMap1').map, back.preparation.renamed]).toEqual(['salt', []])
    expect(renameMap(document, 'up', 'above', ['salt', 'up']).preparation.maps[0]!.name).toBe('above')
  })
})

describe('reading a map', () => {
  it('weighs by area: a map that is 1 on the large box alone', () => {
    const mesh = boxes([
      { object: 'a', at: [0, 0, 0] },
      { object: 'b', at: [5, 0, 0], size: [3, 3, 3] },
    ])
    const values = Float32Array.from({ length: 48 }, (_, v) => (v < 24 ? 0 : 1))
    const r = readVertexMap(mesh, { name: 'm', components: 1, values }, 0)
    expect([r.low, r.high, r.lowest < 24, r.highest >= 24]).toEqual([0, 1, true, true])
    expect(r.mean).toBeCloseTo(0.9, 6)
    expect(r.shares[0]).toBeCloseTo(0.1, 6)
    expect(r.shares[READING_BINS - 1]).toBeCloseTo(0.9, 6)
  })
})

describe('colors', () => {
  const lightness = (c: readonly number[]) => toLch(c.map(decodeSrgb) as [number, number, number])[0]
  it('rise in lightness with the value, evenly, so that gray printing keeps the order', () => {
    for (let i = 1; i <= 20; i++)
      expect(lightness(falseColor(i / 20)) - lightness(falseColor((i - 1) / 20))).toBeCloseTo(0.035, 1.7)
    expect(falseColor(-1)).toEqual(falseColor(0))
  })
  it('of parts come from their keys alone', () => {
    expect(swatchOf(keyOf('a'))).toEqual(swatchOf(keyOf('a')))
    expect(
      new Set(
        Array.from({ length: 200 }, (_, i) =>
          swatchOf(keyOf(`part ${i}`))
            .map(x => x.toFixed(2))
            .join(),
        ),
      ).size,
    ).toBeGreaterThan(190)
  })
})

describe('UVs', () => {
  it('are made by unwrapping: one tile, no overlaps, the same parts and vertex maps', async () => {
    const { uvs: _, ...mesh } = boxes([
      { object: 'a', at: [0, 0, 0] },
      { object: 'b', at: [3, 0, 0], size: [1, 2, 1] },
    ])
    mesh.maps.push({
      name: 'height',
      components: 1,
      values: Float32Array.from({ length: 48 }, (_, v) => mesh.positions[v * 3 + 1]!),
    })
    const before = new Workpiece(mesh, emptyPreparation())
    const after = await readMesh(await unwrap(mesh), 'x.glb')
    const report = inspectUvs(after)
    expect([...report.tiles]).toEqual([1001])
    expect(report.overlapping).toBe(0)
    const piece = new Workpiece(after, emptyPreparation(), before.table)
    expect(piece.parts.parts.map(p => p.key).sort()).toEqual(before.parts.parts.map(p => p.key).sort())
    const height = after.maps.find(m => m.name === 'height')!.values
    height.forEach((h, v) => expect(h).toBeCloseTo(after.positions[v * 3 + 1]!, 6))
  })
  it('show where they overlap and where islands end', () => {
    const mesh = row(2)
    mesh.uvs = mesh.uvs!.map((x, i) => (i < 48 ? x : mesh.uvs![i - 48]!))
    const report = inspectUvs(mesh)
    const { overlapping, borders } = uvLayout(mesh, report.overlaps)
    expect(report.overlapping).toBeGreaterThan(0.99)
    expect(overlapping).toHaveLength(mesh.indices.length)
    // Each of the 12 faces is an island of four edges.
    expect(borders).toHaveLength(12 * 4 * 2)
  })
})

describe('what is odd', () => {
  const report = (mesh: ReturnType<typeof row>) => {
    const { mesh: settled, parts, arranged } = new Workpiece(mesh, emptyPreparation())
    return oddities(settled, parts, arranged.measures, inspectUvs(settled))
  }
  it('is nothing about a sound mesh', () => expect(report(row(3))).toEqual([]))
  it('is said with the parts it is about', () => {
    const mesh = row(3)
    // (1) Box 1 turned inside out; (2) a face of box 2 taken away.
    for (let t = 12; t < 24; t++)
      [mesh.indices[t * 3 + 1], mesh.indices[t * 3 + 2]] = [mesh.indices[t * 3 + 2]!, mesh.indices[t * 3 + 1]!]
    mesh.indices = mesh.indices.slice(0, -6)
    mesh.objects[2]!.triangles -= 2
    mesh.materials[0]!.triangles -= 2
    const found = new Map(report(mesh).map(o => [o.id, o]))
    expect(found.get('inward')!.parts).toEqual([1])
    expect(found.get('open')).toMatchObject({ parts: [2], message: '4 edges are open, on 1 part.' })
  })
  it('offers units for a size that suggests others', () => {
    const mesh = row(2)
    mesh.positions = mesh.positions.map(x => x * 400)
    expect(report(mesh).find(o => o.id === 'large')!.fix).toMatchObject({ do: 'scale', factor: 0.01 })
    const small = row(2)
    small.positions = small.positions.map(x => x * 3e-4)
    expect(report(small).map(o => o.id)).toEqual(['small', 'tiny'])
  })
})

describe('keys', () => {
  const many = Array.from({ length: 12 }, (_, i) => ({
    object: `crate ${i % 3}`,
    at: [i * 1.7, (i % 4) * 0.3, 0] as [number, number, number],
    size: [1 + i * 0.01, 1, 1] as [number, number, number],
  }))
  it('stay what they were when the mesh is read in other units, with no table as with the one that was kept', () => {
    const piece = new Workpiece(boxes(many), prepared({}))
    const before = piece.parts.parts.map(p => p.key)
    const kept = piece.table
    piece.apply(prepared({ scale: 0.01 }))
    expect(piece.parts.parts.map(p => p.key)).toEqual(before)
    expect(new Workpiece(boxes(many), prepared({ scale: 0.01 }), kept).parts.parts.map(p => p.key)).toEqual(before)
  })
  it('are all found again, and none is lost, in a mesh that was unwrapped after it was read in other units', async () => {
    const piece = new Workpiece(boxes(many), prepared({}))
    const kept = piece.table
    piece.apply(prepared({ scale: 0.01 }))
    const again = new Workpiece(
      await readMesh(await unwrap(piece.file), 'unwrapped.glb'),
      prepared({ scale: 0.01 }),
      kept,
    )
    const { counts, lost, fresh } = replacementOf(again, piece.parts)
    expect([counts.new, counts.same, lost, fresh]).toEqual([0, 12, [], []])
  })
  it('of a part that is gone are told as lost, of one that has come as new', () => {
    const piece = new Workpiece(boxes(many), prepared({}))
    const other = new Workpiece(
      boxes([...many.slice(1), { object: 'barrel', at: [0, 9, 0], size: [2, 0.5, 0.25] }]),
      prepared({}),
      piece.table,
    )
    const { counts, lost, fresh } = replacementOf(other, piece.parts)
    const gone = piece.parts.parts.find(p => Math.abs(p.center[0]) < 0.01)!
    expect([counts.new, lost, fresh]).toEqual([1, [gone.name], ['barrel']])
  })
})
