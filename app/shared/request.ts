/** An answer that is not a success. Status 0: the server could not be reached. */
export class RequestError extends Error {
  /** @param fault what is wrong with the server's database, where it is that */
  constructor(
    message: string,
    readonly status: number,
    readonly fault?: string,
  ) {
    super(message)
  }
}

interface Options {
  method?: string
  json?: unknown
  bytes?: ArrayBuffer | Blob
  progress?: (share: number) => void
  /** Whether JSON is left as the bytes that came, for another thread to read. */
  raw?: boolean
}

/** Under which path of its host the application lies: without a slash at its end. */
let base = ''
export const liesUnder = (path: string): void => {
  base = path.replace(/\/$/, '')
}

/** An address of this server (`/api/…`, `/mark.svg`) as the browser needs it. */
export const addressOf = (path: string): string => `${base}${path}`

/** Told when the server wants to know who asks. */
let signInNeeded: (() => void) | undefined
export const onSignInNeeded = (then: () => void): void => {
  signInNeeded = then
}

/** What an answer says is wrong, where it is our server's answer. */
function told(text: string): { message: string; fault?: string } {
  try {
    const { message, fault } = JSON.parse(text) as { message?: unknown; fault?: unknown }
    if (typeof message === 'string') return { message, ...(typeof fault === 'string' && { fault }) }
  } catch {
    /* Not our server's answer; its text would not help. */
  }
  return { message: 'The server could not do it.' }
}

/**
 * Talks to the server. Binary answers come as an ArrayBuffer, others as the JSON they hold.
 * @throws RequestError with the server's own sentence
 */
export function request<T>(path: string, { method = 'GET', json, bytes, progress, raw }: Options = {}): Promise<T> {
  return new Promise((resolve, reject) => {
    // XMLHttpRequest, because fetch does not tell how far an upload is.
    const call = new XMLHttpRequest()
    call.open(method, addressOf(path))
    call.responseType = 'arraybuffer'
    if (json !== undefined) call.setRequestHeader('content-type', 'application/json')
    if (progress) call.upload.onprogress = e => progress(e.loaded / Math.max(1, e.total))
    const unreachable = () => reject(new RequestError('The server does not answer.', 0))
    call.onerror = unreachable
    call.ontimeout = unreachable
    call.onload = () => {
      const buffer = call.response as ArrayBuffer | null
      const text = () => new TextDecoder().decode(buffer ?? new ArrayBuffer())
      const isJson = !raw && call.getResponseHeader('content-type')?.includes('json')
      if (call.status === 204) {
        // What the server has nothing of it answers without a body.
        resolve(null as T)
        return
      }
      if (call.status >= 200 && call.status < 300) {
        try {
          resolve((isJson ? JSON.parse(text()) : buffer) as T)
        } catch {
          unreachable()
        }
        return
      }
      const { message, fault } = told(text())
      if (call.status === 401 && !path.startsWith('/api/session')) signInNeeded?.()
      reject(new RequestError(message, call.status, fault))
    }
    call.send(json !== undefined ? JSON.stringify(json) : (bytes ?? null))
  })
}
