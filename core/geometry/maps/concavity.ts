import { bent } from '../curvature'
import { defineMap, length, rounded } from './declare'

export default defineMap({
  kind: 'concavity',
  title: 'Concavity',
  help: 'Grooves and hollows at the size of the radius. 1 is a sharp right-angled corner, 0 is flat or bulging.',
  components: 1,
  settings: { radius: length },
  fields: [{ key: 'radius', type: 'length', title: 'Radius', help: 'The size of the edges or hollows to find.' }],
  suggested: diagonal => ({ radius: rounded(diagonal / 200) }),
  compute: (geometry, { radius }, { progress, stopped }) => bent(geometry, radius, -1, progress, stopped),
})
