import { parentPort, workerData } from 'node:worker_threads'
import { MeshFileError, readGlb } from '../../core/exchange/readGlb'
import { findParts } from '../../core/mesh/parts'

/** Reads a mesh file on a thread of its own and answers with its counts, or with why it cannot be read. */
try {
  const mesh = await readGlb(new Uint8Array(workerData as ArrayBuffer))
  parentPort!.postMessage({ triangles: mesh.indices.length / 3, parts: findParts(mesh).parts.length })
}
catch (error) {
  parentPort!.postMessage({ error: error instanceof MeshFileError ? error.message : 'The file could not be read.' })
}
