import { fork, type ChildProcess } from 'node:child_process'
import { scriptOf } from './scripts'

/** How long a process waits for the next mesh, in milliseconds. */
const KEPT_FOR = 60_000
/** More memory than this, in bytes, no process keeps that only waits. */
const KEPT_BELOW = 320 * 2 ** 20

/**
 * A process that reads meshes, one after the other. It takes longer to begin one than to read most meshes, so it waits
 * a while for the next.
 */
export class ReadingProcess {
  private static readonly waiting: ReadingProcess[] = []
  private readonly child: ChildProcess
  private patience: NodeJS.Timeout | undefined
  /** Whether it has read a mesh before. */
  hasWaited = false
  private heard: ((message: unknown) => void) | undefined
  private ended: ((code: number | null, signal: string | null) => void) | undefined

  /** One that waits, or else a new one. */
  static next(megabytes: number): ReadingProcess {
    return ReadingProcess.waiting.pop()?.wake() ?? new ReadingProcess(megabytes)
  }

  /** @param megabytes how much memory it may take */
  constructor(megabytes: number) {
    this.child = fork(scriptOf('mesh-job'), [], {
      stdio: ['pipe', 'ignore', 'inherit', 'ipc'],
      serialization: 'advanced',
      execArgv: [`--max-old-space-size=${Math.min(4096, megabytes)}`],
    })
    this.child.on('message', message => this.heard?.(message))
    this.child.on('error', () => this.end(null, null))
    // When the channel is closed too: whatever was said is heard by then.
    this.child.once('close', (code, signal) => this.end(code, signal))
    // A child that ends early closes its end; its exit says why.
    this.child.stdin!.on('error', () => {})
  }

  get pid(): number {
    return this.child.pid ?? 0
  }

  /**
   * Has a mesh read.
   * @param heard is told what the process says
   * @param ended is told its code and signal where it ends instead; neither where it could not begin
   */
  read(job: object, bytes: Uint8Array, heard: typeof this.heard, ended: typeof this.ended): void {
    this.heard = heard
    this.ended = ended
    this.child.send({ ...job, size: bytes.length })
    this.child.stdin!.write(bytes)
  }

  /** Ends it, whatever it does. */
  kill(): void {
    clearTimeout(this.patience)
    const { waiting } = ReadingProcess
    if (waiting.includes(this)) waiting.splice(waiting.indexOf(this), 1)
    this.ended = undefined
    this.heard = undefined
    this.child.kill('SIGKILL')
  }

  /** Has it wait for the next mesh, unless it has too much memory. @param memory in bytes */
  rest(memory: number): void {
    if (memory > KEPT_BELOW) {
      this.kill()
      return
    }
    this.ended = undefined
    this.heard = undefined
    this.hasWaited = true
    ReadingProcess.waiting.push(this)
    this.patience = setTimeout(() => this.kill(), KEPT_FOR)
    // Nothing waits for one that waits.
    this.patience.unref()
    this.child.unref()
    this.child.channel?.unref()
  }

  private wake(): this {
    clearTimeout(this.patience)
    this.child.ref()
    this.child.channel?.ref()
    return this
  }

  private end(code: number | null, signal: string | null): void {
    const { ended } = this
    this.kill()
    ended?.(code, signal)
  }
}
