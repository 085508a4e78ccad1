import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { columnsOf, listOf } from '../../app/shared/columns'
import { handOver } from '../../app/shared/handOver'
import { received, sent } from '../../app/shared/sentMesh'
import { findParts } from '#core/mesh/parts'
import { row } from '../helpers'

describe('lists between threads', () => {
  it('come back as they were, whatever is in them', () => {
    const value = fc.oneof(
      fc.double(),
      fc.string(),
      fc.array(fc.double(), { maxLength: 3 }),
      fc.constant(undefined),
      fc.array(fc.string(), { maxLength: 2 }),
    )
    const item = fc.dictionary(fc.constantFrom('a', 'b', 'c'), value, { noNullPrototype: true })
    fc.assert(
      fc.property(fc.array(item, { maxLength: 6 }), list => {
        expect(listOf(structuredClone(columnsOf(list)))).toStrictEqual(list)
      }),
    )
  })

  it('go as columns of numbers where all entries are alike', () => {
    const list = Array.from({ length: 5 }, (_, i) => ({ name: `n${i}`, at: [i, -0, NaN], size: i / 3 }))
    const { columns, list: rest } = columnsOf(list)
    expect(rest).toBeUndefined()
    expect(columns!.map(([key, c]) => [key, 'numbers' in c && c.numbers.length])).toEqual([
      ['name', false],
      ['at', 15],
      ['size', 5],
    ])
    expect(listOf(columnsOf(list))).toStrictEqual(list)
    expect(listOf(columnsOf([{ a: 1 }, { a: 1, b: 2 }]))).toStrictEqual([{ a: 1 }, { a: 1, b: 2 }])
    expect(listOf(columnsOf([{ a: 1 }, { a: 'x' }]))).toStrictEqual([{ a: 1 }, { a: 'x' }])
  })

  it('leave a mesh and its parts as they were', () => {
    const mesh = row(4)
    const parts = findParts(mesh)
    const back = received(structuredClone(sent(mesh, parts)))
    expect(back.mesh).toStrictEqual(structuredClone(mesh))
    expect(back.parts).toStrictEqual(structuredClone(parts))
  })
})

describe('what is handed over', () => {
  it('arrives as it was and stays here, and of a long buffer only the part that is meant goes', () => {
    const long = Float32Array.from({ length: 1000 }, (_, i) => i)
    const view = long.subarray(10, 13)
    const data = { view, list: [{ name: 'a', marks: Uint8Array.of(1, 0) }], none: undefined, far: new Map([[1, view]]) }
    const { message, buffers } = handOver(data)
    const arrived = structuredClone(message, { transfer: buffers })
    expect(arrived).toStrictEqual(structuredClone(data))
    expect(data.view).toEqual(Float32Array.of(10, 11, 12))
    expect(buffers.length).toBe(2)
    expect(arrived.view.buffer.byteLength).toBe(12)
    // Not copied again: what was handed over is gone from here.
    expect(message.view.length).toBe(0)
  })

  it('is one array there where it is one here', () => {
    const positions = Float32Array.of(1, 2, 3)
    const { message, buffers } = handOver({ positions, again: { positions } })
    expect(buffers.length).toBe(1)
    expect(message.again.positions).toBe(message.positions)
  })
})
