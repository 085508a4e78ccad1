import { expect, type Page } from '@playwright/test'
import { floatRack } from '../../demo/floatRack'
import { floatRackLook } from '../../demo/floatRackLook'
import { kioskRoof } from '../../demo/kioskRoof'
import { kioskRoofMossLook } from '../../demo/kioskRoofMossLook'
import { kioskRoofPreparation } from '../../demo/preparations'
import { LoneEvaluator } from '../../core/evaluate/loneEvaluator'
import type { Look } from '../../core/graph/look'
import { exposeSetting, foldNodes } from '../../core/graph/recipe'
import { boundsOf } from '../../core/mesh/mesh'
import { pointSet } from '../../core/mesh/sample'
import { readMesh } from '../../core/exchange/readMesh'
import { lower, reader } from '../../core/program/lower'
import { plan } from '../../core/program/plan'
import { delivered } from '../delivered'
import { kernels, lookOf, row, tablesOf } from '../helpers'
import { alone as test } from './day'
import { load } from './support'
import type { MtlxSeen, UsdSeen } from './harness/documents'

interface Documents {
  usd(text: string): UsdSeen
  mtlx(xml: string): MtlxSeen
  mtlxAt(
    xml: string,
    name: string,
    positions: number[],
    uvs: number[],
    attributes: Record<string, number[]>,
  ): Promise<number[]>
}
const ask = <K extends keyof Documents>(
  page: Page,
  what: K,
  ...args: Parameters<Documents[K]>
): Promise<Awaited<ReturnType<Documents[K]>>> =>
  page.evaluate(
    ({ what, args }) =>
      (window as unknown as { documents: Record<string, (...x: unknown[]) => unknown> }).documents[what]!(...args),
    { what, args: args as unknown[] },
  ) as Promise<Awaited<ReturnType<Documents[K]>>>
const text = (bytes: Uint8Array | undefined): string => new TextDecoder().decode(bytes)

test.beforeEach(async ({ page }) => {
  await load(page, 'documents')
  await page.waitForFunction(() => 'documents' in window)
})

test('another program reads the USD layer of a demo: every object with its triangles, where it is, UVs and unit normals', async ({
  page,
}) => {
  test.setTimeout(120_000)
  const { mesh } = floatRack()
  const { files } = await delivered(mesh, floatRackLook(), { meshes: ['usda'], size: 256 })
  const { meshes } = await ask(page, 'usd', text(files.get('it.usda')))
  expect(meshes.map(m => m.triangles)).toEqual(mesh.objects.map(o => o.triangles))
  meshes.forEach((m, i) => {
    const o = mesh.objects[i]!
    const box = boundsOf(
      mesh.positions,
      mesh.indices.subarray(o.firstTriangle * 3, (o.firstTriangle + o.triangles) * 3),
    )
    m.min.forEach((x, k) => expect(x).toBeCloseTo(box.min[k]!, 4))
    m.max.forEach((x, k) => expect(x).toBeCloseTo(box.max[k]!, 4))
    expect([m.uvs, m.normals]).toEqual([true, 1])
  })
})

test('the MaterialX documents keep to the interfaces of the standard as another program knows them', async ({
  page,
}) => {
  test.setTimeout(240_000)
  const { files } = await delivered(
    kioskRoof().mesh,
    kioskRoofMossLook(),
    { meshes: [], materials: ['baked', 'procedural'], size: 256 },
    { ...kioskRoofPreparation(), maps: [] },
  )
  for (const path of ['it.mtlx', 'it.procedural.mtlx']) {
    const seen = await ask(page, 'mtlx', text(files.get(path)))
    expect(seen.errors, path).toEqual([])
    // The loader has no displacement; textures are not there to be fetched.
    expect(
      seen.warnings.filter(w => !/displacement|texture/i.test(w)),
      path,
    ).toEqual([])
    expect(seen.materials).toEqual(['Moss_in_the_shade_openpbr', 'Moss_in_the_shade_gltf'])
    expect(seen.set, path).toEqual(expect.arrayContaining(['colorNode', 'roughnessNode', 'metalnessNode']))
  }
})

/** Looks that are said in full by standard nodes, with every operation that surfaces use. */
const LOOKS: [string, Look][] = [
  [
    'noise, per part and across',
    lookOf(
      {
        noise: ['noise', { size: 60, detail: 3, seed: 4 }],
        random: ['partRandom', { seed: 2 }],
        x: ['positionGradient', { axis: 'X', softness: 0.3 }],
        mix: ['mix', { of: 'color', a: [0.8, 0.3, 0.1], b: [0.1, 0.2, 0.6] }],
        finish: ['finish'],
      },
      [
        'noise.value > mix.amount',
        'mix.out > finish.baseColor',
        'x.value > finish.roughness',
        'random.value > finish.metalness',
        'finish.finish > result.finish',
      ],
    ),
  ],
  [
    'cells, stripes and arithmetic',
    lookOf(
      {
        cells: ['cells', { size: 70 }],
        stripes: ['stripes', { size: 40 }],
        sum: ['math', { operation: 'power', b: 0.6 }],
        levels: ['levels', { inLow: 0.2, inHigh: 0.7 }],
        finish: ['finish', { baseColor: [0.2, 0.4, 0.1] }],
      },
      [
        'cells.distance > sum.a',
        'sum.value > finish.roughness',
        'cells.border > levels.value',
        'levels.value > finish.metalness',
        'stripes.value > finish.baseColor',
        'finish.finish > result.finish',
      ],
    ),
  ],
  [
    'a layer through a coverage',
    lookOf(
      {
        noise: ['noise', { size: 90 }],
        cover: ['coverage', { share: 40 }],
        ramp: ['ramp', { between: 'linear' }],
        below: ['finish', { baseColor: [0.5, 0.1, 0.1], roughness: 0.2 }],
        above: ['finish', { roughness: 0.9, metalness: 0.4 }],
        layer: ['layer'],
      },
      [
        'noise.value > cover.value',
        'cover.value > layer.mask',
        'noise.value > ramp.value',
        'ramp.color > above.baseColor',
        'below.finish > layer.below',
        'above.finish > layer.above',
        'layer.finish > result.finish',
      ],
    ),
  ],
]

/** The last one with what makes its mask and its colors folded, some settings shown. */
const FOLDED = ((): Look => {
  const [, plain] = LOOKS[2]!
  const { look, id } = foldNodes(plain, ['noise1', 'ramp1', 'coverage1', 'finish2', 'layer1'], 'Worn away')
  const shown = [
    ['noise1', 'size'],
    ['finish2', 'roughness'],
    ['finish2', 'metalness'],
  ] as const
  return shown.reduce((l, [node, param]) => exposeSetting(l, id!, node, param, true), look)
})()
/** Other values of its settings, and the look that has them. */
const RESET = { roughness: 0.35, metalness: 0.8 }
const CHANGED: Look = {
  ...FOLDED,
  nodes: FOLDED.nodes.map(n => (n.recipe ? { ...n, params: { ...n.params, ...RESET } } : n)),
}
const reset = (xml: string): string =>
  Object.entries(RESET).reduce((all, [name, value]) => {
    const use = new RegExp(`(<Test_Worn_away [\\s\\S]*?<input name="${name}" type="float" value=)"[^"]*"`)
    expect(all).toMatch(use)
    return all.replace(use, `$1"${value}"`)
  }, xml)

const PROCEDURAL: [title: string, look: Look, edit?: (xml: string) => string, meaning?: Look][] = [
  ...LOOKS,
  ['a recipe', FOLDED],
  ['a recipe whose settings are changed in the document', FOLDED, reset, CHANGED],
]

test('a procedural document says what the kernels compute, at a thousand points', async ({ page }) => {
  test.setTimeout(240_000)
  for (const [title, look, edit = (xml: string) => xml, meaning = look] of PROCEDURAL) {
    const mesh = row(5)
    const { files, manifest } = await delivered(
      mesh,
      { ...look, name: 'Test' },
      { meshes: ['glb'], materials: ['procedural'], size: 256 },
    )
    expect(manifest.baked, title).toEqual([])
    const carried = await readMesh(files.get('it.glb')!, 'it.glb')
    const tables = tablesOf(mesh)
    const count = 1000
    const points = pointSet(count)
    const positions: number[] = []
    const uvs: number[] = []
    const attributes: Record<string, number[]> = Object.fromEntries(
      carried.maps.filter(m => m.name.startsWith('ub_')).map(m => [m.name, []]),
    )
    for (let i = 0; i < count; i++) {
      const t = (i * 7) % (mesh.indices.length / 3)
      const u = ((i * 0.618) % 1) / 2
      const v = ((i * 0.755) % 1) / 2
      const w = [1 - u - v, u, v]
      points.triangle[i] = t
      points.u[i] = u
      points.v[i] = v
      const at = (values: Float32Array, size: number, k: number) =>
        w.reduce((sum, x, c) => sum + x * values[mesh.indices[t * 3 + c]! * size + k]!, 0)
      positions.push(at(mesh.positions, 3, 0), at(mesh.positions, 3, 1), at(mesh.positions, 3, 2))
      uvs.push(at(mesh.uvs!, 2, 0), 1 - at(mesh.uvs!, 2, 1))
      // The delivered mesh has the vertices of the one that came in, in their order.
      for (const m of carried.maps) attributes[m.name]?.push(at(m.values, 1, 0))
    }
    const program = lower(meaning, [])
    const roots = [...program.result.baseColor, ...program.result.roughness, ...program.result.metalness]
    const evaluator = new LoneEvaluator(kernels, plan(program, roots), tables)
    const columns = roots.map(() => new Float32Array(count))
    evaluator.refresh(reader(meaning))
    evaluator.evaluate(points, columns)
    const theirs = await ask(
      page,
      'mtlxAt',
      edit(text(files.get('it.procedural.mtlx'))),
      'Test_openpbr',
      positions,
      uvs,
      attributes,
    )
    let largest = 0
    for (let i = 0; i < count; i++)
      for (let k = 0; k < 5; k++) largest = Math.max(largest, Math.abs(theirs[i * 5 + k]! - columns[k]![i]!))
    expect(new Set(theirs.map(x => x.toFixed(3))).size, title).toBeGreaterThan(50)
    expect(largest, `${title}: the largest difference`).toBeLessThan(2e-3)
  }
})
