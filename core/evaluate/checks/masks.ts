import { titleOf } from '../../graph/check'
import type { ValueCheck } from './declare'

/** A mask under or over this everywhere covers nothing or everything. */
const EDGE = 0.004

export default {
  about: 'masks that cover nothing or everything',
  run(checked) {
    const { masks, points } = checked
    const masksAt = checked.valuesAt(
      masks.map(m => m.ref),
      points,
    )
    masks.forEach(({ node, port }, i) => {
      const low = masksAt[i]!.reduce((s, x) => Math.min(s, x), Infinity)
      const high = masksAt[i]!.reduce((s, x) => Math.max(s, x), -Infinity)
      if (high < EDGE)
        checked.warn(
          node,
          `The mask of ${titleOf(node)} covers nothing, so what it lets in is never seen. Raise the coverage or the levels before it.`,
          { port },
        )
      else if (low > 1 - EDGE)
        checked.warn(
          node,
          `The mask of ${titleOf(node)} covers everything, so what lies below is never seen. Lower the coverage or the levels before it.`,
          { port },
        )
    })
  },
} satisfies ValueCheck
