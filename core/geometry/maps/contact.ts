import { contactDistance } from '../rays'
import { CHUNK } from '../round'
import { spreadOut } from '../surface'
import { defineMap, DISTANCE_FIELD, length, rounded } from './declare'

export default defineMap({
  kind: 'contact',
  title: 'Contact distance',
  help: 'The way to the nearest other part, as a share of the distance. 0 touches, 1 is that far or farther.',
  components: 1,
  settings: { distance: length },
  fields: [DISTANCE_FIELD],
  suggested: diagonal => ({ distance: rounded(diagonal / 50) }),
  compute({ surface, scene, boxes }, { distance }, { progress, stopped }) {
    const out = new Float32Array(surface.count)
    for (let at = 0; at < surface.count; at += CHUNK) {
      if (stopped?.()) return undefined
      contactDistance(scene, surface, boxes, at, Math.min(surface.count, at + CHUNK), distance, out)
      progress?.(at / surface.count)
    }
    return spreadOut(surface, out)
  },
})
