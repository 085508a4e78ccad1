import { describe, expect, it } from 'vitest'
import { partsAlike } from '../../app/mesh/alike'

const parts = ['plank 1', 'plank 12', 'nail 3', 'plank', 'beam 4'].map(name => ({ name }))
const arranged = {
  materials: ['oak', 'pine', 'iron', 'oak', 'pine'],
  measures: {
    length: [2, 2.05, 0.1, 2, 2.2],
    width: [0.2, 0.2, 0.01, 0.2, 0.2],
    thickness: [0.03, 0.03, 0.01, 0.06, 0.03],
  },
}

describe('parts like the chosen ones', () => {
  it('have names that differ in digits alone', () => {
    expect(partsAlike('name', [0], parts, arranged)).toEqual([0, 1])
    expect(partsAlike('name', [2, 4], parts, arranged)).toEqual([2, 4])
  })
  it('are of one of their materials', () => {
    expect(partsAlike('material', [1], parts, arranged)).toEqual([1, 4])
    expect(partsAlike('material', [1, 2], parts, arranged)).toEqual([1, 2, 4])
  })
  it('are as large to five percent along each of their own axes', () => {
    // The fourth is twice as thick, the fifth a tenth longer.
    expect(partsAlike('size', [0], parts, arranged)).toEqual([0, 1])
    expect(partsAlike('size', [4], parts, arranged)).toEqual([4])
  })
})
