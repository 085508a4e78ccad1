declare class TextDecoder {
  decode(bytes?: Uint8Array, options?: { stream: boolean }): string
}

/**
 * Lines of a text file, 4 MB at a time: a file of half a gigabyte is longer than a string may be.
 * @param from the first byte
 * @param progress is told which share of the file was read, 0 to 1
 */
export function* lines(bytes: Uint8Array, from = 0, progress?: (share: number) => void): Generator<string> {
  const decoder = new TextDecoder()
  const step = 4 * 2 ** 20
  let rest = ''
  for (let at = from; at < bytes.length; at += step) {
    const text = rest + decoder.decode(bytes.subarray(at, at + step), { stream: true })
    const parts = text.split(/\r\n|\n|\r(?!$)/)
    rest = parts.pop()!
    yield* parts
    progress?.(Math.min(1, (at + step) / bytes.length))
  }
  if (rest) yield rest.replace(/\r$/, '')
}

const [TAB, LINE_FEED, RETURN, SPACE] = [9, 10, 13, 32]
const isBlank = (byte: number | undefined): boolean => byte === SPACE || byte === TAB
const endsLine = (byte: number | undefined): boolean => byte === undefined || byte === LINE_FEED || byte === RETURN

/**
 * What stands behind a word on each line of a text file that begins with it. The other lines are not made into text,
 * which takes most of the time for a large file.
 */
export function* linesAfter(bytes: Uint8Array, word: string): Generator<string> {
  const letters = [...word].map(letter => letter.charCodeAt(0))
  const decoder = new TextDecoder()
  for (let at = 0; at < bytes.length; at++) {
    while (isBlank(bytes[at])) at++
    let i = 0
    while (i < letters.length && bytes[at + i] === letters[i]) i++
    const begin = at + i
    while (!endsLine(bytes[at])) at++
    if (i === letters.length && isBlank(bytes[begin])) yield decoder.decode(bytes.subarray(begin, at)).trim()
  }
}

/** Does the beginning of a file read as text? */
export const isText = (bytes: Uint8Array): boolean =>
  bytes.subarray(0, 4096).every(b => b >= 32 || b === 9 || b === 10 || b === 13)
