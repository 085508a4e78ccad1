const QUOTE = 0x22
const BACKSLASH = 0x5c
/** `[` and `{`; each closes two further on in ASCII. */
const OPENS = [0x5b, 0x7b]
const CLOSES = [0x5d, 0x7d]

/** Deeper than any document of ours, and shallow enough for every reader. */
export const DEEPEST = 200

/**
 * Whether lists and objects of a JSON text lie deeper in one another than `most`. Found before the text is parsed: a
 * parser takes time and memory that grow with the depth. Of a text that is no JSON, this says nothing.
 */
export function nestsDeeper(text: Uint8Array, most: number): boolean {
  let depth = 0
  let isInString = false
  for (let i = 0; i < text.length; i++) {
    const byte = text[i]!
    if (isInString) {
      if (byte === BACKSLASH) i++
      else if (byte === QUOTE) isInString = false
    } else if (byte === QUOTE) isInString = true
    else if (byte === OPENS[0] || byte === OPENS[1]) {
      depth++
      if (depth > most) return true
    } else if (byte === CLOSES[0] || byte === CLOSES[1]) depth--
  }
  return false
}
