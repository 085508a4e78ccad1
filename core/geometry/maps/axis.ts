import { alongAxis } from '../places'
import { defineMap } from './declare'

export default defineMap({
  kind: 'axis',
  title: 'Along the part',
  help: "Where a point is along, across and around its part's own longest axis, each from 0 to 1.",
  components: 3,
  lanes: ['Along', 'Across', 'Around'],
  settings: {},
  fields: [],
  suggested: () => ({}),
  called: 'along part',
  compute: ({ mesh, parts }) => alongAxis(mesh, parts),
})
