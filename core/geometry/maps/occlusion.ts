import * as z from 'zod'
import { castOcclusion } from '../rays'
import { defineMap, DISTANCE_FIELD, length, rays, RAYS_FIELD, rounded } from './declare'

export default defineMap({
  kind: 'occlusion',
  title: 'Occlusion',
  help: 'The share of the sky over a point that surfaces within the distance cover. 0 is open, 1 is closed off.',
  components: 1,
  settings: { distance: length, among: z.enum(['all', 'part']), rays },
  fields: [
    DISTANCE_FIELD,
    RAYS_FIELD,
    {
      key: 'among',
      type: 'choice',
      title: 'Covered by',
      choices: [
        { value: 'all', title: 'All parts' },
        { value: 'part', title: 'The part itself' },
      ],
    },
  ],
  suggested: diagonal => ({ distance: rounded(diagonal / 10), among: 'all' as const, rays: 128 }),
  cast: castOcclusion,
  meetsAll: ({ among }) => among === 'all',
})
