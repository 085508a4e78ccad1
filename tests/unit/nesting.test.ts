import fc from 'fast-check'
import { expect, it } from 'vitest'
import { nestsDeeper } from '../../node/nesting'

const bytesOf = (value: unknown): Uint8Array => new TextEncoder().encode(JSON.stringify(value))
function depthOf(value: unknown): number {
  if (value === null || typeof value !== 'object') return 0
  return 1 + Math.max(0, ...Object.values(value).map(depthOf))
}

it('the depth of a JSON text is found before it is parsed, whatever stands in its strings', () => {
  fc.assert(
    fc.property(fc.jsonValue({ maxDepth: 6, stringUnit: 'binary' }), value => {
      const depth = depthOf(value)
      expect(nestsDeeper(bytesOf(value), depth)).toBe(false)
      if (depth) expect(nestsDeeper(bytesOf(value), depth - 1)).toBe(true)
    }),
  )
  expect(nestsDeeper(bytesOf({ '[[{': '}]\\"[[[' }), 1)).toBe(false)
  expect(nestsDeeper(bytesOf([[], []]), 1)).toBe(true)
})
