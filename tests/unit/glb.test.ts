import { Document, WebIO, type Primitive } from '@gltf-transform/core'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { MeshFileError } from '#core/exchange/meshFile'
import { readMesh } from '#core/exchange/readMesh'
import { writeGlb } from '#core/exchange/writeGlb'
import { findParts } from '#core/mesh/parts'
import { boxes, row } from '../helpers'

const io = new WebIO()
const TRIANGLE = [0, 0, 0, 1, 0, 0, 0, 1, 0]
/** A file with one node and one primitive of our making. */
async function file(
  make: (
    primitive: Primitive,
    document: Document,
    accessor: (
      type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4',
      array: Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer> | Uint8Array<ArrayBuffer>,
    ) => ReturnType<Document['createAccessor']>,
  ) => void,
): Promise<Uint8Array> {
  const document = new Document()
  const buffer = document.createBuffer()
  const primitive = document.createPrimitive()
  make(primitive, document, (type, array) => document.createAccessor().setType(type).setArray(array).setBuffer(buffer))
  const node = document.getRoot().listNodes()[0] ?? document.createNode('thing')
  node.setMesh(node.getMesh() ?? document.createMesh('thing').addPrimitive(primitive))
  if (!document.getRoot().listScenes().length) document.createScene().addChild(node)
  return io.writeBinary(document)
}
const floats = (...x: number[]) => Float32Array.from(x)
const refused = async (bytes: Uint8Array) => {
  const error = await readMesh(bytes, 'mesh.glb').then(
    () => undefined,
    (e: unknown) => e,
  )
  expect(error).toBeInstanceOf(MeshFileError)
  return (error as Error).message
}

describe('reading GLB', () => {
  it('gives back what was written: objects, normals, UVs, materials, vertex maps', async () => {
    const mesh = boxes([
      { object: 'left', at: [0, 0, 0] },
      { object: 'left', at: [2, 0, 0] },
      { object: 'right', at: [4, 0, 0] },
    ])
    mesh.maps.push(
      { name: 'wet', components: 1, values: Float32Array.from({ length: 72 }, (_, i) => i / 72) },
      { name: 'COLOR_0', components: 4, values: new Float32Array(288).fill(0.5) },
    )
    const back = await readMesh(await writeGlb(mesh, 'three boxes'), 'mesh.glb')
    for (const key of ['positions', 'normals', 'uvs', 'indices', 'maps'] as const)
      expect(back[key], key).toEqual(mesh[key])
    expect(back.objects).toEqual(mesh.objects.map((o, i) => ({ ...o, node: i, shape: i })))
    expect(back.materials.map(m => m.name)).toEqual(['plain', 'plain'])
    expect(back.warnings).toEqual([])
  })

  it('applies transforms, and turns the winding where they mirror', async () => {
    const bytes = await file((p, d, a) => {
      p.setAttribute('POSITION', a('VEC3', floats(...TRIANGLE))).setAttribute(
        'NORMAL',
        a('VEC3', floats(0, 0, 1, 0, 0, 1, 0, 0, 1)),
      )
      const mesh = d.createMesh('m').addPrimitive(p)
      const parent = d.createNode('parent').setTranslation([10, 0, 0])
      d.createScene()
        .addChild(parent.addChild(d.createNode('mirrored').setMesh(mesh).setScale([-2, 1, 1])))
        .addChild(d.createNode('plain').setMesh(mesh))
      // The helper's own node must not add a third object.
      parent.setMesh(mesh)
    })
    const mesh = await readMesh(bytes, 'mesh.glb')
    expect(mesh.objects.map(o => o.name)).toEqual(['parent', 'mirrored', 'plain'])
    const { firstVertex, firstTriangle } = mesh.objects[1]!
    expect(Array.from(mesh.positions.slice(firstVertex * 3, firstVertex * 3 + 9))).toEqual([
      10, 0, 0, 8, 0, 0, 10, 1, 0,
    ])
    expect(Array.from(mesh.normals.slice(firstVertex * 3, firstVertex * 3 + 3)).map(x => x + 0)).toEqual([0, 0, 1])
    expect(Array.from(mesh.indices.slice(firstTriangle * 3, firstTriangle * 3 + 3)).map(v => v - firstVertex)).toEqual([
      0, 2, 1,
    ])
  })

  it('makes flat normals where there are none', async () => {
    const mesh = await readMesh(
      await file((p, _d, a) =>
        p.setAttribute('POSITION', a('VEC3', floats(...TRIANGLE))).setIndices(a('SCALAR', Uint16Array.of(0, 2, 1))),
      ),
      'mesh.glb',
    )
    expect(Array.from(mesh.normals).map(x => x + 0)).toEqual([0, 0, -1, 0, 0, -1, 0, 0, -1])
  })

  it('reads strips, fans and normalized colors, and leaves points out with a word', async () => {
    const square = floats(0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0)
    const strip = await readMesh(
      await file((p, d, a) => {
        p.setMode(5)
          .setAttribute('POSITION', a('VEC3', square))
          .setAttribute(
            'COLOR_0',
            a(
              'VEC4',
              Uint8Array.from({ length: 16 }, () => 51),
            ).setNormalized(true),
          )
        const points = d.createPrimitive().setMode(0).setAttribute('POSITION', a('VEC3', square))
        d.createNode('n').setMesh(d.createMesh('m').addPrimitive(p).addPrimitive(points))
      }),
      'mesh.glb',
    )
    expect(strip.indices.length).toBe(6)
    expect(findParts(strip).parts).toHaveLength(1)
    const facing = strip.normals.filter((_, i) => i % 3 === 2)
    expect([...facing].every(z => z === 1)).toBe(true)
    expect(strip.maps[0]!.values[0]).toBeCloseTo(0.2, 6)
    expect(strip.warnings[0]).toMatch(/points or lines/)
  })

  it('doubles no vertices of primitives that share them', async () => {
    const mesh = row(1)
    mesh.materials = [
      { name: 'one', firstTriangle: 0, triangles: 4 },
      { name: 'two', firstTriangle: 4, triangles: 8 },
    ]
    const back = await readMesh(await writeGlb(mesh, 'box'), 'mesh.glb')
    expect(back.positions.length).toBe(mesh.positions.length)
    expect(back.materials).toEqual(mesh.materials)
  })
})

describe('files that cannot be read', () => {
  it('are refused in one sentence each', async () => {
    const good = await writeGlb(row(2), 'boxes')
    expect(await refused(new Uint8Array())).toBe('The file is empty.')
    expect(await refused(new TextEncoder().encode('solid cube, but this is a text file'))).toMatch(/not a GLB file/)
    expect(await refused(new Uint8Array(30_000_000))).toMatch(/not a GLB file/)
    expect(await refused(good.slice(0, good.length / 2))).toMatch(/cut off: it should have \d+ bytes/)
    expect(await refused(Object.assign(good.slice(), { 4: 1 }))).toMatch(/version 1/)
    expect(await refused(Object.assign(good.slice(), { 20: 0x21 }))).toMatch(/first chunk is not readable JSON/)
    expect(await refused(await io.writeBinary(new Document()))).toBe('The file has no triangles.')
    expect(
      await refused(
        await file((p, _d, a) => p.setAttribute('POSITION', a('VEC3', floats(0, 0, 0, 1, 0, NaN, 0, 1, 0)))),
      ),
    ).toBe('Vertex 1 of "thing" has a position that is not a number.')
    expect(
      await refused(
        await file((p, _d, a) =>
          p.setAttribute('POSITION', a('VEC3', floats(...TRIANGLE))).setIndices(a('SCALAR', Uint16Array.of(0, 1, 7))),
        ),
      ),
    ).toBe('A triangle of "thing" names vertex 7, but there are only 3 vertices.')
    await expect(readMesh(good, 'mesh.glb', { limits: { bytes: 100, triangles: 1e6 } })).rejects.toThrow(/the limit is/)
    await expect(readMesh(good, 'mesh.glb', { limits: { bytes: 1e6, triangles: 10 } })).rejects.toThrow(
      /more than 10 triangles/,
    )
  })

  it('say so when there are no UVs', async () => {
    const { uvs: _, ...mesh } = row(1)
    expect((await readMesh(await writeGlb(mesh, 'bare'), 'mesh.glb')).warnings).toEqual([
      'There are no UVs, so no textures can be made; vertex colors still work.',
    ])
  })

  it('never bring anything but a sentence, whatever bytes are changed', async () => {
    const good = await writeGlb(row(2), 'boxes')
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(good.length - 1), fc.nat(255)), { minLength: 1, maxLength: 12 }),
        fc.option(fc.nat(good.length), { freq: 4 }),
        async (changes, cut) => {
          const bytes = good.slice(0, cut ?? good.length)
          for (const [at, value] of changes) if (at < bytes.length) bytes[at] = value
          try {
            const mesh = await readMesh(bytes, 'mesh.glb')
            expect(mesh.positions.every(Number.isFinite)).toBe(true)
            expect(mesh.indices.every(v => v < mesh.positions.length / 3)).toBe(true)
          } catch (error) {
            expect(error, String(error)).toBeInstanceOf(MeshFileError)
            expect((error as Error).message).not.toContain('\n')
          }
        },
      ),
      { numRuns: 600 },
    )
  })
})
