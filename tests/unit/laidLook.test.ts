import { decode } from 'fast-png'
import { describe, expect, it } from 'vitest'
import { Baker } from '#core/bake/baker'
import { PICTURE_DEFAULTS } from '#core/bake/band'
import { mapOf } from '#core/bake/maps'
import { LaidLook } from '#core/evaluate/laidLook'
import { samplePoints } from '#core/mesh/sample'
import { compressor } from '../../node/bake/compress'
import { kernels, lookOf, row, tablesOf } from '../helpers'

const tables = tablesOf(row(7))
/** A share of the surface, colors dealt out to the parts, and a height that nobody knows the largest of. */
const look = lookOf(
  {
    n: ['noise', { size: 30 }],
    c: ['coverage', { share: 30, softness: 0.2 }],
    p: ['palette', { by: 'area' }],
    f: ['finish'],
  },
  [
    'n.value > c.value',
    'c.value > f.roughness',
    'n.value > f.height',
    'p.color > f.baseColor',
    'f.finish > result.finish',
  ],
)
const specs = [mapOf('baseColor'), mapOf('roughness'), mapOf('height')]
const pictures = (baker: Baker): Uint8Array[] =>
  baker.pictures(1001, specs, { ...PICTURE_DEFAULTS, size: 64, format: 'png16' }, compressor)

describe('what was found of the whole surface', () => {
  it('serves whoever asks of the same laid look, without being found again', () => {
    const laid = LaidLook.of(kernels, tables, look)
    const points = samplePoints(tables.mesh, 500)
    const { roughness, baseColor, height } = laid.program.result
    const before = laid.sampler([...roughness, ...baseColor])(points)
    const { values } = laid.found
    expect(values.length).toBeGreaterThan(1)
    expect(laid.sampler([...baseColor, ...roughness])(points)).toEqual([...before.slice(1), before[0]])
    // The same arrays, not equal ones.
    laid.found.values.forEach(({ ref, value }, i) => expect([ref, value === values[i]!.value]).toEqual([ref, true]))
    const alone = LaidLook.of(kernels, tables, look).sampler(roughness)(points)[0]
    expect(alone).toEqual(before[0])
    const most = laid.most(height)
    expect(most).toBeGreaterThan(0)
    expect(laid.found.most).toEqual([[height.join(), most]])
    for (const x of LaidLook.of(kernels, tables, look).sampler(height)(points)[0]!)
      expect(Math.abs(x)).toBeLessThanOrEqual(most)
  })

  it('serves a baker elsewhere: it bakes the same bytes from what it is given, and looks for nothing itself', () => {
    const baker = new Baker(kernels, tables, look)
    const own = pictures(baker)
    const other = (found = structuredClone(baker.laid.found)): Uint8Array[] =>
      pictures(new Baker(kernels, tables, look, undefined, undefined, found))
    expect(other()).toEqual(own)
    // Were it to look itself, none of this would change anything.
    const found = structuredClone(baker.laid.found)
    const moved = found.values.map(v => ({ ...v, value: typeof v.value === 'number' ? v.value + 0.2 : v.value }))
    expect(decode(other({ ...found, values: moved })[1]!).data).not.toEqual(decode(own[1]!).data)
    const flipped = found.values.map(v => ({
      ...v,
      value: typeof v.value === 'number' ? v.value : v.value.map((_, i, all) => all[all.length - 1 - i]!),
    }))
    expect(decode(other({ ...found, values: flipped })[0]!).data).not.toEqual(decode(own[0]!).data)
    const higher = found.most.map(([refs, most]): [string, number] => [refs, most * 10])
    expect(decode(other({ ...found, most: higher })[2]!).data).not.toEqual(decode(own[2]!).data)
  })

  it('is found where only some of it is known', () => {
    const baker = new Baker(kernels, tables, look)
    const own = pictures(baker)
    const { values, most } = baker.laid.found
    for (const i of [0, values.length - 1]) {
      const some = { values: values.filter((_, k) => k !== i), most: most.slice(1) }
      expect(pictures(new Baker(kernels, tables, look, undefined, undefined, some))).toEqual(own)
    }
  })
})
