import { accessOf, opens } from '../../../../node/store/access'
import { projectOf } from '../../../rights/admit'
import { route } from '../../../rights/route'
import { useRows } from '../../../utils/store'

/** Whom a project is open to, and whether whoever asks may change that. */
export default route({ may: 'look', project: 'present' }, async event => {
  const project = projectOf(event)
  const { person, role } = event.context
  return {
    ...(await accessOf(await useRows(), project.id)),
    owner: project.owner,
    mayChange: opens(project, person!, role!),
  }
})
