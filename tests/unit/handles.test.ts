import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { addNode, setParams } from '#core/graph/edit'
import { handlesOf } from '#core/graph/handles'
import { emptyLook } from '#core/graph/look'
import { nodeOf } from '#core/graph/find'
import type { ParamValue } from '#core/nodes/declare'
import { at, ball, meshOf, positionsOf, tablesOf } from '../helpers'
import { samplePoints } from '#core/mesh/sample'

const box = { min: [-1, 0, -2] as [number, number, number], max: [3, 2, 2] as [number, number, number] }
const made = (kind: string, params: Record<string, ParamValue>) => {
  const added = addNode(emptyLook(), kind, [0, 0], params)
  return { look: added.look, node: nodeOf(added.look, added.id)!, id: added.id }
}
const handle = (node: Parameters<typeof handlesOf>[0], title: string, within = box) =>
  handlesOf(node, within).find(h => h.title === title)!

describe('Handles on the stage', () => {
  it('a gradient has its ends where its values are 0 and 1', () =>
    fc.assert(
      fc.property(
        fc.constantFrom('X', 'Y', 'Z', 'any'),
        fc.constantFrom('share', 'mm'),
        fc.integer({ min: 1, max: 40 }),
        fc.integer({ min: 60, max: 100 }),
        fc.integer({ min: -180, max: 180 }),
        (axis, unit, start, end, turn) => {
          const round = tablesOf(meshOf(ball(1)))
          const bounds = { min: [-1, -1, -1] as [number, number, number], max: [1, 1, 1] as [number, number, number] }
          const { look, node, id } = made('positionGradient', { axis, unit, turn, tilt: 30 })
          const set = ['Start', 'End'].reduce(
            (l, title, i) =>
              setParams(
                l,
                id,
                (handle(node, title, bounds) as { set(x: number): Record<string, number> }).set([start, end][i]! / 100),
              ),
            look,
          )
          const [a, b] = ['Start', 'End'].map(
            t => handle(nodeOf(set, id)!, t, bounds) as { from: number[]; to: number[]; at: number },
          )
          const points = samplePoints(round.mesh, 200)
          const values = at(set, round, `${id}/value`, points)[0]!
          const way = a!.to.map((x, k) => x - a!.from[k]!)
          const long = way.reduce((s, x) => s + x * x, 0)
          positionsOf(round, points).forEach((p, i) => {
            const t = p.reduce((s, x, k) => s + (x - a!.from[k]!) * way[k]!, 0) / long
            expect(values[i]).toBeCloseTo(Math.min(1, Math.max(0, (t - a!.at) / (b!.at - a!.at))), 2)
          })
        },
      ),
      { numRuns: 30 },
    ))
  it('a zone goes where its middle is put, and reaches as far as its radius', () => {
    const { look, node, id } = made('zone', {})
    const middle = handle(node, 'Middle') as { slides: false; at: number[]; set(p: number[]): Record<string, number> }
    const moved = setParams(look, id, middle.set([0.5, 1.25, -0.75]))
    const radius = handle(nodeOf(moved, id)!, 'Radius') as {
      from: number[]
      at: number
      set(x: number): Record<string, number>
    }
    expect(nodeOf(moved, id)!.params).toMatchObject({ x: 50, y: 125, z: -75 })
    expect(radius).toMatchObject({ from: [0.5, 1.25, -0.75], at: 0.5 })
    expect(radius.set(0.3)).toEqual({ radius: 30 })
    expect(radius.set(-1)).toEqual({ radius: 0.01 })
    expect((handle(made('zone', { shape: 'below', y: 50 }).node, 'Height') as { at: number }).at).toBe(0.25)
  })
  it('a projection is turned by where its handle is taken', () =>
    fc.assert(
      fc.property(fc.constantFrom('XY', 'ZY', 'XZ'), fc.integer({ min: -179, max: 180 }), (plane, turn) => {
        const { node } = made('noise', { sits: 'planar', plane, turn })
        const h = handle(node, 'Turn') as { at: number[]; set(p: number[]): Record<string, number> }
        expect(h.set(h.at).turn).toBeCloseTo(turn, 1)
      }),
    ))
  it('nothing else has any', () => {
    expect(handlesOf(made('positionGradient', { space: 'part' }).node, box)).toEqual([])
    expect(handlesOf(made('noise', {}).node, box)).toEqual([])
  })
})
