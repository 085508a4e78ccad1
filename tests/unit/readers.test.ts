import { Document, WebIO } from '@gltf-transform/core'
import { ALL_EXTENSIONS, EXTMeshGPUInstancing, KHRDracoMeshCompression } from '@gltf-transform/extensions'
import { meshopt, quantize, sparse } from '@gltf-transform/functions'
import draco3d from 'draco3dgltf'
import fc from 'fast-check'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import { MeshoptEncoder } from 'meshoptimizer'
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js'
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js'
import { Vector3, type BufferGeometry, type Mesh as ThreeMesh } from 'three'
import { describe, expect, it } from 'vitest'
import { RowNumbers } from '#core/mesh/growing'
import { MeshFileError } from '#core/exchange/meshFile'
import { PlainNumbers } from '#core/exchange/plainNumbers'
import { readMesh } from '#core/exchange/readMesh'
import { triangulate } from '#core/exchange/triangulate'
import { writeGlb } from '#core/exchange/writeGlb'
import { triangleAreas, type Mesh } from '#core/mesh/mesh'
import { findParts } from '#core/mesh/parts'
import { lathe } from '../../demo/shapes'
import { draco } from '../../node/draco'
import { ball, boxes, meshOf } from '../helpers'

const area = (mesh: Mesh) => triangleAreas(mesh).reduce((s, x) => s + x, 0)
const text = (...lines: string[]) => strToU8(lines.join('\n'))
const refused = async (bytes: Uint8Array, name: string): Promise<string> => {
  const error = await readMesh(bytes, name, { draco }).then(
    () => undefined,
    (e: unknown) => e,
  )
  expect(error).toBeInstanceOf(MeshFileError)
  return (error as Error).message
}
const io = async () => {
  await MeshoptEncoder.ready
  return new WebIO()
    .registerExtensions(ALL_EXTENSIONS)
    .registerDependencies({ 'meshopt.encoder': MeshoptEncoder, 'draco3d.encoder': await draco3d.createEncoderModule() })
}
/** What a closed mesh holds, in cubic meters: positive where triangles run counterclockwise seen from outside. */
const volumeOf = ({ positions, indices }: Mesh, from = 0, to = indices.length): number => {
  let six = 0
  for (let i = from; i < to; i += 3) {
    const [a, b, c] = [0, 1, 2].map(k => new Vector3().fromArray(positions, indices[i + k]! * 3))
    six += a!.dot(b!.cross(c!))
  }
  return six / 6
}
const sample = () => {
  const mesh = meshOf(ball(0.5))
  mesh.maps.push({
    name: 'wet',
    components: 1,
    values: Float32Array.from({ length: mesh.positions.length / 3 }, (_, i) => mesh.positions[i * 3 + 1]! + 0.5),
  })
  return mesh
}

describe('glTF in all its forms', () => {
  const written = async (change: (d: Document) => Promise<unknown> | unknown) => {
    const tools = await io()
    const document = await tools.readBinary(await writeGlb(sample(), 'ball'))
    await change(document)
    return tools.writeBinary(document)
  }
  const same = async (bytes: Uint8Array, digits: number) => {
    const mesh = await readMesh(bytes, 'ball.glb', { draco })
    const original = sample()
    expect(mesh.indices.length).toBe(original.indices.length)
    expect(area(mesh)).toBeCloseTo(area(original), digits)
    const wet = mesh.maps.find(m => m.name === 'wet')!
    for (let v = 0; v < wet.values.length; v += 17)
      expect(wet.values[v]).toBeCloseTo(mesh.positions[v * 3 + 1]! + 0.5, digits)
    for (let v = 0; v < wet.values.length; v += 17)
      expect(Math.hypot(...mesh.normals.slice(v * 3, v * 3 + 3))).toBeCloseTo(1, 3)
    expect(mesh.uvs).toHaveLength(wet.values.length * 2)
  }
  it('quantized, sparse and compressed with meshopt', async () => {
    await same(await written(d => d.transform(quantize({ pattern: /^(POSITION|NORMAL|TEXCOORD_0)$/ }))), 2)
    await same(
      await written(d => {
        d.getRoot()
          .listAccessors()
          .forEach(a => a.setSparse(a.getType() === 'SCALAR'))
        return d.transform(sparse({ ratio: 0 }))
      }),
      6,
    )
    await same(
      await written(async d => d.transform(meshopt({ encoder: MeshoptEncoder, level: 'medium', quantizeGeneric: 16 }))),
      2,
    )
  })
  it('compressed with Draco', async () => {
    const bytes = await written(d =>
      d
        .createExtension(KHRDracoMeshCompression)
        .setRequired(true)
        .setEncoderOptions({ quantizationBits: { GENERIC: 16 } }),
    )
    const mesh = await readMesh(bytes, 'ball.glb', { draco })
    expect(mesh.indices.length).toBe(sample().indices.length)
    expect(area(mesh)).toBeCloseTo(area(sample()), 2)
    await expect(readMesh(bytes, 'ball.glb')).rejects.toThrow(/compressed with Draco/)
  })
  it('as separate files in a zip, in a folder, with a picture; and says which file is missing', async () => {
    const tools = await io()
    const document = await tools.readBinary(await writeGlb(sample(), 'ball'))
    const picture = document
      .createTexture('t')
      .setImage(new Uint8Array(200))
      .setMimeType('image/png')
      .setURI('skin.png')
    document.getRoot().listMaterials()[0]!.setBaseColorTexture(picture).setRoughnessFactor(0.3)
    const { json, resources } = await tools.writeJSON(document, {})
    const uri = json.buffers![0]!.uri!
    const files = (names: string[]) =>
      zipSync(
        Object.fromEntries([
          ['pier/ball.gltf', strToU8(JSON.stringify(json))],
          ...names.map(n => [`pier/${n}`, resources[n]!]),
        ]),
      )
    const mesh = await readMesh(files([uri, 'skin.png']), 'ball.zip')
    expect(area(mesh)).toBeCloseTo(area(sample()), 5)
    expect(mesh.surfaces).toMatchObject([
      { name: 'plain', roughness: 0.3, textures: [{ use: 'base color', type: 'image/png' }] },
    ])
    expect(await refused(files(['skin.png']), 'ball.zip')).toBe(
      `The document needs the file "${uri}", which was not brought along.`,
    )
    expect((await readMesh(files([uri]), 'ball.zip')).warnings).toContain(
      'The picture "skin.png" was not brought along; its material goes on without it.',
    )
  })
  it('keeps the hierarchy, further UV sets and several colors; instances are objects of their own', async () => {
    const document = new Document()
    const buffer = document.createBuffer()
    const accessor = (type: 'VEC2' | 'VEC3' | 'VEC4', ...x: number[]) =>
      document.createAccessor().setType(type).setArray(Float32Array.from(x)).setBuffer(buffer)
    const primitive = document
      .createPrimitive()
      .setAttribute('POSITION', accessor('VEC3', 0, 0, 0, 1, 0, 0, 0, 1, 0))
      .setAttribute('TEXCOORD_0', accessor('VEC2', 0, 0, 1, 0, 0, 1))
      .setAttribute('TEXCOORD_1', accessor('VEC2', 0, 0, 0.5, 0, 0, 0.5))
      .setAttribute('COLOR_1', accessor('VEC3', 1, 0, 0, 0, 1, 0, 0, 0, 1))
    const instances = document
      .createExtension(EXTMeshGPUInstancing)
      .createInstancedMesh()
      .setAttribute('TRANSLATION', accessor('VEC3', 0, 0, 0, 10, 0, 0))
      .setAttribute('SCALE', accessor('VEC3', 1, 1, 1, 2, 2, 2))
    const node = document
      .createNode('scale')
      .setMesh(document.createMesh('m').addPrimitive(primitive))
      .setExtension('EXT_mesh_gpu_instancing', instances)
      .setTranslation([0, 5, 0])
    document.createScene('pier').addChild(document.createNode('roof').addChild(node))
    document.createScene('other')
    const mesh = await readMesh(await (await io()).writeBinary(document), 'm.glb')
    expect(mesh.objects.map(o => [o.name, o.parents])).toEqual([
      ['scale 1', ['roof']],
      ['scale 2', ['roof']],
    ])
    expect(Array.from(mesh.positions.slice(9, 15))).toEqual([10, 5, 0, 12, 5, 0])
    expect(mesh.maps.map(m => [m.name, m.components])).toEqual([
      ['UV 2', 2],
      ['COLOR_1', 3],
    ])
    expect(mesh.warnings[0]).toMatch(/2 scenes; "pier" was read/)
  })
  it('refuses circles, depth, claims beyond any limit', async () => {
    const json = (more: object) => strToU8(JSON.stringify({ asset: { version: '2.0' }, ...more }))
    expect(
      await refused(json({ nodes: [{ children: [1] }, { children: [0] }], scenes: [{ nodes: [0] }] }), 'a.gltf'),
    ).toMatch(/go in a circle/)
    expect(await refused(json({ nodes: [{ children: [7] }] }), 'a.gltf')).toMatch(/a child 7 that does not exist/)
    expect(
      await refused(
        json({ nodes: Array.from({ length: 50_000 }, (_, i) => ({ children: [i + 1] })).concat({ children: [] }) }),
        'a.gltf',
      ),
    ).toMatch(/more than 2,000 deep/)
    expect(await refused(json({ accessors: [{ count: 4e9, type: 'VEC3', componentType: 5126 }] }), 'a.gltf')).toMatch(
      /claims 4000000000 elements/,
    )
    expect(await refused(json({ buffers: [{ byteLength: 1e12, uri: 'x.bin' }] }), 'a.gltf')).toMatch(/beyond the limit/)
    expect(await refused(strToU8('{"hello": 1}'), 'a.gltf')).toMatch(/no "asset"/)
  })
})

describe('rows of four integers', () => {
  it('are numbered in the order in which they come for the first time, however many and however alike', () => {
    const row = fc.tuple(...[0, 1, 2, 3].map(() => fc.integer({ min: -3, max: 3 })))
    const numbered = (rows: number[][]): void => {
      const asText = new Map<string, number>()
      const to = new RowNumbers()
      const own = rows.map(r => to.of(r[0]!, r[1]!, r[2]!, r[3]!))
      const known = rows.map(r => {
        const number = asText.get(String(r)) ?? asText.size
        asText.set(String(r), number)
        return number
      })
      expect(own).toEqual(known)
      expect(to.count).toBe(asText.size)
    }
    fc.assert(fc.property(fc.array(row, { maxLength: 300 }), numbered))
    const many = Array.from({ length: 5000 }, (_, i) => [i % 70, -1, i >> 3, i])
    numbered([...many, ...many])
  })
})

describe('numbers read from bytes', () => {
  const decimalsOf = (line: string): number[] | undefined => {
    const bytes = strToU8(`?${line}\n7`)
    const into = new Float64Array(8)
    const count = new PlainNumbers(bytes).decimals(1, bytes.length - 2, into)
    return count < 0 ? undefined : [...into.subarray(0, count)]
  }
  const triplesOf = (line: string): number[] | undefined => {
    const bytes = strToU8(`?${line}\n7`)
    const into = new Int32Array(24).fill(99)
    const count = new PlainNumbers(bytes).triples(1, bytes.length - 2, into)
    return count < 0 ? undefined : [...into.subarray(0, count * 3)]
  }

  it('are those of the language, to the bit, as files write them', () => {
    const float = fc.double({ min: -1e6, max: 1e6, noNaN: true })
    const asWritten = fc.oneof(
      fc.tuple(float, fc.integer({ min: 0, max: 14 })).map(([x, places]) => x.toFixed(places)),
      fc.tuple(float, fc.integer({ min: 0, max: 9 })).map(([x, places]) => x.toExponential(places)),
      float.map(x => String(Math.fround(x)).slice(0, 15)),
      fc.constantFrom(
        '-0',
        '+1.5',
        '.5',
        '5.',
        '1E3',
        '1e+2',
        '-2.5e-07',
        '007',
        '0.000001',
        '1e22',
        '123456789012345',
      ),
    )
    const blanks = fc.constantFrom(' ', '  ', '\t', ' \t ')
    const line = fc.array(fc.tuple(asWritten, blanks), { minLength: 1, maxLength: 8 })
    fc.assert(
      fc.property(line, words => {
        const read = decimalsOf(words.flat().join(''))
        const isPlain = ([word]: readonly string[]): boolean =>
          word!.replace(/e.*|\D/gi, '').length <= 15 && Math.abs(Number(/e(.*)/i.exec(word!)?.[1] ?? 0)) < 12
        if (words.every(isPlain)) expect(read).toBeDefined()
        if (read) expect(read).toEqual(words.map(([word]) => Number(word)))
      }),
      { numRuns: 500 },
    )
  })
  it('are no others than the language reads there, whatever stands there', () => {
    const letters = fc.string({ unit: fc.constantFrom(...'0123456789+-.eE/ x\t'), maxLength: 14 })
    fc.assert(
      fc.property(letters, line => {
        const words = line.split(/[ \t]+/).filter(Boolean)
        const read = decimalsOf(line)
        if (read) expect(read).toEqual(words.map(Number))
        const corners = triplesOf(line)
        if (!corners) return
        const parts = words.map(word => word.split('/'))
        expect(corners).toEqual(parts.flatMap(names => [0, 1, 2].map(k => (names[k] ? Number(names[k]) : 0))))
      }),
      { numRuns: 2000 },
    )
  })
  it('are left to others where there are too many, and corners where they name nothing', () => {
    expect(decimalsOf('1 2 3 4 5 6 7 8')).toEqual([1, 2, 3, 4, 5, 6, 7, 8])
    expect(decimalsOf('1 2 3 4 5 6 7 8 9')).toBeUndefined()
    expect(triplesOf('1/2/3 -4//5 6/7 8')).toEqual([1, 2, 3, -4, 0, 5, 6, 7, 0, 8, 0, 0])
    for (const line of ['1 0 2', '1/0 2', '- 1', '1/2/3/4', '1 2147483648 3', '1 2.5 3']) {
      expect(triplesOf(line), line).toBeUndefined()
    }
  })
})

describe('OBJ', () => {
  const CUBE = ['v 0 0 0', 'v 1 0 0', 'v 1 1 0', 'v 0 1 0', 'v 0 0 1', 'v 1 0 1', 'v 1 1 1', 'v 0 1 1']
  const FACES = ['f 4 3 2 1', 'f 5 6 7 8', 'f 1 2 6 5', 'f 3 4 8 7', 'f 2 3 7 6', 'f 4 1 5 8']

  it('reads what three.js reads, at the same places', async () => {
    const source = text(
      'o one',
      ...CUBE,
      'vt 0 0',
      'vt 1 0',
      'vt 1 1',
      'vt 0 1',
      'vn 0 0 1',
      ...FACES.map(f => f.replace(/(\d+)/g, '$1/1/1')),
      'o two',
      'v 5 0 0',
      'v 6 0 0',
      'v 6 1 0',
      'v 5 2 0',
      'v 4 1 0',
      'f -5 -4 -3 -2 -1',
    )
    const mesh = await readMesh(source, 'two.obj')
    const theirs = new OBJLoader().parse(strFromU8(source)).children as ThreeMesh[]
    expect(mesh.objects.map(o => o.name)).toEqual(theirs.map(c => c.name))
    theirs.forEach((child, i) => {
      const p = child.geometry.getAttribute('position')
      const { firstTriangle, triangles } = mesh.objects[i]!
      expect(triangles * 3).toBe(p.count)
      const own = triangleAreas(mesh)
        .slice(firstTriangle, firstTriangle + triangles)
        .reduce((s, x) => s + x, 0)
      const flat = { positions: p.array as Float32Array, indices: Uint32Array.from({ length: p.count }, (_, k) => k) }
      expect(own).toBeCloseTo(
        triangleAreas(flat).reduce((s, x) => s + x, 0),
        6,
      )
    })
  })
  it('keeps groups within objects, colors, materials with their pictures, and turns V', async () => {
    const obj = text(
      'mtllib pier.mtl',
      'o rail',
      'v 0 0 0 1 0 0',
      'v 1 0 0 0.5 0.5 0.5',
      'v 0 1 0 0 0 1',
      'v 1 1 0 0 0 1',
      'vt 0 0.25',
      'g left',
      'usemtl paint',
      'f 1/1 2/1 3/1',
      'g right',
      'usemtl steel',
      'f 2/1 4/1 3/1',
    )
    const mtl = text('newmtl paint', 'Kd 0.5 0 0', 'Pr 0.7', 'map_Kd -s 1 1 1 wood.png', 'newmtl steel', 'Pm 1')
    const mesh = await readMesh(zipSync({ 'a.obj': obj, 'pier.mtl': mtl, 'wood.png': new Uint8Array(4) }), 'a.zip')
    expect(mesh.materials.map(m => m.name)).toEqual(['paint', 'steel'])
    expect(mesh.surfaces).toMatchObject([
      { name: 'paint', roughness: 0.7, textures: [{ use: 'base color' }] },
      { name: 'steel', metalness: 1 },
    ])
    expect(mesh.surfaces![0]!.baseColor[0]).toBeCloseTo(0.214, 3)
    const [color, group] = ['COLOR_0', 'group'].map(n => mesh.maps.find(m => m.name === n)!)
    expect(Array.from(color!.values.slice(0, 3))).toEqual([1, 0, 0])
    expect(color!.values[3]).toBeCloseTo(0.214, 3)
    expect(new Set(group!.values)).toEqual(new Set([0, 1]))
    expect(mesh.uvs![1]).toBeCloseTo(0.75, 6)
    expect(findParts(mesh).parts).toHaveLength(1)
    expect((await readMesh(obj, 'a.obj')).warnings[0]).toMatch(/"pier.mtl" was not brought along/)
  })
  it('smooths by group and is flat without one', async () => {
    const normals = async (s: string) => {
      const mesh = await readMesh(text(...CUBE, s, ...FACES), 'c.obj')
      return { count: mesh.positions.length / 3, across: Math.max(...mesh.normals.map(Math.abs)) }
    }
    expect(await normals('s off')).toEqual({ count: 24, across: 1 })
    const smooth = await normals('s 1')
    expect(smooth.count).toBe(8)
    expect(smooth.across).toBeLessThan(0.9)
  })
  it('keeps corners apart that differ in UV, normal, smoothing group or group, and joins the others', async () => {
    const square = ['v 0 0 0', 'v 1 0 0', 'v 1 1 0', 'v 0 1 0', 'vt 0 0', 'vt 1 1', 'vn 0 0 1', 'vn 0 0 -1']
    const count = async (...lines: string[]) => {
      const mesh = await readMesh(text('o all', ...square, ...lines), 'a.obj')
      return mesh.positions.length / 3
    }
    const faces = (corner: string): string[] => ['f 1C 2C 3C', 'f 1C 3C 4C'].map(f => f.replaceAll('C', corner))
    expect(await count(...faces('//1'), ...faces('//1'))).toBe(4)
    expect(await count(...faces('//1'), ...faces('//2'))).toBe(8)
    expect(await count(...faces('/1/1'), ...faces('/2/1'))).toBe(8)
    // Smoothing groups are no numbers of normals.
    expect(await count('s 1', ...faces(''), 's 2', ...faces(''), 's 1', ...faces(''))).toBe(8)
    expect(await count('s 1', ...faces(''), ...faces('//1'), ...faces('//2'))).toBe(12)
    expect(await count('g a', ...faces('//1'), 'g b', ...faces('//1'))).toBe(8)
    expect(await count(...faces(''), ...faces(''))).toBe(12)
  })
  it('tells how much of a large file was read, as other text files do', async () => {
    const corners = ['0 0 0', '1 0 0', '1 1 0']
    const filler = `${' '.repeat(99)}\n`.repeat(100_000)
    const axes = ['x', 'y', 'z'].map(axis => `property float ${axis}`)
    const files = {
      'a.obj': ['#', filler, ...corners.map(c => `v ${c}`), 'f 1 2 3'],
      'a.ply': [
        ...['ply', 'format ascii 1.0', 'element vertex 3', ...axes, 'element face 1'],
        ...['property list uchar int vertex_indices', 'end_header', filler, ...corners, '3 0 1 2'],
      ],
      'a.stl': ['solid a', filler, 'facet normal 0 0 1', 'outer loop', ...corners.map(c => `vertex ${c}`), 'endloop'],
    }
    for (const [name, content] of Object.entries(files)) {
      const bytes = text(...content, '')
      const told: number[] = []
      const mesh = await readMesh(bytes, name, { progress: share => void told.push(share) })
      expect(mesh.indices.length, name).toBe(3)
      const step = 4 * 2 ** 20
      for (const i of [0, 1]) expect(told[i], name).toBeCloseTo(((i + 1) * step) / bytes.length, 3)
    }
  })
  it('takes words with any blanks between them, and lines that go on', async () => {
    const mesh = await readMesh(text('o  a\tb ', 'v\t0 0  0', ' v 1 0\t0', 'v 1 \\', ' 1 0', 'f  1\t2 3 '), 'a.obj')
    expect(Array.from(mesh.positions)).toEqual([0, 0, 0, 1, 0, 0, 1, 1, 0])
    expect(mesh.objects.map(o => o.name)).toEqual(['a\tb'])
  })
  it('is the same mesh however its lines are written', async () => {
    const plain = [
      'o all',
      ...CUBE.map((line, i) => `${line} ${i / 8} 0.25 1`),
      'vt 0.125 0.25',
      'vt 0.5 0.75',
      'vn 0 -1e-3 1',
      'usemtl a',
      ...FACES.slice(0, 3).map(f => f.replace(/(\d)/g, '$1/2/1')),
      'usemtl b',
      'f 5/1 6 7//1 8',
      ...FACES.slice(3),
    ]
    // The same words with a blank that is none of the usual ones, or over two lines: both are read as text.
    const asText = plain.map(line => line.replace(' ', ' \u00a0'))
    const broken = plain.map(line => (/^[vf]/.test(line) ? line.replace(/ (\S+)$/, ' \\\n $1') : line))
    const wanted = await readMesh(text(...plain), 'a.obj')
    for (const lines of [asText, broken, plain.map(line => `  ${line}\t`)]) {
      const { positions, normals, uvs, indices, maps, materials } = await readMesh(text(...lines), 'a.obj')
      expect({ positions, normals, uvs, indices, maps, materials }).toEqual({
        positions: wanted.positions,
        normals: wanted.normals,
        uvs: wanted.uvs,
        indices: wanted.indices,
        maps: wanted.maps,
        materials: wanted.materials,
      })
    }
    const ends = [plain.join('\r\n'), plain.join('\r'), `\ufeff${plain.join('\n')}\n`]
    for (const whole of ends) expect((await readMesh(strToU8(whole), 'a.obj')).indices).toEqual(wanted.indices)
  })
  it('cuts any polygon into triangles of its area', () => {
    const L = [
      [0, 0, 0],
      [2, 0, 0],
      [2, 1, 0],
      [1, 1, 0],
      [1, 2, 0],
      [0, 2, 0],
    ]
    const areaOf = (points: number[][], list: number[]) => {
      let sum = 0
      for (let i = 0; i < list.length; i += 3) {
        const [a, b, c] = list.slice(i, i + 3).map(k => points[k]!) as [number[], number[], number[]]
        sum += ((b[0]! - a[0]!) * (c[1]! - a[1]!) - (b[1]! - a[1]!) * (c[0]! - a[0]!)) / 2
      }
      return sum
    }
    expect(
      areaOf(
        L,
        triangulate(6, i => L[i]!),
      ),
    ).toBeCloseTo(3, 9)
    const dart = [
      [0, 0, 0],
      [2, 1, 0],
      [0, 2, 0],
      [0.5, 1, 0],
    ]
    for (const turn of [0, 1, 2, 3])
      expect(
        areaOf(
          [...dart.slice(turn), ...dart.slice(0, turn)],
          triangulate(4, i => dart[(i + turn) % 4]!),
        ),
      ).toBeCloseTo(1.5, 9)
    // A star around the origin: radii at rising angles never cross.
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0.2, max: 2, noNaN: true }), { minLength: 5, maxLength: 20 }), radii => {
        const points = radii.map((r, i) => [
          r * Math.cos((i / radii.length) * 2 * Math.PI),
          r * Math.sin((i / radii.length) * 2 * Math.PI),
          0,
        ])
        const should = radii.reduce(
          (s, r, i) => s + (r * radii[(i + 1) % radii.length]! * Math.sin((2 * Math.PI) / radii.length)) / 2,
          0,
        )
        const list = triangulate(points.length, i => points[i]!)
        expect(list).toHaveLength((points.length - 2) * 3)
        expect(areaOf(points, list)).toBeCloseTo(should, 9)
      }),
    )
  })
  it('says which line is wrong', async () => {
    expect(await refused(text('v 0 0 0', 'v 1 0', 'f 1 2 3'), 'a.obj')).toBe('Line 2: "v 1 0" should have 3 numbers.')
    expect(await refused(text('v 0 0 0', 'v 1 0 0', 'v 1 1 0', 'f 1 2 9'), 'a.obj')).toBe(
      'Line 4: the face names vertex 9, but there are only 3.',
    )
    const corners = ['v 0 0 0', 'v 1 0 0', 'v 1 1 0', 'vt 0 0']
    const face = (line: string) => refused(text(...corners, line), 'a.obj')
    expect(await face('f 1/1 2/2 3/1')).toBe('Line 5: the face names UV 2, but there are only 1.')
    expect(await face('f 1//1 2 3')).toBe('Line 5: the face names normal 1, but there are only 0.')
    expect(await face('f 1 -4 3')).toBe('Line 5: the face names vertex -4, but there are only 3.')
    expect(await face('f 1 0 3')).toBe('Line 5: the face names vertex 0, but there are only 3.')
    expect(await face('f 1 2.5 3')).toBe('Line 5: the face names vertex 2.5, but there are only 3.')
    expect(await face('f 1 /1 3')).toBe('Line 5: a corner of the face names no vertex.')
    expect(await face('f 1 2')).toBe('Line 5: a face needs three corners.')
    expect(await refused(text('v 0 0 0', 'v 1 0 0', 'v 1 inf 0', 'f 1 2 3'), 'a.obj')).toMatch(/Line 3/)
    expect(await refused(text('v 0 0 0'), 'a.obj')).toBe('The file has no triangles.')
    expect(await refused(text('solid nothing', 'of this kind'), 'a.glb')).toMatch(
      /does not begin with the letters "glTF", and reads as text/,
    )
    expect(await refused(Uint8Array.of(1, 2, 3), 'a.fbx')).toMatch(/"a.fbx" is none of these/)
  })
})

describe('PLY', () => {
  const header = (format: string) =>
    [
      'ply',
      `format ${format} 1.0`,
      'comment made up',
      'element vertex 5',
      'property float x',
      'property float y',
      'property float z',
      'property uchar red',
      'property uchar green',
      'property uchar blue',
      'property double wet',
      'element face 2',
      'property list uchar int vertex_indices',
      'end_header',
      '',
    ].join('\n')
  const VERTICES = [
    [0, 0, 0, 255, 0, 0, 0.1],
    [1, 0, 0, 0, 255, 0, 0.2],
    [1, 1, 0, 0, 0, 255, 0.3],
    [0.5, 1.5, 0, 188, 188, 188, 0.4],
    [0, 1, 0, 255, 255, 255, 0.5],
  ]
  const FACES = [
    [0, 1, 2, 4],
    [4, 2, 3],
  ]
  function binary(little: boolean): Uint8Array {
    const head = strToU8(header(`binary_${little ? 'little' : 'big'}_endian`))
    const body = new DataView(new ArrayBuffer(5 * 23 + 17 + 13))
    let at = 0
    for (const v of VERTICES) {
      for (let k = 0; k < 3; k++, at += 4) body.setFloat32(at, v[k]!, little)
      for (let k = 3; k < 6; k++) body.setUint8(at++, v[k]!)
      body.setFloat64(at, v[6]!, little)
      at += 8
    }
    for (const f of FACES) {
      body.setUint8(at++, f.length)
      for (const v of f) {
        body.setInt32(at, v, little)
        at += 4
      }
    }
    return Uint8Array.from([...head, ...new Uint8Array(body.buffer, 0, at)])
  }
  const ascii = () =>
    strToU8(
      header('ascii') + [...VERTICES.map(v => v.join(' ')), ...FACES.map(f => [f.length, ...f].join(' '))].join('\n'),
    )

  it.each([
    ['text', ascii()],
    ['little-endian', binary(true)],
    ['big-endian', binary(false)],
  ])('reads %s as three.js does, and every extra property', async (_, bytes) => {
    const mesh = await readMesh(bytes, 'pier.ply')
    const theirs: BufferGeometry = new PLYLoader().parse(bytes.slice().buffer as ArrayBuffer)
    expect(mesh.objects.map(o => o.name)).toEqual(['pier'])
    // Ours has a vertex per corner where there are no normals.
    const places = (p: ArrayLike<number>, index: ArrayLike<number>) =>
      Array.from(index, v => [0, 1, 2].map(k => p[v * 3 + k]!.toFixed(5)).join()).sort()
    expect(places(mesh.positions, mesh.indices)).toEqual(
      places(theirs.getAttribute('position').array, theirs.index!.array),
    )
    const wet = mesh.maps.find(m => m.name === 'wet')!.values
    const color = mesh.maps.find(m => m.name === 'COLOR_0')!.values
    for (let v = 0; v < wet.length; v++) {
      const i = VERTICES.findIndex(p => [0, 1, 2].every(k => Math.abs(p[k]! - mesh.positions[v * 3 + k]!) < 1e-6))
      expect(wet[v]).toBeCloseTo(VERTICES[i]![6]!, 6)
      for (let k = 0; k < 3; k++)
        expect(color[v * 3 + k]).toBeCloseTo(theirs.getAttribute('color').getComponent(i, k), 2)
    }
  })
  it('says what is wrong', async () => {
    const cut = binary(true)
    expect(await refused(cut.slice(0, -5), 'a.ply')).toMatch(/cut off/)
    expect(await refused(strToU8(header('ascii').replace('vertex 5', 'vertex 4000000000')), 'a.ply')).toMatch(
      /claims 4000000000 elements "vertex"/,
    )
    expect(await refused(strToU8(strFromU8(ascii()).replace('4 0 1 2 4', '4 0 1 2 9')), 'a.ply')).toBe(
      'Face 0 names vertex 9, but there are only 5 vertices.',
    )
    expect(await refused(strToU8(strFromU8(ascii()).replace('1 1 0', '1 nan 0')), 'a.ply')).toBe(
      'Vertex 2 of "a" has a position that is not a number.',
    )
    expect(await refused(strToU8('ply\nformat ascii 1.0\n'), 'a.ply')).toMatch(/not closed/)
    expect(await refused(strToU8('hello'), 'a.ply')).toMatch(/first line is not "ply"/)
  })
})

describe('triangles that run against their own normals', () => {
  const turnedBack = (mesh: Mesh, from: number, to: number): Mesh => {
    for (let i = from; i < to; i += 3) mesh.indices.subarray(i, i + 3).reverse()
    return mesh
  }
  const reread = async (mesh: Mesh) => readMesh(await writeGlb(mesh, 'a'), 'a.glb')
  it('are turned around, and only those', async () => {
    const [one, two] = [meshOf(ball(0.5)).indices.length, meshOf(ball(0.2)).indices.length]
    const mesh = turnedBack(meshOf(ball(0.5), ball(0.2)), one, one + two)
    expect(volumeOf(mesh, one)).toBeLessThan(0)
    const back = await reread(mesh)
    expect(volumeOf(back, 0, one)).toBeCloseTo(0.52, 2)
    expect(volumeOf(back, one)).toBeCloseTo(0.0333, 3)
    expect(back.warnings).toContain(
      `${(two / 3).toLocaleString('en-US')} triangles ran against their own normals and were turned around.`,
    )
    expect((await reread(meshOf(ball(0.5)))).warnings).toEqual([])
  })
  it('are told from others of the same object', async () => {
    const corners = ['0 0', '1 0', '0 1', '5 0', '6 0', '5 1', '9 0', '9.1 0', '9 0.1'].map(at => `v ${at} 0`)
    const faces = ['f 1//1 2//1 3//1', 'f 4//1 6//1 5//1', 'f 7//1 9//1 8//1']
    const mesh = await readMesh(text('o all', ...corners, 'vn 0 0 1', ...faces), 'a.obj')
    expect([...mesh.indices].map(v => mesh.positions[v * 3]!.toFixed(1))).toEqual(
      [0, 1, 0, 5, 6, 5, 9, 9.1, 9].map(x => x.toFixed(1)),
    )
    expect(mesh.warnings.at(-1)).toBe('2 triangles ran against their own normals and were turned around.')
  })
  it('are turned around in a piece that a mirror put into its place, too', async () => {
    const document = await (await io()).readBinary(await writeGlb(sample(), 'a'))
    const [node] = document.getRoot().listNodes()
    node!.setScale([-1, 1, 1])
    const mirrored = await readMesh(await (await io()).writeBinary(document), 'a.glb')
    expect(mirrored.warnings).toEqual([])
    const indices = document.getRoot().listMeshes()[0]!.listPrimitives()[0]!.getIndices()!
    indices.setArray(indices.getArray()!.slice().reverse())
    const turned = await readMesh(await (await io()).writeBinary(document), 'a.glb')
    expect(turned.warnings).toHaveLength(1)
    expect([volumeOf(mirrored), volumeOf(turned)].map(v => v.toFixed(2))).toEqual(['0.52', '0.52'])
  })
  it('are not those of a rim whose normals a wide face pulls out of the front of a narrow one', async () => {
    const profile: [number, number][] = [
      [0, 0.3],
      [0.97, 0.01],
      [1, 0],
      [0, 0],
    ]
    const lid = meshOf(lathe(24, 3, v => profile[Math.round(v * 3)]!))
    // Normals at the rim look down, as the bottom does, and the narrow face beside it looks up.
    const down = Array.from({ length: lid.normals.length / 3 }, (_, v) => v).filter(v => lid.normals[v * 3 + 1]! < -0.9)
    expect(down.some(v => Math.hypot(lid.positions[v * 3]!, lid.positions[v * 3 + 2]!) > 0.99)).toBe(true)
    const back = await reread(lid)
    expect(back.warnings).toEqual([])
    expect(back.indices).toEqual(lid.indices)
  })
})

describe('zips', () => {
  it('that unpack to more than the limit are refused before they are unpacked', async () => {
    const bomb = zipSync({ 'a.obj': new Uint8Array(40_000_000) })
    expect(bomb.length).toBeLessThan(60_000)
    await expect(readMesh(bomb, 'a.zip', { limits: { bytes: 10_000_000, triangles: 1e6 } })).rejects.toThrow(
      /more than 10 MB/,
    )
  })
  it('that lie about their sizes do not fill the memory', async () => {
    const bomb = zipSync({ 'a.obj': new Uint8Array(40_000_000).fill(35) })
    const view = new DataView(bomb.buffer, bomb.byteOffset)
    for (let i = 0; i < bomb.length - 4; i++) {
      // Central directory, offset 24: the size after unpacking.
      if (view.getUint32(i, true) === 0x02014b50) view.setUint32(i + 24, 1000, true)
    }
    expect(unzipSync(bomb)['a.obj']!.length).toBeLessThanOrEqual(1000)
    expect(await refused(bomb, 'a.zip')).toBeTruthy()
  })
  it('with nothing, with two meshes or with damage are refused', async () => {
    expect(await refused(zipSync({ 'a.txt': new Uint8Array(3) }), 'a.zip')).toMatch(/no GLB, glTF, OBJ, PLY or STL/)
    expect(await refused(zipSync({ 'a.obj': new Uint8Array(3), 'b.ply': new Uint8Array(3) }), 'a.zip')).toMatch(
      /more than one mesh in it \(a.obj, b.ply\)/,
    )
    const whole = zipSync({ 'a.obj': text('v 0 0 0') })
    expect(await refused(whole.slice(0, whole.length - 30), 'a.zip')).toMatch(/damaged/)
  })
})

describe('mutated files', () => {
  const seeds: [string, () => Promise<Uint8Array> | Uint8Array][] = [
    ['a.glb', () => writeGlb(boxes([{ object: 'a', at: [0, 0, 0] }]), 'a')],
    [
      'a.obj',
      () => text('o a', 'v 0 0 0', 'v 1 0 0', 'v 1 1 0', 'v 0 1 0', 'vt 0 0', 's 1', 'f 1/1 2/1 3/1 4/1', 'f -1 -2 -3'),
    ],
    [
      'a.ply',
      () =>
        text(
          'ply',
          'format ascii 1.0',
          'element vertex 3',
          'property float x',
          'property float y',
          'property float z',
          'element face 1',
          'property list uchar int vertex_indices',
          'end_header',
          '0 0 0',
          '1 0 0',
          '0 1 0',
          '3 0 1 2',
        ),
    ],
    ['a.zip', () => zipSync({ 'a.obj': text('v 0 0 0', 'v 1 0 0', 'v 1 1 0', 'f 1 2 3') })],
  ]
  it.each(seeds)('of %s are read or refused with one sentence, never anything else', async (name, make) => {
    const good = await make()
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(good.length - 1), fc.nat(255)), { minLength: 1, maxLength: 12 }),
        fc.option(fc.nat(good.length)),
        async (changes, cut) => {
          const bytes = good.slice(0, cut ?? good.length)
          for (const [at, value] of changes) if (at < bytes.length) bytes[at] = value
          try {
            const mesh = await readMesh(bytes, name, { draco, limits: { bytes: 1e6, triangles: 1e5 } })
            expect(mesh.positions.every(Number.isFinite)).toBe(true)
            expect(mesh.indices.every(v => v < mesh.positions.length / 3)).toBe(true)
            findParts(mesh)
          } catch (error) {
            expect(error).toBeInstanceOf(MeshFileError)
            expect((error as Error).message).toMatch(/^[^\n]+\.$/)
          }
        },
      ),
      { numRuns: 250 },
    )
  })
})

describe('STL', () => {
  /** Three corners of each triangle of a tetrahedron with a right angle, facing out. */
  const CORNERS = [
    [0, 0, 0, 0, 2, 0, 1, 0, 0],
    [0, 0, 0, 0, 0, 3, 0, 2, 0],
    [0, 0, 0, 1, 0, 0, 0, 0, 3],
    [1, 0, 0, 0, 2, 0, 0, 0, 3],
  ]
  function binary(triangles: number[][], head = 'any words'): Uint8Array {
    const bytes = new Uint8Array(84 + 50 * triangles.length)
    bytes.set(new TextEncoder().encode(head))
    const view = new DataView(bytes.buffer)
    view.setUint32(80, triangles.length, true)
    triangles.forEach((corners, t) => {
      // A normal that is none, as many programs write it.
      corners.forEach((x, k) => view.setFloat32(84 + t * 50 + 12 + k * 4, x, true))
      view.setUint16(84 + t * 50 + 48, 0xffff, true)
    })
    return bytes
  }
  const written = (triangles: number[][]): string =>
    [
      'solid buoy cap',
      ...triangles.flatMap(c => [
        '  facet normal 0 0 0',
        '    outer loop',
        ...[0, 3, 6].map(k => `      vertex ${c[k]} ${c[k + 1]} ${c[k + 2]}`),
        '    endloop',
        '  endfacet',
      ]),
      'endsolid buoy cap',
    ].join('\n')

  it.each([
    ['binary', () => binary(CORNERS), 'cap'],
    ['binary that begins like text', () => binary(CORNERS, 'solid cap of facets'), 'cap'],
    ['text', () => new TextEncoder().encode(written(CORNERS)), 'buoy cap'],
  ])('%s: the triangles as they stand, one part, volume outward', async (_, bytes, name) => {
    const mesh = await readMesh(bytes(), 'cap.stl')
    expect([...mesh.indices].flatMap(v => [...mesh.positions.slice(v * 3, v * 3 + 3)])).toEqual(CORNERS.flat())
    expect(mesh.objects.map(o => o.name)).toEqual([name])
    const parts = findParts(mesh)
    expect(parts.parts).toHaveLength(1)
    // Six times the volume of each tetrahedron between a facet and the origin.
    const volumes = CORNERS.map(([ax, ay, az, bx, by, bz, cx, cy, cz]) => {
      const cross = [by! * cz! - bz! * cy!, bz! * cx! - bx! * cz!, bx! * cy! - by! * cx!]
      return ax! * cross[0]! + ay! * cross[1]! + az! * cross[2]!
    })
    expect(volumes.reduce((a, b) => a + b)).toBe(6)
    for (let v = 0; v < 3; v++) expect([...mesh.normals.slice(v * 3, v * 3 + 3)]).toEqual([0, 0, -1])
  })
  it('is known without its ending, and refused in a sentence where it is cut off', async () => {
    expect((await readMesh(binary(CORNERS), 'cap')).indices).toHaveLength(12)
    expect((await readMesh(new TextEncoder().encode(written(CORNERS)), 'cap')).indices).toHaveLength(12)
    const cut = binary(CORNERS).slice(0, -1)
    expect(await refused(cut, 'cap.stl')).toMatch(/not an STL file: it does not have the length/)
    const half = written(CORNERS).split('\n').slice(0, -5).join('\n')
    expect(await refused(new TextEncoder().encode(half), 'cap.stl')).toMatch(/fewer than three corners: it is cut off/)
    expect(await refused(new TextEncoder().encode('solid x\nfacet\nvertex 0 nothing 0'), 'cap.stl')).toBe(
      'Line 3 is not a vertex: "vertex 0 nothing 0".',
    )
    expect(await refused(binary([]), 'cap.stl')).toBe('The file has no triangles.')
  })
})
