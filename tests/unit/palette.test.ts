import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { toHex } from '#core/color/convert'
import { hexCodes, pullPalette } from '#core/color/palette'
import type { Picture } from '#core/evaluate/pictures'

/** A picture of vertical bands: hex code and width in texels each. */
function bands(list: [hex: string, texels: number][], height = 8): Picture {
  const row = list.flatMap(([hex, n]) =>
    Array.from({ length: n }, () => [1, 3, 5].map(k => parseInt(hex.slice(k, k + 2), 16)).concat(255)),
  )
  return {
    name: 'bands',
    width: row.length,
    height,
    data: Uint8ClampedArray.from(Array.from({ length: height }, () => row).flat(2)),
  }
}
const whole = { x: 0, y: 0, width: 1, height: 1 }
const said = (picture: Picture, n: number, region = whole) =>
  pullPalette(picture, region, n).map(p => [toHex(p.color), Number(p.share.toFixed(3))])

describe('A palette pulled from a picture', () => {
  const flag = bands([
    ['#a02018', 10],
    ['#e8e4d8', 25],
    ['#183a6b', 15],
  ])
  it('has the colors and shares of flat areas, most first', () => {
    expect(said(flag, 3)).toEqual([
      ['#e8e4d8', 0.5],
      ['#183a6b', 0.3],
      ['#a02018', 0.2],
    ])
    expect(said(flag, 8)).toEqual(said(flag, 3))
  })
  it('knows only the region', () => {
    expect(said(flag, 3, { x: 0, y: 0, width: 0.2, height: 1 })).toEqual([['#a02018', 1]])
    expect(said(flag, 3, { x: 0.1, y: 0.25, width: 0.2, height: 0.5 })).toEqual([
      ['#a02018', 0.5],
      ['#e8e4d8', 0.5],
    ])
  })
  it('leaves transparent texels out, and gives nothing where all are', () => {
    const holes = {
      ...flag,
      data: flag.data.map((x, i) => (i % 4 === 3 && Math.floor(i / 4) % 50 < 10 ? 0 : x)) as Uint8ClampedArray,
    }
    expect(said(holes, 3)).toEqual([
      ['#e8e4d8', 0.625],
      ['#183a6b', 0.375],
    ])
    expect(pullPalette({ ...flag, data: new Uint8ClampedArray(flag.data.length) }, whole, 3)).toEqual([])
  })
  it('has shares that add up to 1, and is the same again, for any picture', () =>
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 64, maxLength: 64 }), fc.integer({ min: 1, max: 9 }), (bytes, n) => {
        const picture = {
          name: 'noise',
          width: 4,
          height: 4,
          data: Uint8ClampedArray.from(bytes, (x, i) => (i % 4 === 3 ? 255 : x)),
        }
        const pulled = pullPalette(picture, whole, n)
        expect(pulled.length).toBeGreaterThan(0)
        expect(pulled.length).toBeLessThanOrEqual(n)
        expect(pulled.reduce((s, p) => s + p.share, 0)).toBeCloseTo(1, 9)
        expect(pullPalette(picture, whole, n)).toEqual(pulled)
      }),
    ))
  it('finds hex codes in what is pasted', () => {
    expect(hexCodes('--sea: #1f5f56; rust #A33, 183a6b and a word')).toEqual(['#1f5f56', '#aa3333', '#183a6b'])
    expect(hexCodes('none of them')).toEqual([])
  })
})
