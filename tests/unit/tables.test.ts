import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { mooringWinch } from '#demo/mooringWinch'
import { boxOf, meshTables } from '#core/evaluate/tables'
import { boundsOf } from '#core/mesh/mesh'
import { findParts } from '#core/mesh/parts'
import { square, tablesOf } from '../helpers'

describe('the box around a mesh', () => {
  it('is that of its corners, to the last bit', () => {
    const place = fc.integer({ min: -4_000_000, max: 4_000_000 }).map(steps => steps / 4096)
    fc.assert(
      fc.property(fc.array(place, { minLength: 12, maxLength: 12 }), places => {
        const positions = Float32Array.from(places)
        const tables = tablesOf({ ...square, positions })
        expect(boxOf(tables)).toEqual(boundsOf(positions, square.indices))
      }),
    )
  })

  it('holds all of a demo', () => {
    const { mesh } = mooringWinch()
    expect(boxOf(meshTables(mesh, findParts(mesh)))).toEqual(boundsOf(mesh.positions, mesh.indices))
  })
})
