import { titleOf } from '../../graph/check'
import { paramOf } from '../../graph/kinds'
import { CHANNELS } from '../../graph/types'
import type { ValueCheck } from './declare'

export default {
  about: 'layers through which something shines',
  run(checked) {
    const { points } = checked
    for (const n of checked.ofKind('layer').filter(n => paramOf(n, 'opens') === 'through')) {
      const below = checked.finishInto(n, 'below')
      const above = checked.finishInto(n, 'above')
      const mask = checked.arriving(n, 'mask')
      if (!below || !above?.baseColor) continue
      for (const channel of ['metalness', 'roughness'] as const) {
        const way = paramOf(n, 'channels') === 'each' ? paramOf(n, `${channel}Way`) : 'blend'
        const [ref] = below[channel] ?? []
        if (above[channel] || ref === undefined || way === 'leave') continue
        const [values, where] = checked.valuesAt([ref, mask?.type === 'value' ? mask.value : ref], points)
        const plain = CHANNELS[channel].fallback[0]!
        let area = 0
        let off = 0
        values!.forEach((x, i) => {
          const w = mask ? Math.min(1, Math.max(0, where![i]!)) : 1
          area += w
          off += w * Math.abs(x - plain)
        })
        if (area / points.count < 0.002 || off / area < 0.12) continue
        checked.warn(
          n,
          `${titleOf(n)} lays a color over and leaves the ${CHANNELS[channel].title.toLowerCase()} open, so that of the finish below shines through it.`,
          {
            port: 'above',
            fixes: [
              { label: 'Make it an opaque coat', set: { opens: 'coat' } },
              {
                label: `Leave the ${CHANNELS[channel].title.toLowerCase()} on purpose`,
                set: { channels: 'each', [`${channel}Way`]: 'leave' },
              },
            ],
          },
        )
      }
    }
  },
} satisfies ValueCheck
