import { describe, expect, it } from 'vitest'
import { trialTables } from '#core/evaluate/trial'
import { emptyPreparation } from '#core/mesh/preparation'
import { Workpiece } from '#core/evaluate/workpiece'

describe('the cube on which looks are tried', () => {
  const trial = trialTables()
  const { tables: found } = new Workpiece(trial.mesh, emptyPreparation())

  it('has the part and the patches that are found in it', () => {
    expect(Object.keys(trial.parts).sort()).toEqual(Object.keys(found.parts).sort())
    const [ours, theirs] = [trial.parts.parts, found.parts.parts]
    expect(ours).toHaveLength(theirs.length)
    const { key, longestAxis, spread, area, centroid, ...rest } = theirs[0]!
    expect(ours[0]).toMatchObject(rest)
    expect(ours[0]!.key).toHaveLength(key.length)
    expect(ours[0]!.area).toBeCloseTo(area, 6)
    for (const k of [0, 1, 2]) {
      expect(ours[0]!.centroid[k]).toBeCloseTo(centroid[k]!, 6)
      expect(ours[0]!.spread[k]).toBeCloseTo(spread[k]!, 3)
    }
    expect(Math.hypot(...longestAxis)).toBeCloseTo(Math.hypot(...ours[0]!.longestAxis), 6)
    expect(trial.parts.patches).toBe(found.parts.patches)
    expect(trial.parts.patchOfTriangle).toEqual(found.parts.patchOfTriangle)
    expect(trial.parts.partOfTriangle).toEqual(found.parts.partOfTriangle)
    expect(trial.parts.partOfVertex).toEqual(found.parts.partOfVertex)
    expect(trial.whole).toEqual(found.whole)
  })
})
