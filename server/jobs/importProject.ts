import * as z from 'zod'
import { LookError } from '../../core/graph/look'
import { PreparationError } from '../../core/mesh/preparation'
import { told } from '../../node/store/faults'
import { importProject, ProjectFileError } from '../../node/store/projectFile'
import { Store } from '../../node/store/store'
import { endWithParent } from './parent'
import { receivedFile } from './receivedFile'

const jobSchema = z.object({
  url: z.string(),
  databaseToken: z.string().optional(),
  patience: z.number(),
  limit: z.number(),
  owner: z.string().nullable(),
  size: z.number().int().min(0),
})
export type ImportJob = Omit<z.infer<typeof jobSchema>, 'size'>

/** Brings in the project that a file holds. @returns its id, or why not: with a status where it is the file's fault */
async function answerTo(message: unknown): Promise<object> {
  let store: Store | undefined
  try {
    const { url, databaseToken, patience, limit, owner, size } = jobSchema.parse(message)
    const bytes = await receivedFile(size)
    store = await Store.open({ url, patience, ...(databaseToken && { token: databaseToken }) })
    return { id: await importProject(store, bytes, limit, owner) }
  } catch (error) {
    const isOfFile =
      error instanceof ProjectFileError || error instanceof LookError || error instanceof PreparationError
    if (isOfFile) return { error: error.message, status: 422 }
    const known = told(error) as Error & { status?: number }
    return { error: known.message, status: known.status ?? 500, cause: known.stack }
  } finally {
    store?.close()
  }
}

/**
 * In a process of its own: takes a job as a message and the bytes of a project file on standard input, and ends with
 * its answer.
 */
if (process.send) {
  endWithParent()
  process.once('message', (message: unknown) => {
    void answerTo(message).then(answer => {
      if (process.connected) process.send!(answer, () => process.exit(0))
    })
  })
}
