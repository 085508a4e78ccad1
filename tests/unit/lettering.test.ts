import { describe, expect, it } from 'vitest'
import { letter, type Sheet } from '../../node/render/lettering'

const paper = (): Sheet => ({ width: 120, height: 30, data: new Uint8Array(120 * 30 * 4).fill(255) })
/** How much ink there is in each column, in whole dark pixels. */
const inkOf = ({ width, height, data }: Sheet): number[] =>
  Array.from({ length: width }, (_, x) => {
    let ink = 0
    for (let y = 0; y < height; y++) ink += (255 - data[(y * width + x) * 4]!) / 255
    return ink
  })
const written = (text: string, width = 110): Sheet => {
  const sheet = paper()
  letter(sheet, text, { x: 4, y: 20, size: 16, width, gray: 0 })
  return sheet
}
const sum = (list: readonly number[]): number => list.reduce((a, b) => a + b, 0)

describe('Letters on a picture', () => {
  it('stand on their baseline, as tall and as wide as the font has them', () => {
    const sheet = written('|')
    const ink = inkOf(sheet)
    const rows = Array.from({ length: 30 }, (_, y) => 255 - Math.min(...sheet.data.subarray(y * 480, y * 480 + 480)))
    // The bar reaches below the baseline at 20; an "l" does not.
    expect(rows.findLastIndex(x => x > 0)).toBeGreaterThan(20)
    const l = written('l')
    const last = Array.from({ length: 30 }, (_, y) => Math.min(...l.data.subarray(y * 480, y * 480 + 480)))
    expect(last.findLastIndex(x => x < 128)).toBe(19)
    expect(ink.filter(x => x > 0).length).toBeLessThan(4)
  })
  it('have holes where their outlines have them', () => {
    const { data } = written('o')
    const across = Array.from({ length: 12 }, (_, x) => data[(15 * 120 + 4 + x) * 4]!)
    const [left, right] = [across.findIndex(x => x < 128), across.findLastIndex(x => x < 128)]
    expect(right - left).toBeGreaterThan(4)
    expect(across[Math.round((left + right) / 2)]).toBe(255)
  })
  it('are left out at the end where they are wider than they may be', () => {
    const [short, cut] = [written('Roughness'), written('Roughness 0.8 · Base color', 70)]
    expect(sum(inkOf(short).slice(90))).toBe(0)
    expect(sum(inkOf(cut).slice(75))).toBe(0)
    expect(sum(inkOf(cut).slice(60, 75))).toBeGreaterThan(0)
    expect(sum(inkOf(written('Roughness', 1)))).toBe(0)
  })
})
