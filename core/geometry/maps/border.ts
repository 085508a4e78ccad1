import { borderDistance } from '../border'
import { spreadOut } from '../surface'
import { defineMap, DISTANCE_FIELD, length, rounded } from './declare'

export default defineMap({
  kind: 'border',
  title: 'Border distance',
  help: "The way along the surface to the part's open edges (where it has none: to its creases), as a share of the distance.",
  components: 1,
  settings: { distance: length },
  fields: [DISTANCE_FIELD],
  suggested: diagonal => ({ distance: rounded(diagonal / 50) }),
  compute: ({ surface }, { distance }) => spreadOut(surface, borderDistance(surface, distance)),
})
