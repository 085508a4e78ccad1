import * as Comlink from 'comlink'
import { loadKernels, type Kernels } from '#core/kernels/kernels'
import type { EvaluatorApi } from './evaluate.worker'

const start = (): Comlink.Remote<EvaluatorApi> =>
  Comlink.wrap<EvaluatorApi>(new Worker(new URL('./evaluate.worker.ts', import.meta.url), { type: 'module' }))

/** The worker that reads meshes, draws swatches and readings, picks, and bakes. */
export const evaluator = start()

let loaded: Promise<Kernels> | undefined
/** The kernels of this thread, for what the stage needs at once. */
export const kernels = (): Promise<Kernels> => (loaded ??= loadKernels())
