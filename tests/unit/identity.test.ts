import { WebIO } from '@gltf-transform/core'
import validator from 'gltf-validator'
import { decode } from 'fast-png'
import { FloatType } from 'three'
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js'
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js'
import { beforeAll, describe, expect, it } from 'vitest'
import { GROUP_MAP, type Mesh } from '#core/mesh/mesh'
import { findParts } from '#core/mesh/parts'
import { emptyPreparation, type Preparation } from '#core/mesh/preparation'
import type { PartSet } from '#core/mesh/partSets'
import { delivered } from '../delivered'
import { boxes, lookOf, notSo } from '../helpers'

// Whoever reads what leaves can tell which part a vertex, a face or a texel belongs to, and find it in the table.

const BOXES = 5
const plain = boxes(
  Array.from({ length: BOXES }, (_, i) => ({
    object: i < 4 ? 'rack' : 'lid',
    at: [i * 2, 0, 0] as [number, number, number],
  })),
)
const own = findParts(plain)
const groupOfPart = (part: number): number => (part < 2 ? 7 : 9)
const mesh: Mesh = {
  ...plain,
  maps: [{ name: GROUP_MAP, components: 1, values: Float32Array.from(own.partOfVertex, groupOfPart) }],
}
const { parts } = findParts(mesh)
const last: PartSet = {
  id: 'last',
  name: 'Last two',
  match: 'any',
  rules: [],
  plus: [parts[3]!.key, parts[4]!.key],
  minus: [],
}
const preparation: Preparation = { ...emptyPreparation(), sets: [last] }
const look = {
  ...lookOf({ draw: ['partRandom'], finish: ['finish'] }, [
    'draw.value > finish.roughness',
    'finish.finish > result.finish',
  ]),
  name: 'Known',
}
/** Parts lie in a row along x: which one a place belongs to, without asking the code under test. */
const boxAt = (x: number): number => {
  const middles = parts.map(p => p.center[0])
  return middles.reduce((best, m, i) => (Math.abs(m - x) < Math.abs(middles[best]! - x) ? i : best), 0)
}

let files: Map<string, Uint8Array>
let rows: {
  key: string
  index: number
  group: { index: number; name: string }
  center: number[]
  box: { min: number[]; max: number[] }
}[]
beforeAll(async () => {
  const settings = {
    meshes: ['glb', 'ply', 'usda'],
    maps: ['parts', 'groups', 'partNumbers', 'groupNumbers', 'objectNumbers'],
    tables: ['json', 'csv'],
    size: 256,
    samples: 2,
    identity: true,
    setMasks: true,
  }
  files = (await delivered(mesh, look, settings, preparation)).files
  rows = JSON.parse(new TextDecoder().decode(files.get('it.parts.json'))) as typeof rows
})
const text = (name: string): string => new TextDecoder().decode(files.get(name))

describe('the table', () => {
  it('says index, group, place and box of every part', () => {
    expect(rows.map(r => [r.index, r.key])).toEqual(parts.map((p, i) => [i, p.key]))
    expect(rows.map(r => r.group.index)).toEqual([0, 0, 1, 1, 2])
    rows.forEach(r => {
      const { center, box } = r
      expect(boxAt(center[0]!)).toBe(r.index)
      for (let k = 0; k < 3; k++) expect((box.min[k]! + box.max[k]!) / 2).toBeCloseTo(center[k]!, 5)
    })
    expect(text('it.csv').split('\r\n')[0]).toContain(
      'area,index,group,parent,center x,center y,center z,min x,min y,min z,max x,max y,max z,',
    )
  })
})

describe('a GLB', () => {
  it('has the number of its part, group and object on every vertex, and is valid', async () => {
    const report = await validator.validateBytes(files.get('it.glb')!)
    expect(report.issues).toMatchObject({ numErrors: 0, numWarnings: 0 })
    const document = await new WebIO().readBinary(files.get('it.glb')! as Uint8Array<ArrayBuffer>)
    let seen = 0
    for (const primitive of document
      .getRoot()
      .listMeshes()
      .flatMap(m => m.listPrimitives())) {
      const at = primitive.getAttribute('POSITION')!
      for (let v = 0; v < at.getCount(); v++, seen++) {
        const box = boxAt(at.getElement(v, [])[0]!)
        const read = (name: string) => primitive.getAttribute(name)!.getScalar(v)
        expect([read('_part_index'), read('_FEATURE_ID_0')]).toEqual([box, box])
        expect([read('_group_index'), read('_object_index')]).toEqual([rows[box]!.group.index, parts[box]!.object])
      }
    }
    expect(seen).toBeGreaterThan(BOXES * 8 - 1)
  })
  it('says so as EXT_mesh_features has it, and gives the key of every number', async () => {
    const { json } = await new WebIO().binaryToJSON(files.get('it.glb')! as Uint8Array<ArrayBuffer>)
    expect(json.extensionsUsed).toContain('EXT_mesh_features')
    for (const { primitives } of json.meshes!)
      for (const p of primitives) {
        expect(p.extensions!.EXT_mesh_features).toEqual({
          featureIds: [{ featureCount: BOXES, attribute: 0, label: 'part' }],
        })
        expect(p.attributes).toHaveProperty('_FEATURE_ID_0')
      }
    expect(json.scenes![0]!.extras).toEqual({ partKeys: parts.map(p => p.key) })
  })
})

describe('a PLY', () => {
  it('has the numbers as whole numbers, and the key in two halves', () => {
    expect(text('it.ply').slice(0, 900)).toMatch(/property int part_index[\s\S]*property uint part_key_low/)
    const loader = new PLYLoader()
    loader.setCustomPropertyNameMapping({ part: ['part_index'], high: ['part_key_high'], low: ['part_key_low'] })
    const geometry = loader.parse(files.get('it.ply')!.slice().buffer as ArrayBuffer)
    const at = geometry.getAttribute('position')
    for (let v = 0; v < at.count; v++) {
      const box = boxAt(at.getX(v))
      expect(geometry.getAttribute('part').getX(v)).toBe(box)
      const half = (from: number) => Number.parseInt(parts[box]!.key.slice(from, from + 8), 16)
      expect([geometry.getAttribute('high').getX(v), geometry.getAttribute('low').getX(v)]).toEqual([half(0), half(8)])
    }
  })
})

describe('a USD layer', () => {
  const list = (of: string): number[] => JSON.parse(of) as number[]
  it('has the numbers of parts per face, their keys, and the part sets as subsets of faces', () => {
    const layer = text('it.usda')
    const points = list(`[${/point3f\[\] points = \[(.*)\]/.exec(layer)![1]!.replaceAll(/[()]/g, '')}]`)
    const faces = list(/faceVertexIndices = (\[.*\])/.exec(layer)![1]!)
    const box = (face: number) => boxAt(points[faces[face * 3]! * 3]!)
    const numbers = list(/int\[\] primvars:part_index = (\[.*\])/.exec(layer)![1]!)
    expect(numbers).toHaveLength(faces.length / 3)
    expect(layer).toMatch(/int\[\] primvars:part_index = .*\n\s+interpolation = "uniform"/)
    numbers.forEach((n, face) => expect(n).toBe(box(face)))
    const keys = JSON.parse(/string\[\] primvars:part_key = (\[.*\])/.exec(layer)![1]!) as string[]
    list(/primvars:part_key:indices = (\[.*\])/.exec(layer)![1]!).forEach((k, face) =>
      expect(keys[k]).toBe(parts[box(face)]!.key),
    )
    const subset = /def GeomSubset "Last_two"\s*\{([\s\S]*?)\}/.exec(layer)![1]!
    expect(subset).toContain('uniform token elementType = "face"')
    const inside = list(/indices = (\[.*\])/.exec(subset)![1]!)
    expect(inside).toEqual([...numbers.keys()].filter(face => box(face) >= 3))
  })
})

describe('pictures', () => {
  /** One number a texel, row by row from the top; that loader's rows begin at the bottom. */
  const exr = (name: string) => {
    const read = new EXRLoader().setDataType(FloatType).parse(files.get(name)!.slice().buffer as ArrayBuffer)
    const { data, width, height } = read as unknown as { data: Float32Array; width: number; height: number }
    const channels = data.length / width / height
    const at = (i: number) => ((height - 1 - Math.floor(i / width)) * width + (i % width)) * channels
    return { data: Array.from({ length: width * height }, (_, i) => data[at(i)]!), width, height }
  }
  it('of numbers are whole numbers from 1 in floats, whatever the other pictures are, and 0 where nothing lies', () => {
    const { data, width } = exr('textures/it_partNumbers.exr')
    expect([width, [...new Set(data)].sort((a, b) => a - b)]).toEqual([256, [0, 1, 2, 3, 4, 5]])
    const groups = exr('textures/it_groupNumbers.exr').data
    const objects = exr('textures/it_objectNumbers.exr').data
    const wanted = [[0, 0], ...parts.map((p, i) => [rows[i]!.group.index + 1, p.object + 1])]
    const wrong = data.filter((part, i) => groups[i] !== wanted[part]![0] || objects[i] !== wanted[part]![1])
    expect(wrong).toEqual([])
  })
  it('of part sets are white on their parts and black elsewhere', () => {
    const mask = decode(files.get('textures/it_set_Last_two.png')!)
    const { data: numbers } = exr('textures/it_partNumbers.exr')
    const values = Array.from(numbers, (_, i) => mask.data[i * mask.channels]!)
    // Samples of a texel on a border may lie on either side.
    const isSure = (value: number): boolean => value === 0 || value === 255
    const isRight = (value: number, part: number): boolean => !isSure(value) || value === (part > 3 ? 255 : 0)
    expect(notSo(numbers, (part, i) => !part || isRight(values[i]!, part))).toEqual([])
    expect(values.filter((value, i) => numbers[i] !== 0 && value === 255).length).toBeGreaterThan(100)
  })
  it('of groups have one flat color for each', () => {
    const { data, channels, width, height } = decode(files.get('textures/it_groups.png')!)
    const numbers = exr('textures/it_groupNumbers.exr').data
    const colors = new Map<number, Set<string>>()
    for (let i = 0; i < width * height; i++) {
      const group = numbers[i]!
      if (!group) continue
      const set = colors.get(group) ?? new Set()
      colors.set(group, set.add([...data.slice(i * channels, i * channels + 3)].join()))
    }
    expect([...colors.keys()].sort()).toEqual([1, 2, 3])
    const most = [...colors.values()].map(set => [...set][0])
    expect(new Set(most).size).toBe(3)
  })
})
