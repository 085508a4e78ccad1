import { lightsOf } from '../../../../utils/projects'
import { findProject } from '../../../../utils/requests'

/** The pictures of light that a project keeps. */
export default defineEventHandler(async event => lightsOf((await findProject(event)).id))
