import { Readable } from 'node:stream'
import { fileStem } from '#core/exchange/names'
import { exportProject } from '../../../../node/store/projectFile'
import { useStore } from '../../../utils/store'
import { projectOf } from '../../../rights/admit'
import { route } from '../../../rights/route'

/** A project as one file, with its mesh, pictures, maps and history. */
export default route({ may: 'look', project: 'present' }, async event => {
  const project = projectOf(event)
  setResponseHeader(event, 'content-type', 'application/zip')
  setResponseHeader(
    event,
    'content-disposition',
    `attachment; filename="${fileStem(project.name, 'project')}.ubblet.zip"`,
  )
  return sendStream(event, Readable.from(exportProject(await useStore(), project.id)))
})
