import * as z from 'zod'
import { position } from '../places'
import { defineMap } from './declare'

export default defineMap({
  kind: 'position',
  title: 'Position',
  help: 'Where a point is in the box of the mesh, its object, group or part, from 0 to 1 along each side.',
  components: 3,
  lanes: ['X', 'Y', 'Z'],
  settings: { space: z.enum(['world', 'object', 'group', 'part']) },
  fields: [
    {
      key: 'space',
      type: 'choice',
      title: 'In the box of',
      choices: [
        { value: 'world', title: 'The mesh' },
        { value: 'object', title: 'Each object' },
        { value: 'group', title: 'Each group' },
        { value: 'part', title: 'Each part' },
      ],
    },
  ],
  suggested: () => ({ space: 'part' as const }),
  called: 'position in part',
  byGroups: ({ space }) => space === 'group',
  compute: ({ mesh, parts }, { space }) => position(mesh, parts, space),
})
