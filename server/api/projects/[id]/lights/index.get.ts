import { lightsOf } from '../../../../utils/projects'
import { projectOf } from '../../../../rights/admit'
import { route } from '../../../../rights/route'

/** The pictures of light that a project keeps. */
export default route({ may: 'look', project: 'present' }, async event => lightsOf(projectOf(event).id))
