import { zipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { partValuesCsv, type PartValues } from '#core/bake/values'
import { packLook, unpackLook } from '#core/exchange/lookFile'
import { emptyLook } from '#core/graph/look'

const none = {
  baseColor: [0, 0, 0],
  metalness: [0],
  roughness: [0],
  height: [0],
  emission: [0, 0, 0],
  opacity: [1],
  translucency: [0, 1, 1, 1],
}
const part = (name: string): PartValues => ({
  key: 'k',
  name,
  object: 'o',
  area: 1,
  index: 0,
  group: { index: 0, name: 'g' },
  parents: [],
  center: [0, 0, 0],
  box: { min: [0, 0, 0], max: [0, 0, 0] },
  channels: none,
  spread: none,
  draws: { '=HYPERLINK("x")': -0.5 },
})

describe('tables', () => {
  it.each(['=1+1', '+A1', '-A1', '@SUM(A1)', '\t=1', '\r=1'])('keep %j a text', name => {
    const [head, line] = partValuesCsv([part(name)]).split('\r\n')
    const cell = line!.split(',')[1]!.replace(/^"|"$/g, '')
    expect(cell.startsWith(`'`)).toBe(true)
    expect(head).toContain(`"'=HYPERLINK(""x"")"`)
    // Numbers stay numbers, also below zero.
    expect(line!.split(',').at(-1)).toBe('-0.5')
  })
  it('leave plain names alone', () => {
    expect(partValuesCsv([part('Float 12, amber')]).split('\r\n')[1]).toContain(',"Float 12, amber",')
    expect(partValuesCsv([part('Rope-3')])).toContain(',Rope-3,')
  })
})

describe("pictures in a look's zip", () => {
  const withPicture = (picture: string) => ({
    ...emptyLook(),
    board: [{ picture, at: [0, 0] as [number, number], width: 100 }],
  })
  it('have plain names, whatever they are called, and come back by their own', () => {
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string({ minLength: 1, maxLength: 40, unit: 'binary' }),
          fc.constantFrom('..', '../../x.png', '..\\..\\x.png', 'a/b.png', '/etc/x', '%2e%2e/x', 'moss.png'),
        ),
        name => {
          const files = packLook(withPicture(name), new Map([[name, Uint8Array.of(1, 2)]]))
          const entry = Object.keys(files).find(path => path.startsWith('pictures/'))!
          expect(entry).toMatch(/^pictures\/[^./\\:][^/\\:]*$/)
          // It is written and read by the zip's own library, too.
          zipSync(files)
          expect(unpackLook(files).pictures).toEqual([{ name, bytes: Uint8Array.of(1, 2) }])
        },
      ),
    )
  })
  it('of zips from before are read as they were', () => {
    const files = packLook(withPicture('50% moss.png'), new Map())
    expect(unpackLook({ ...files, 'pictures/50% moss.png': Uint8Array.of(7) }).pictures.map(p => p.name)).toEqual([
      '50% moss.png',
    ])
  })
})
