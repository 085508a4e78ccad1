import { parseLook } from '#core/graph/look'
import { looksOf } from '../../../utils/looks'
import { authorOf } from '../../../utils/people'
import { createProject, denseOf, findRevision, lightsOf, picturesOf, preparationOf } from '../../../utils/projects'
import { accessOf } from '../../../../node/store/access'
import { refusalByRole } from '../../../rights/declare'
import { refuse } from '../../../utils/requests'
import { useRows } from '../../../utils/store'
import { projectOf } from '../../../rights/admit'
import { route } from '../../../rights/route'

/** A copy of a project with all its looks as they are now, without their earlier revisions. */
export default route(
  { may: 'work', project: 'present', lock: 'passes', does: 'duplicated the project' },
  async event => {
    const project = projectOf(event)
    const refusal = refusalByRole('work', event.context.person!)
    if (refusal) throw refuse(...refusal)
    const shown = (await looksOf(await useRows(), project.id)).filter(l => l.removed === null)
    const revisions = await Promise.all(shown.map(l => findRevision(project.id, undefined, l.id)))
    const [first] = revisions
    return createProject(`${project.name} (copy)`.slice(0, 120), {
      looks: revisions.map((r, i) => ({ look: parseLook(JSON.parse(r.look)), thumbnailHash: shown[i]!.thumbnail })),
      preparation: preparationOf(first),
      mesh: project,
      pictures: first ? (picturesOf(first) ?? []) : [],
      lights: await lightsOf(project.id),
      dense: await denseOf(project.id),
      author: authorOf(event) ?? undefined,
      access: await accessOf(await useRows(), project.id),
    })
  },
)
