import fc from 'fast-check'
import { expect, it } from 'vitest'
import { lines, linesAfter } from '../../core/exchange/lines'

it('what stands behind a word is what is found line by line, whatever ends the lines and stands before it', () => {
  const piece = fc.constantFrom('o', 'of', 'Board', ' ', '\t', '\n', '\r\n', '\r', '#', 'é')
  fc.assert(
    fc.property(fc.array(piece, { maxLength: 40 }), pieces => {
      const bytes = new TextEncoder().encode(pieces.join(''))
      const plain = [...lines(bytes)].flatMap(line => /^[ \t]*o[ \t](.*)$/.exec(line)?.[1]?.trim() ?? [])
      expect([...linesAfter(bytes, 'o')]).toEqual(plain)
    }),
    { numRuns: 500 },
  )
})
