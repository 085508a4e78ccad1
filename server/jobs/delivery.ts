import { parentPort, workerData } from 'node:worker_threads'
import { decode } from 'fast-png'
import { LaneError } from '../../core/bake/lanes'
import { DeliveryError } from '../../core/deliver/settings'
import { rgbaOf } from '../../core/evaluate/pictures'
import { MeshFileError } from '../../core/exchange/readMesh'
import { deliver, pruneCache } from '../../node/bake/deliver'
import { deliveryJobSchema } from './deliveryMessages'

/** Texels of a PNG that are decoded here: the browser makes larger pictures smaller. */
const MOST_TEXELS = 8192 * 8192

/** @throws DeliveryError where it is broken or too large, which its head tells before it is decoded */
function decodePicture(name: string, bytes: Uint8Array) {
  const head = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (bytes.length < 24 || head.getUint32(16) * head.getUint32(20) > MOST_TEXELS) {
    throw new DeliveryError(
      `The picture ${name} is larger than 8192 x 8192 pixels and has not been made smaller by a browser yet; open the project and deliver from there.`,
    )
  }
  try {
    return { name, ...rgbaOf(decode(bytes)) }
  } catch {
    throw new DeliveryError(`The picture ${name} is a PNG that cannot be read.`)
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
