import { parentPort, workerData } from 'node:worker_threads'
import { LaneError } from '../../core/bake/lanes'
import { DeliveryError } from '../../core/deliver/settings'
import { MeshFileError } from '../../core/exchange/readMesh'
import { deliver, pruneCache } from './deliver'
import { deliveryJobSchema } from './deliveryMessages'

/** Makes one delivery on a thread of its own, and tells how far it is. */
if (parentPort && (workerData as { role?: string } | null)?.role === 'deliver') {
  const port = parentPort
  try {
    const { work, folder, cacheMegabytes, ...options } = deliveryJobSchema.parse((workerData as { job: unknown }).job)
    await deliver(work, folder, { ...options, linked: true, progress: (share, what) => port.postMessage({ share, what }) })
    await pruneCache(options.cache, cacheMegabytes)
    port.postMessage({ done: true })
  }
  catch (error) {
    const told = error instanceof DeliveryError || error instanceof LaneError || error instanceof MeshFileError, { code, message } = error as NodeJS.ErrnoException
    port.postMessage({ error: told ? message : code === 'ENOSPC' ? 'The disk of the server is full; nothing was delivered.' : `The delivery could not be made (${message}).` })
  }
}
