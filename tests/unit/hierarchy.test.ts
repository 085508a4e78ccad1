import { Logger, WebIO, type Document, type Node } from '@gltf-transform/core'
import { EXTMeshGPUInstancing } from '@gltf-transform/extensions'
import fc from 'fast-check'
import validator from 'gltf-validator'
import { DoubleSide, Matrix4, Mesh as Shown, Vector3, type BufferGeometry, type Material } from 'three'
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js'
import { describe, expect, it } from 'vitest'
import { inspect } from '#core/exchange/inspect'
import { readMesh } from '#core/exchange/readMesh'
import { unwrap } from '#core/exchange/unwrap'
import { PART_INDEX, writeGlb, type GlbLook } from '#core/exchange/writeGlb'
import { writeUsd } from '#core/exchange/writeUsd'
import { triangleCross, type Mesh } from '#core/mesh/mesh'
import { findParts } from '#core/mesh/parts'
import { emptyPreparation, settled } from '#core/mesh/preparation'
import { inspectUvs } from '#core/mesh/uvs'
import { TraceScene } from '#core/trace/scene'
import { boxes } from '../helpers'
import { readUsd } from '../usdLibrary'

// A yard as an assembly comes: one crate that stands in several places, nodes in nodes, and what a pipeline wrote.

const io = new WebIO().setLogger(new Logger(Logger.Verbosity.SILENT))
const SLANTED: [number, number, number, number] = [0.18257418, 0.36514837, 0.54772256, 0.73029674]

interface Stands {
  name: string
  move?: [number, number, number]
  turn?: [number, number, number, number]
  scale?: [number, number, number]
}
const PLACES: Stands[] = [
  { name: 'Crate 1', move: [0.1, 0, 0] },
  { name: 'Crate 2', move: [3, 1, 7], turn: SLANTED },
  { name: 'Crate 3', move: [-5, 2, 0], scale: [2, 3, 0.5] },
  { name: 'Crate 4', move: [0, -4, 2], turn: SLANTED, scale: [-1, 1, 1] },
  { name: 'Crate 5', move: [9, 0, 1], scale: [0.25, 0.25, 0.25] },
]

/** A file in which one mesh of two materials stands wherever it is said. */
async function yard(places: readonly Stands[] = PLACES): Promise<Uint8Array> {
  const shape = boxes([{ object: 'crate', at: [0, 0, 0] }])
  const document = await io.readBinary(await writeGlb(shape, 'crate'))
  const root = document.getRoot()
  const mesh = root.listMeshes()[0]!.setExtras({ asset: 'crate-07' })
  const second = mesh.listPrimitives()[0]!.clone()
  const indices = second.getIndices()!
  const array = indices.getArray()!
  second.setIndices(indices.clone().setArray(array.slice(0, 18))).setMaterial(document.createMaterial('lid'))
  mesh.listPrimitives()[0]!.setIndices(indices.clone().setArray(array.slice(18)))
  mesh.addPrimitive(second)
  for (const old of root.listNodes()) old.dispose()
  const site = document
    .createNode('Site')
    .setTranslation([100, 0, -20])
    .setRotation([0, 0.38268343, 0, 0.92387953])
    .setScale([0.5, 0.5, 0.5])
    .setExtras({ level: 3, tags: ['pier', 'north'] })
  const row = document.createNode('Row').setTranslation([1, 2, 3])
  site.addChild(row).addChild(document.createNode('Locator').setTranslation([0, 0, 1]).setExtras({ use: 'hook' }))
  for (const { name, move, turn, scale } of places)
    row.addChild(
      document
        .createNode(name)
        .setTranslation(move ?? [0, 0, 0])
        .setRotation(turn ?? [0, 0, 0, 1])
        .setScale(scale ?? [1, 1, 1])
        .setMesh(mesh),
    )
  root.getDefaultScene()!.addChild(site).setExtras({ shot: 12 })
  return io.writeBinary(document)
}

const tree = (node: Node): unknown => [
  node.getName(),
  node.getMatrix().map(x => Number(x.toFixed(5)) + 0),
  node.getExtras(),
  node.listChildren().map(tree),
]
const treeOf = (document: Document): unknown => document.getRoot().getDefaultScene()!.listChildren().map(tree)
const plainLook: GlbLook = { variants: [{ name: 'plain', tiles: new Map([[1001, {}]]) }] }

/** Corners in the world as another loader sees them, object by object: place, normal, and which way the face looks. */
async function seen(glb: Uint8Array): Promise<Map<string, { at: number[]; facing: number }>> {
  const scene = await new GLTFLoader().parseAsync(glb.slice().buffer, '')
  scene.scene.updateMatrixWorld(true)
  const found = new Map<string, { at: number[]; facing: number }>()
  scene.scene.traverse(o => {
    if (!(o instanceof Shown)) return
    const geometry = o.geometry as BufferGeometry
    const mirrored = o.matrixWorld.determinant() < 0
    const index = geometry.index!
    const corner = (i: number): Vector3 =>
      new Vector3().fromBufferAttribute(geometry.attributes.position!, index.getX(i)).applyMatrix4(o.matrixWorld)
    // What has several materials becomes a group of meshes.
    const name = PLACES.some(p => o.name === p.name.replaceAll(' ', '_')) ? o.name : o.parent!.name
    const entry = found.get(name) ?? { at: [], facing: 1 }
    for (let t = 0; t < index.count; t += 3) {
      const [a, b, c] = [corner(t), corner(t + (mirrored ? 2 : 1)), corner(t + (mirrored ? 1 : 2))] as const
      const normal = new Vector3()
        .fromBufferAttribute(geometry.attributes.normal!, index.getX(t))
        .transformDirection(new Matrix4().copy(o.matrixWorld).invert().transpose())
      const face = b.clone().sub(a).cross(c.clone().sub(a)).normalize()
      entry.facing = Math.min(entry.facing, face.dot(normal))
      entry.at.push(...a.toArray(), ...b.toArray(), ...c.toArray())
    }
    found.set(name, entry)
  })
  return found
}
const cornersOf = (mesh: Mesh, i: number): number[] => {
  const { firstTriangle, triangles } = mesh.objects[i]!
  return [...mesh.indices.slice(firstTriangle * 3, (firstTriangle + triangles) * 3)].flatMap(v => [
    ...mesh.positions.slice(v * 3, v * 3 + 3),
  ])
}
const sorted = (x: readonly number[]): number[] => [...x].sort((a, b) => a - b)
function near(a: readonly number[], b: readonly number[], slack: number): void {
  expect(a.length).toBe(b.length)
  expect(a.reduce((most, x, i) => Math.max(most, Math.abs(x - b[i]!)), 0)).toBeLessThan(slack)
}

it('a surface is seen from both sides by another loader, as on the stage', async () => {
  for (const look of [plainLook, undefined]) {
    const glb = await writeGlb(await readMesh(await yard(), 'yard.glb'), 'yard', look)
    const { scene } = await new GLTFLoader().parseAsync(glb.slice().buffer, '')
    const sides: unknown[] = []
    scene.traverse(o => {
      if (o instanceof Shown) sides.push((o.material as Material).side)
    })
    expect(sides.length).toBeGreaterThan(2)
    expect(new Set(sides)).toEqual(new Set([DoubleSide]))
  }
})

describe('a GLB of a file with nodes in nodes', () => {
  it('has the same nodes in the same places, with what the file says of them, and one mesh where it had one', async () => {
    const before = await yard()
    const mesh = await readMesh(before, 'yard.glb')
    expect(mesh.objects.map(o => o.name)).toEqual(PLACES.map(p => p.name))
    const after = await writeGlb(mesh, 'yard', plainLook)
    const document = await io.readBinary(after)
    expect(treeOf(document)).toEqual(treeOf(await io.readBinary(before)))
    expect(document.getRoot().getDefaultScene()!.getExtras()).toEqual({ shot: 12 })
    const meshes = document.getRoot().listMeshes()
    expect(meshes).toHaveLength(1)
    expect(meshes[0]!.getExtras()).toEqual({ asset: 'crate-07' })
    expect(after.length).toBeLessThan(before.length * 1.2)
    const report = await validator.validateBytes(after)
    expect(report.issues.messages.filter(m => m.severity < 2)).toEqual([])
  })

  it('stands in the world where the mesh does, faces outward, mirrored or not', async () => {
    const mesh = await readMesh(await yard(), 'yard.glb')
    const shown = await seen(await writeGlb(mesh, 'yard', plainLook))
    mesh.objects.forEach(({ name }, i) => {
      const of = shown.get(name.replaceAll(' ', '_'))!
      near(sorted(of.at), sorted(cornersOf(mesh, i)), 2e-5)
      expect(of.facing, name).toBeGreaterThan(0.9999)
    })
  })

  it('shares what is the same where values differ from place to place', async () => {
    const mesh = await readMesh(await yard(), 'yard.glb')
    const { partOfVertex, parts } = findParts(mesh)
    const maps = [{ name: PART_INDEX, components: 1, values: Float32Array.from(partOfVertex) }]
    const glb = await writeGlb(mesh, 'yard', { ...plainLook, maps, keys: parts.map(p => p.key) })
    const root = (await io.readBinary(glb)).getRoot()
    const used = (semantic: string): number =>
      new Set(root.listMeshes().flatMap(m => m.listPrimitives().map(p => p.getAttribute(semantic)))).size
    expect(root.listMeshes()).toHaveLength(PLACES.length)
    expect([used('POSITION'), used('NORMAL'), used('TEXCOORD_0')]).toEqual([1, 1, 1])
    expect(used(`_${PART_INDEX}`)).toBe(PLACES.length)
    expect(root.getDefaultScene()!.getExtras()).toMatchObject({ shot: 12, partKeys: parts.map(p => p.key) })
  })

  it('is packed with its nodes where they were, to what the packing costs', async () => {
    const mesh = await readMesh(await yard(), 'yard.glb')
    for (const compression of ['exact', 'quantized'] as const) {
      const back = await readMesh(await writeGlb(mesh, 'yard', { ...plainLook, compression }), 'yard.glb')
      near([...back.positions], [...mesh.positions], 1e-3)
      expect(back.objects.map(o => o.name)).toEqual(mesh.objects.map(o => o.name))
    }
  })

  it('follows when the file is read in other units', async () => {
    const mesh = settled(await readMesh(await yard(), 'yard.glb'), { ...emptyPreparation(), scale: 0.01 })
    const back = await readMesh(await writeGlb(mesh, 'yard', plainLook), 'yard.glb')
    near([...back.positions], [...mesh.positions], 2e-7)
    const scale = back.nodes!.map(n => Math.hypot(...n.matrix.slice(0, 3)))
    near(
      scale,
      mesh.nodes!.map(n => Math.hypot(...n.matrix.slice(0, 3))),
      1e-6,
    )
  })

  it('puts what is squashed flat beside the rest, in the world, and instances into nodes of their own', async () => {
    const flat = await readMesh(await yard([{ name: 'Sheet', scale: [1, 0, 1] }, { name: 'Crate' }]), 'yard.glb')
    const back = await readMesh(await writeGlb(flat, 'yard', plainLook), 'yard.glb')
    near(sorted([...back.positions]), sorted([...flat.positions]), 2e-5)

    const document = await io.readBinary(await yard([{ name: 'Crate', move: [2, 0, 0] }]))
    const instancing = document.createExtension(EXTMeshGPUInstancing)
    const move = document.createAccessor().setType('VEC3').setBuffer(document.getRoot().listBuffers()[0]!)
    move.setArray(Float32Array.from([0, 0, 0, 0, 3, 0, 0, 6, 0]))
    const crate = document
      .getRoot()
      .listNodes()
      .find(n => n.getName() === 'Crate')!
    crate.setExtension('EXT_mesh_gpu_instancing', instancing.createInstancedMesh().setAttribute('TRANSLATION', move))
    const glb = await new WebIO().registerExtensions([EXTMeshGPUInstancing]).writeBinary(document)
    const three = await readMesh(glb, 'yard.glb')
    const written = await io.readBinary(await writeGlb(three, 'yard', plainLook))
    const names = written
      .getRoot()
      .listNodes()
      .map(n => n.getName())
    expect(names.filter(n => n.startsWith('Crate'))).toEqual(['Crate', 'Crate 1', 'Crate 2', 'Crate 3'])
    expect(written.getRoot().listMeshes()).toHaveLength(1)
    const again = await readMesh(await writeGlb(three, 'yard', plainLook), 'yard.glb')
    near([...again.positions], [...three.positions], 2e-5)
  })

  it('comes back the same however nodes turn, scale and mirror', async () => {
    const size = fc.oneof(
      fc.double({ min: 0.1, max: 10, noNaN: true }),
      fc.double({ min: -10, max: -0.1, noNaN: true }),
    )
    const turn = fc
      .tuple(...[0, 1, 2, 3].map(() => fc.double({ min: -1, max: 1, noNaN: true })))
      .filter(q => Math.hypot(...q) > 0.1)
      .map(q => q.map(x => x / Math.hypot(...q)) as [number, number, number, number])
    const place = fc.record({
      move: fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -50, max: 50, noNaN: true }))),
      turn,
      scale: fc.tuple(size, size, size),
    })
    await fc.assert(
      fc.asyncProperty(fc.array(place, { minLength: 1, maxLength: 3 }), async list => {
        const places = list.map((p, i) => ({ name: `Crate ${i}`, ...p }) as Stands)
        const mesh = await readMesh(await yard(places), 'yard.glb')
        const back = await readMesh(await writeGlb(mesh, 'yard', plainLook), 'yard.glb')
        near([...back.positions], [...mesh.positions], 1e-4)
        near([...back.normals], [...mesh.normals], 1e-4)
        const facing = (m: Mesh, t: number): number => {
          const cross: [number, number, number] = [0, 0, 0]
          triangleCross(m, t, cross)
          return Math.sign(cross.reduce((sum, x, k) => sum + x * m.normals[m.indices[t * 3]! * 3 + k]!, 0))
        }
        for (let t = 0; t < back.indices.length / 3; t++) expect(facing(back, t)).toBe(1)
      }),
      { numRuns: 40 },
    )
  })
})

describe('nodes that turn and mirror', () => {
  it('are counted by whoever looks into a file, and so are the meshes that stand in them', async () => {
    const mesh = await readMesh(await yard(), 'yard.glb')
    // Site, Row and Locator, and one for each place.
    expect(inspect(mesh, findParts(mesh))).toMatchObject({ nodes: 3 + PLACES.length, shapes: 1 })
  })

  it('are traced as they stand: places, normals and faces', async () => {
    const mesh = await readMesh(await yard(), 'yard.glb')
    const scene = await TraceScene.read(await writeGlb(mesh, 'yard', plainLook))
    near(sorted([...scene.positions]), sorted([...mesh.positions]), 2e-5)
    near(sorted([...scene.normals]), sorted([...mesh.normals]), 1e-5)
  })

  it('get a place of their own each where the mesh is unwrapped', async () => {
    const mesh = await readMesh(await yard(), 'yard.glb')
    const unwrapped = await readMesh(await unwrap(mesh), 'yard.glb')
    expect(unwrapped.objects.map(o => o.name)).toEqual(mesh.objects.map(o => o.name))
    expect(inspectUvs(unwrapped).overlapping).toBeLessThan(0.001)
    near(
      mesh.objects.flatMap((_, i) => sorted(cornersOf(unwrapped, i))),
      mesh.objects.flatMap((_, i) => sorted(cornersOf(mesh, i))),
      2e-5,
    )
  })
})

describe('a USD layer of a file with nodes in nodes', () => {
  it('stands in the world where the mesh does, in prims like the nodes, as another library composes it', async () => {
    const mesh = await readMesh(await yard(), 'yard.glb')
    const scene = await readUsd(writeUsd(mesh, 'yard'))
    expect(scene.meshes.map(m => m.path)).toEqual(PLACES.map(p => `/yard/Site/Row/${p.name.replace(' ', '_')}`))
    scene.meshes.forEach(({ corners }, i) => near(sorted(corners), sorted(cornersOf(mesh, i)), 2e-5))
    expect(scene.meshes.map(m => m.mirrored)).toEqual([false, false, false, true, false])
    // Faces turn as the file had them: where a prim mirrors, all of them look inward by their order.
    scene.meshes.forEach(({ corners, mirrored }, i) => {
      const order = mirrored ? [0, 2, 1] : [0, 1, 2]
      const turned = Array.from({ length: corners.length / 9 }, (_, t) =>
        order.flatMap(k => corners.slice((t * 3 + k) * 3, (t * 3 + k) * 3 + 3)),
      ).flat()
      expect(Math.sign(volume(turned))).toBe(Math.sign(volume(cornersOf(mesh, i))))
    })
  })

  it('says what is there several times once, what is different where it is, and what a pipeline wrote', async () => {
    const mesh = await readMesh(await yard(), 'yard.glb')
    const { partOfTriangle, partOfVertex, parts } = findParts(mesh)
    const wear = mesh.positions.filter((_, i) => i % 3 === 1)
    const layer = writeUsd(mesh, 'yard', {
      primvars: [
        { name: 'number', components: 1, values: Float32Array.from(partOfVertex), whole: true, perPart: true },
        { name: 'wear', components: 1, values: wear },
      ],
      partOfTriangle,
      keys: parts.map(p => p.key),
    })
    expect(layer.match(/point3f\[\] points/g)).toHaveLength(1)
    expect(layer.match(/prepend references = <\/yard\/Site\/Row\/Crate_1>/g)).toHaveLength(PLACES.length - 1)
    expect(layer).toContain('customData = {')
    expect(layer).toContain(String.raw`string extras = "{\"use\":\"hook\"}"`)
    const { text } = await readUsd(layer)
    const numbers = [...text.matchAll(/primvars:number = \[(\d+)\]/g)].map(m => Number(m[1]))
    expect(numbers).toEqual(mesh.objects.map((_, i) => partOfTriangle[mesh.objects[i]!.firstTriangle]!))
    const keys = [...text.matchAll(/primvars:part_key = \["(\w+)"\]/g)].map(m => m[1])
    expect(keys).toEqual(numbers.map(n => parts[n]!.key))
    expect(text.match(/float\[\] primvars:wear/g)).toHaveLength(PLACES.length)
    expect(text.match(/point3f\[\] points/g)).toHaveLength(PLACES.length)
  })

  it('names prims after nodes, also where they have no name or the same one, or hold a mesh and others', async () => {
    const mesh = await readMesh(await yard(), 'yard.glb')
    const nodes = mesh.nodes!.map((n, i) => ({ ...n, name: n.name === 'Crate 2' ? 'Crate 1' : n.name, at: i }))
    const [row] = nodes.filter(n => n.name === 'Row')
    const stacked = nodes.map(n => (n.name === 'Crate 3' ? { ...n, within: mesh.objects[0]!.node! } : n))
    const nameless = stacked.map(n => (n === row ? { ...n, name: '' } : n))
    const { paths } = await readUsd(writeUsd({ ...mesh, nodes: nameless }, 'yard'))
    expect(paths.filter(p => p.includes('Crate') || p.endsWith('Node'))).toEqual([
      '/yard/Site/Node',
      '/yard/Site/Node/Crate_1',
      '/yard/Site/Node/Crate_1/Crate_1',
      '/yard/Site/Node/Crate_1/Crate_3',
      '/yard/Site/Node/Crate_1_2',
      '/yard/Site/Node/Crate_4',
      '/yard/Site/Node/Crate_5',
    ])
  })
})

/** Six times the volume within triangles of three corners each. */
const volume = (corners: readonly number[]): number => {
  let sum = 0
  for (let i = 0; i < corners.length; i += 9) {
    const [a, b, c] = [0, 3, 6].map(k => new Vector3().fromArray([...corners.slice(i + k, i + k + 3)]))
    const from = new Vector3().fromArray([...corners.slice(0, 3)])
    sum += a!.sub(from).dot(b!.sub(from).cross(c!.sub(from)))
  }
  return sum
}
