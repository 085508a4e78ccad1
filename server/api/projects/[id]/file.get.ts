import { Readable } from 'node:stream'
import { fileStem } from '#core/exchange/names'
import { exportProject } from '../../../../node/store/projectFile'
import { findProject } from '../../../utils/requests'
import { useStore } from '../../../utils/store'

/** A project as one file, with its mesh, pictures, maps and history. */
export default defineEventHandler(async event => {
  const project = await findProject(event)
  setResponseHeader(event, 'content-type', 'application/zip')
  setResponseHeader(
    event,
    'content-disposition',
    `attachment; filename="${fileStem(project.name, 'project')}.ubblet.zip"`,
  )
  return sendStream(event, Readable.from(exportProject(await useStore(), project.id)))
})
