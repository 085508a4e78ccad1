import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as wait } from 'node:timers/promises'
import { removeFolder } from './folders'

const root = process.cwd()
const running: Server[] = []
const folders: string[] = []

/** Ends all servers that were started, and removes their folders. */
export async function endAll(): Promise<void> {
  await Promise.all(running.splice(0).map(s => s.kill()))
  await Promise.all(folders.splice(0).map(removeFolder))
}

export function newFolder(): string {
  const folder = mkdtempSync(join(tmpdir(), 'ubblet-server-'))
  folders.push(folder)
  return folder
}

const freePort = (): Promise<number> =>
  new Promise(resolve => {
    const probe = createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as { port: number }
      probe.close(() => resolve(port))
    })
  })

const inText = (body: unknown): string => (typeof body === 'string' ? body : JSON.stringify(body))

export interface Answer<T = unknown> {
  status: number
  headers: Headers
  json: T
  bytes: Buffer
}

/** A built server on a database of its own. */
export class Server {
  readonly log: string[] = []
  code: number | null | undefined

  private constructor(
    readonly folder: string,
    readonly address: string,
    readonly process: ChildProcess,
  ) {
    for (const stream of [process.stdout!, process.stderr!])
      stream.on('data', (text: Buffer) => this.log.push(...text.toString().split('\n').filter(Boolean)))
    process.once('exit', code => {
      this.code = code
    })
    running.push(this)
  }

  /**
   * @param shell a command line around the server's, for limits
   * @param uid the user that it runs as, where that is another
   * @param output the folder that the build lies in, where that is another
   */
  static async start(
    env: Record<string, string> = {},
    folder = newFolder(),
    shell = '',
    uid?: number,
    output = root,
  ): Promise<Server> {
    const port = await freePort()
    const all = {
      ...process.env,
      HOST: '127.0.0.1',
      PORT: String(port),
      UBBLET_HOME: root,
      UBBLET_DATABASE: `file:${join(folder, 'u.db')}`,
      UBBLET_DELIVERIES: join(folder, 'deliveries'),
      UBBLET_LOG_LEVEL: 'info',
      ...env,
    }
    const script = join(output, '.output/server/index.mjs')
    const started = shell
      ? spawn('/bin/sh', ['-c', `${shell}; exec "${process.execPath}" "${script}"`], {
          env: all,
          stdio: ['ignore', 'pipe', 'pipe'],
        })
      : spawn(process.execPath, [script], {
          env: all,
          stdio: ['ignore', 'pipe', 'pipe'],
          ...(uid !== undefined && { uid }),
        })
    const base = (env.NUXT_APP_BASE_URL ?? '/').replace(/\/$/, '')
    const server = new Server(folder, `http://127.0.0.1:${port}${base}`, started)
    for (let i = 0; i < 800 && server.code === undefined; i++) {
      if (
        await fetch(`${server.address}/api/health`).then(
          r => r.status === 200 || r.status === 503,
          () => false,
        )
      )
        return server
      await wait(25)
    }
    return server
  }

  async ask<T = Record<string, unknown>>(
    method: string,
    path: string,
    body?: unknown,
    headers: Record<string, string> = {},
  ): Promise<Answer<T>> {
    const binary = body instanceof Uint8Array
    const sent = binary ? new Uint8Array(body) : inText(body)
    const answer = await fetch(this.address + path, {
      method,
      headers: {
        // A connection that was kept may be closed by the server while a test computes, and a write then fails.
        connection: 'close',
        ...(body !== undefined && { 'content-type': binary ? 'application/octet-stream' : 'application/json' }),
        ...headers,
      },
      ...(body !== undefined && { body: sent }),
    })
    const bytes = Buffer.from(await answer.arrayBuffer())
    const isJson = /\/json\b/.test(answer.headers.get('content-type') ?? '')
    return {
      status: answer.status,
      headers: answer.headers,
      json: (isJson && bytes.length ? JSON.parse(bytes.toString()) : undefined) as T,
      bytes,
    }
  }

  /** An answer that must be a success. */
  async get<T = Record<string, unknown>>(path: string): Promise<T> {
    const { status, json, bytes } = await this.ask<T>('GET', path)
    if (status !== 200) throw new Error(`${path}: ${status} ${bytes.toString()}`)
    return json
  }

  /** Tells the server to stop. @returns its exit code and how long it took, in milliseconds */
  async stop(): Promise<{ code: number | null; ms: number }> {
    const from = Date.now()
    this.process.kill('SIGTERM')
    while (this.code === undefined) await wait(10)
    return { code: this.code, ms: Date.now() - from }
  }

  async kill(): Promise<void> {
    this.process.kill('SIGKILL')
    while (this.code === undefined) await wait(5)
  }
}
