import { Worker } from 'node:worker_threads'
import type * as z from 'zod'

/** What is heard of a thread. */
interface Heard<T> {
  /** What it may send. */
  answers: z.ZodType<T>
  hear(answer: T): void
  /** It has failed, with a sentence where it ran out of memory, or has sent what it may not. */
  fail(error: Error): void
  /** How much memory it may take; as much as there is where that is left out. */
  megabytes?: number
}

/** A thread that was given too little memory for what it was to do. */
export class OutOfMemory extends Error {}

/**
 * Starts a script of the bundle on a thread of its own.
 * @param script its path
 * @param workerData what the script finds when it begins
 */
export function startThread<T>(script: string, workerData: object, { answers, hear, fail, megabytes }: Heard<T>) {
  const resourceLimits = megabytes ? { maxOldGenerationSizeMb: megabytes } : {}
  const worker = new Worker(script, { workerData, resourceLimits })
  worker.on('message', (message: unknown) => {
    const answer = answers.safeParse(message)
    if (answer.success) hear(answer.data)
    else fail(new Error(`A thread sent what it may not: ${answer.error.message}`))
  })
  worker.on('error', (error: Error & { code?: string }) =>
    fail(error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? new OutOfMemory('It does not fit into memory.') : error),
  )
  return worker
}
