import { keysOf } from '../../../utils/projects'
import { findProject } from '../../../utils/requests'

/** The key table of the project's mesh; null where the mesh is older than key tables. */
export default defineEventHandler(async event => await keysOf(await findProject(event)) ?? null)
