import type { H3Event } from 'h3'
import * as z from 'zod'
import { findRevision, type Revision } from './projects'
import { refuse } from './requests'

const numberSchema = z.coerce.number().int().min(1)

/** The revision named in the path, of a project. */
export function revisionInPath(event: H3Event, project: string): Promise<Revision> {
  const number = numberSchema.safeParse(getRouterParam(event, 'number'))
  if (!number.success) throw refuse(404, 'There is no such revision.')
  return findRevision(project, number.data)
}
