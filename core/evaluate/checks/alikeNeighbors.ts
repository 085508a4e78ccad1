import { colorDifference } from '../../color/difference'
import { paramOf } from '../../graph/kinds'
import { samplePartPoints } from '../../mesh/sample'
import { MOST_PARTS, type ValueCheck } from './declare'

/** Points of a part behind its mean color. */
const PART_POINTS = 24
/** CIEDE2000 under which two neighbors look the same. */
const ALIKE = 1.5

export default {
  about: 'touching parts that look the same although the look draws for them',
  run(checked) {
    const { end, draw, tables, program } = checked
    const { mesh, parts } = tables
    if (!end || !draw || parts.parts.length > MOST_PARTS || !tables.touching) return
    const { pairs } = tables.touching()
    const means = checked.valuesAt(program.result.baseColor, samplePartPoints(mesh, parts, PART_POINTS))
    const mean = (p: number) =>
      means.map(c => c.subarray(p * PART_POINTS, (p + 1) * PART_POINTS).reduce((s, x) => s + x, 0) / PART_POINTS)
    let compared = 0
    let alike = 0
    for (let i = 0; i < pairs.length; i += 2) {
      const a = parts.parts[pairs[i]!]!
      const b = parts.parts[pairs[i + 1]!]!
      // Parts of different objects or sizes are other things; nobody has to tell two bolts from a plate by color.
      if (a.object !== b.object || Math.abs(a.area - b.area) > 0.5 * Math.max(a.area, b.area)) continue
      compared++
      alike += Number(colorDifference(mean(pairs[i]!), mean(pairs[i + 1]!)) < ALIKE)
    }
    if (compared < 4 || alike / compared < 0.25) return
    const message = `${alike} of ${compared} pairs of touching parts are too alike to tell apart (CIEDE2000 under ${ALIKE}).`
    if (draw.kind === 'palette')
      checked.warn(draw, message, { fixes: [{ label: 'Have neighbors differ', set: { differ: 10 } }] })
    else if (!String(paramOf(draw, 'how')).startsWith('apart'))
      checked.warn(draw, message, { fixes: [{ label: 'Draw apart', set: { how: 'apartBalanced' } }] })
    else checked.warn(end, `${message} Their draw is apart already: let it drive more hue, chroma or lightness.`)
  },
} satisfies ValueCheck
