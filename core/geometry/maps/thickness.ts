import { castThickness } from '../rays'
import { defineMap, DISTANCE_FIELD, length, rays, RAYS_FIELD, rounded } from './declare'

export default defineMap({
  kind: 'thickness',
  title: 'Thickness',
  help: 'How deep the part is under the surface, as a share of the distance. 1 is that deep or deeper.',
  components: 1,
  settings: { distance: length, rays },
  fields: [DISTANCE_FIELD, RAYS_FIELD],
  suggested: diagonal => ({ distance: rounded(diagonal / 50), rays: 64 }),
  cast: castThickness,
  meetsAll: () => false,
})
