import { execFile } from 'node:child_process'
import { resolve } from 'node:path'
import { pathToFileURL } from 'node:url'
import type { run as runHere } from '../cli/run'

/** What a call of the command line came to. */
export interface Done {
  code: number
  out: string
  err: string
}

/** Calls it in a process of its own, as whoever works with it does. */
export const callApart = (args: readonly string[], cache: string): Promise<Done> =>
  new Promise(done =>
    execFile(
      './bin/ubblet',
      args,
      { maxBuffer: 2 ** 26, env: { ...process.env, UBBLET_CACHE: cache } },
      (error, out, err) => done({ code: error ? Number(error.code) : 0, out, err }),
    ),
  )

let running: Promise<unknown> = Promise.resolve()

/**
 * Calls the built command line within this process, which spares each call the start of another one; calls wait for
 * one another. What belongs to the process itself (signals, pipes, its exit) is tried with `bin/ubblet`.
 * @param cache the folder for what is kept between calls
 */
export function callHere(args: readonly string[], cache: string): Promise<Done> {
  const done = running.then(() => alone(args, cache))
  running = done.catch(() => {})
  return done
}

async function alone(args: readonly string[], cache: string): Promise<Done> {
  const { run } = (await import(pathToFileURL(resolve('dist/cli-run.mjs')).href)) as { run: typeof runHere }
  const said = { out: '', err: '' }
  const { stdout, stderr } = process
  const before = { out: stdout.write, err: stderr.write, code: process.exitCode, cache: process.env.UBBLET_CACHE }
  const listenTo = (stream: NodeJS.WriteStream, to: 'out' | 'err'): void => {
    stream.write = ((text: string | Uint8Array): boolean => {
      said[to] += typeof text === 'string' ? text : new TextDecoder().decode(text)
      return true
    }) as typeof stream.write
  }
  listenTo(stdout, 'out')
  listenTo(stderr, 'err')
  process.exitCode = 0
  process.env.UBBLET_CACHE = cache
  try {
    await run(args)
    return { code: Number(process.exitCode), ...said }
  } finally {
    stdout.write = before.out
    stderr.write = before.err
    process.exitCode = before.code
    process.env.UBBLET_CACHE = before.cache
    if (before.cache === undefined) delete process.env.UBBLET_CACHE
  }
}
