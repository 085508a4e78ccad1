import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { moveNodes } from '#core/graph/edit'
import { parseLook } from '#core/graph/look'
import { addNote, changeNote, frameNodes, onFrame, removeNotes } from '#core/graph/notes'
import { lookOf } from '../helpers'

const look = lookOf({ a: ['noise'], b: ['invert'], c: ['finish'] }, ['a.value > b.value'])

describe('Notes and frames', () => {
  it('a frame around nodes holds them, wherever they are, and no others', () =>
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: -900, max: 900 }), fc.integer({ min: -900, max: 900 })), {
          minLength: 2,
          maxLength: 2,
        }),
        ([p, q]) => {
          const placed = moveNodes(
            look,
            new Map([
              ['noise1', p!],
              ['invert1', q!],
              ['finish1', [5000, 5000]],
              ['result', [6000, 6000]],
            ]),
          )
          const framed = frameNodes(placed, ['noise1', 'invert1'], [0, 0])
          expect(onFrame(framed.look, framed.id).nodes.sort()).toEqual(['invert1', 'noise1'])
          expect(parseLook(JSON.parse(JSON.stringify(framed.look)))).toEqual(framed.look)
        },
      ),
    ))
  it('takes notes that lie on it altogether', () => {
    const framed = frameNodes(look, [], [0, 0])
    const inside = addNote(framed.look, [20, 40])
    const outside = addNote(inside.look, [300, 40])
    expect(onFrame(outside.look, framed.id).notes).toEqual([inside.id])
    expect(onFrame(outside.look, inside.id)).toEqual({ nodes: [], notes: [] })
  })
  it('are changed within limits, and nothing is a step where nothing has changed', () => {
    const { look: noted, id } = addNote(look, [0, 0])
    expect(changeNote(noted, id, { text: '' })).toBe(noted)
    expect(changeNote(noted, id, { size: [1, 1e9], title: 'x'.repeat(200) }).notes![0]).toMatchObject({
      size: [40, 20_000],
      title: 'x'.repeat(80),
    })
    expect(removeNotes(noted, ['other'])).toBe(noted)
    expect(removeNotes(noted, [id]).notes).toEqual([])
  })
})
