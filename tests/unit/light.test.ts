import { describe, expect, it } from 'vitest'
import { Sky, toward } from '#core/trace/light'
import { checkLight } from '#core/trace/lightHead'
import { readLight } from '#core/trace/lightPicture'
import { keyOfPicture } from '../../core/light/keyLight'
import { exrFile, hdrFile, lampIn } from '../lightFiles'

/** High up, a quarter of the way round: red three times as bright as green. */
const LAMP = lampIn(6, 4, [2, 0, [48, 16, 1]])
const FILES = [
  ['EXR', 'dock.exr', exrFile(LAMP)],
  ['HDR', 'dock.hdr', hdrFile(LAMP)],
] as const

describe('a picture of light', () => {
  it.each(FILES)('is read from %s: rows from above, columns from the left, red first', (_, name, file) => {
    const { width, height, data } = readLight(name, file.slice().buffer)
    expect([width, height]).toEqual([6, 4])
    for (let i = 0; i < data.length; i++) expect(data[i]! / LAMP.data[i]!).toBeCloseTo(1, 1)
  })
  it.each(FILES)(
    'lights from where its lamp is, in a traced picture and by the key light of the stage, %s',
    (_, name, file) => {
      const read = readLight(name, file.slice().buffer)
      const there = toward(2.5 / 6, 0.5 / 4)
      expect(there[1]).toBeGreaterThan(0.9)
      expect(new Sky(read).radiance(there)[0]).toBeCloseTo(48, 0)
      expect(new Sky(read).radiance([there[0], -there[1], there[2]])[0]).toBeLessThan(0.1)
      const { from, irradiance } = keyOfPicture(read)
      expect(from[0] * there[0] + from[1] * there[1] + from[2] * there[2]).toBeGreaterThan(0.999)
      expect(irradiance[0] / irradiance[1]).toBeCloseTo(3, 1)
    },
  )
  it('is made smaller where it is very wide, with the light that was in it', () => {
    const wide = lampIn(4098, 3, [4096, 1, [600, 600, 600]])
    const read = readLight('wide.exr', exrFile(wide).slice().buffer)
    expect([read.width, read.height]).toEqual([1366, 1])
    const mean = (data: Float32Array): number => data.reduce((a, b) => a + b, 0) / data.length
    expect(mean(read.data) / mean(wide.data)).toBeCloseTo(1, 3)
    expect(read.data[1365 * 3]).toBeGreaterThan(60)
  })
  it('has no negative and no endless light', () => {
    const odd = lampIn(4, 2, [1, 1, [-3, Number.POSITIVE_INFINITY, Number.NaN]])
    expect([...readLight('odd.exr', exrFile(odd).slice().buffer).data.slice(15, 18)]).toEqual([0, 0, 0])
  })
  it('is refused in one sentence where it is none, broken or too large', () => {
    const text = (s: string): ArrayBuffer => new TextEncoder().encode(s).slice().buffer
    expect(() => readLight('a.hdr', text('hello'))).toThrow(
      'a.hdr is no picture of light; Radiance HDR and OpenEXR files are.',
    )
    expect(() => readLight('b.hdr', text('#?RADIANCE\n\nnothing'))).toThrow(
      'b.hdr does not say how large it is; its file is broken.',
    )
    expect(() => readLight('c.hdr', text('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 90000 +X 90000\n'))).toThrow(
      /c\.hdr has 90000 x 90000 pixels/,
    )
    expect(() => readLight('d.exr', exrFile(LAMP).slice(0, 200).buffer)).toThrow(/^d\.exr/)
    const large = exrFile(LAMP)
    const at =
      new TextDecoder('latin1')
        .decode(large)
        .indexOf('box2i\0', new TextDecoder('latin1').decode(large).indexOf('dataWindow')) + 10
    new DataView(large.buffer).setInt32(at + 8, 200_000, true)
    new DataView(large.buffer).setInt32(at + 12, 200_000, true)
    expect(() => checkLight('e.exr', large)).toThrow(/e\.exr has 200001 x 200001 pixels/)
  })
})
