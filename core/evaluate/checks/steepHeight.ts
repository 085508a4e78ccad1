import { heightSlopes } from '../../bake/relief'
import { percent, type ValueCheck } from './declare'

/** Slopes beyond this, 60 degrees, shade as no real relief does: it would hide itself and cast shadows. */
const STEEP = 1.75
/** The share of the area from which it is worth the artist's time. */
const SEEN = 0.01

export default {
  about: 'heights that a normal cannot show',
  run(checked) {
    const { end, program, points, tables } = checked
    if (!end || !program.sets.has('height')) return
    const height = (where: typeof points): Float32Array => checked.valuesAt(program.result.height, where)[0]!
    const [first, second] = heightSlopes(tables, points, height(points), height)
    const share = first.filter((s, i) => Math.hypot(s, second[i]!) > STEEP).length / points.count
    if (share > SEEN)
      checked.warn(
        end,
        `The height is steeper than 60° on ${percent(share)} of the surface. A normal cannot show that; soften what drives it, or lower the height scale.`,
      )
  },
} satisfies ValueCheck
