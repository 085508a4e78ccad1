import * as z from 'zod'
import { facing } from '../places'
import { defineMap } from './declare'

export default defineMap({
  kind: 'facing',
  title: 'Facing',
  help: 'How far a surface turns toward a direction. 1 faces it, 0.5 stands across, 0 faces away.',
  components: 1,
  settings: { direction: z.tuple([z.number(), z.number(), z.number()]) },
  fields: [{ key: 'direction', type: 'direction', title: 'Toward' }],
  suggested: () => ({ direction: [0, 1, 0] as [number, number, number] }),
  called: 'facing up',
  compute: ({ mesh }, { direction }) => facing(mesh, direction),
})
