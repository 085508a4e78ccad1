declare class TextDecoder {
  decode(bytes?: Uint8Array, options?: { stream: boolean }): string
}

/** Lines of a text file, 4 MB at a time: a file of half a gigabyte is longer than a string may be. */
export function* lines(bytes: Uint8Array, from = 0): Generator<string> {
  const decoder = new TextDecoder()
  const step = 4 * 2 ** 20
  let rest = ''
  for (let at = from; at < bytes.length; at += step) {
    const text = rest + decoder.decode(bytes.subarray(at, at + step), { stream: true })
    const parts = text.split(/\r\n|\n|\r(?!$)/)
    rest = parts.pop()!
    yield* parts
  }
  if (rest) yield rest.replace(/\r$/, '')
}

/** Does the beginning of a file read as text? */
export const isText = (bytes: Uint8Array): boolean =>
  bytes.subarray(0, 4096).every(b => b >= 32 || b === 9 || b === 10 || b === 13)
