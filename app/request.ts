/** An answer that is not a success. Status 0: the server could not be reached. */
export class RequestError extends Error {
  constructor(message: string, readonly status: number) { super(message) }
}

interface Options { method?: string, json?: unknown, bytes?: ArrayBuffer | Blob, progress?: (share: number) => void }

/**
 * Talks to the server. Binary answers come as an ArrayBuffer, others as the JSON they hold.
 * @throws RequestError with the server's own sentence
 */
export function request<T>(url: string, { method = 'GET', json, bytes, progress }: Options = {}): Promise<T> {
  return new Promise((resolve, reject) => {
    // XMLHttpRequest, because fetch does not tell how far an upload is.
    const call = new XMLHttpRequest()
    call.open(method, url)
    call.responseType = 'arraybuffer'
    if (json !== undefined) call.setRequestHeader('content-type', 'application/json')
    if (progress) call.upload.onprogress = e => progress(e.loaded / Math.max(1, e.total))
    const unreachable = () => reject(new RequestError('The server does not answer.', 0))
    call.onerror = unreachable
    call.ontimeout = unreachable
    call.onload = () => {
      const buffer = call.response as ArrayBuffer | null
      const text = () => new TextDecoder().decode(buffer ?? new ArrayBuffer())
      const isJson = call.getResponseHeader('content-type')?.includes('json')
      if (call.status >= 200 && call.status < 300) {
        try {
          resolve((isJson ? JSON.parse(text()) : buffer) as T)
        }
        catch {
          unreachable()
        }
        return
      }
      let message = 'The server could not do it.'
      try {
        message = (JSON.parse(text()) as { message?: string }).message ?? message
      }
      catch { /* Not our server's answer; its text would not help. */ }
      reject(new RequestError(message, call.status))
    }
    call.send(json !== undefined ? JSON.stringify(json) : bytes ?? null)
  })
}
