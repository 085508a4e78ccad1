import { parentPort, workerData } from 'node:worker_threads'
import { LaneError } from '../../core/bake/lanes'
import { DeliveryError } from '../../core/deliver/settings'
import type { Picture } from '../../core/evaluate/pictures'
import { MeshFileError } from '../../core/exchange/readMesh'
import { deliver } from '../../node/bake/deliver'
import { pruneCache } from '../../node/bake/pruneCache'
import { readPicture } from '../../node/bake/readPicture'
import { deliveryJobSchema } from './deliveryMessages'

/** @throws DeliveryError where it cannot be read */
function decodePicture(name: string, bytes: Uint8Array): Picture {
  try {
    return readPicture(name, bytes)
  } catch (error) {
    throw new DeliveryError((error as Error).message)
  }
}

/** Makes one delivery on a thread of its own, and tells how far it is. */
if (parentPort && (workerData as { role?: string } | null)?.role === 'deliver') {
  const port = parentPort
  try {
    const { work, files, folder, cacheMegabytes, ...options } = deliveryJobSchema.parse(
      (workerData as { job: unknown }).job,
    )
    const pictures = files.map(f => decodePicture(f.name, f.bytes))
    const progress = (share: number, what: string): void => port.postMessage({ share, what })
    await deliver({ ...work, pictures }, folder, { ...options, linked: true, progress })
    await pruneCache(options.cache, cacheMegabytes)
    port.postMessage({ done: true })
  } catch (error) {
    const told = error instanceof DeliveryError || error instanceof LaneError || error instanceof MeshFileError
    const { code, message } = error as NodeJS.ErrnoException
    const full = code === 'ENOSPC' || code === 'EDQUOT'
    const unforeseen = full
      ? 'The disk of the server is full; nothing was delivered.'
      : `The delivery could not be made (${message}).`
    port.postMessage({ error: told ? message : unforeseen })
  }
}
