declare class TextDecoder {
  decode(bytes?: Uint8Array, options?: { stream: boolean }): string
}

/** How many bytes are read before more is told of how far it is. */
const STEP = 4 * 2 ** 20

/**
 * Lines of a text file, 4 MB at a time: a file of half a gigabyte is longer than a string may be.
 * @param from the first byte
 * @param progress is told which share of the file was read, 0 to 1
 */
export function* lines(bytes: Uint8Array, from = 0, progress?: (share: number) => void): Generator<string> {
  const decoder = new TextDecoder()
  let rest = ''
  for (let at = from; at < bytes.length; at += STEP) {
    const text = rest + decoder.decode(bytes.subarray(at, at + STEP), { stream: true })
    const parts = text.split(/\r\n|\n|\r(?!$)/)
    rest = parts.pop()!
    yield* parts
    progress?.(Math.min(1, (at + STEP) / bytes.length))
  }
  if (rest) yield rest.replace(/\r$/, '')
}

const [TAB, LINE_FEED, RETURN, SPACE] = [9, 10, 13, 32]
/** A space or a tab. */
export const isBlank = (byte: number | undefined): boolean => byte === SPACE || byte === TAB
const endsLine = (byte: number | undefined): boolean => byte === undefined || byte === LINE_FEED || byte === RETURN

/** With which some programs begin a text. */
const BYTE_ORDER_MARK = [0xef, 0xbb, 0xbf]

/**
 * Tells where the lines of a text file lie, without making them text.
 * @param take is told the first byte of a line, the one after its last, and which line it is, from 1
 * @param progress is told which share of the file was read, 0 to 1
 */
export function eachLine(
  bytes: Uint8Array,
  take: (from: number, end: number, number: number) => void,
  progress?: (share: number) => void,
): void {
  let from = BYTE_ORDER_MARK.every((byte, i) => bytes[i] === byte) ? BYTE_ORDER_MARK.length : 0
  let told = STEP
  for (let number = 1; from < bytes.length; number++) {
    let end = from
    while (!endsLine(bytes[end])) end++
    take(from, end, number)
    const isPair = bytes[end] === RETURN && bytes[end + 1] === LINE_FEED
    from = isPair ? end + 2 : end + 1
    if (from < told && from < bytes.length) continue
    progress?.(Math.min(1, from / bytes.length))
    told += STEP
  }
}

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
