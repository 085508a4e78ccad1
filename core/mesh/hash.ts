/** 64 bits of text, as two words: FNV-1a forward and backward, then the finalizer of MurmurHash3. */
export function hashText(text: string): [number, number] {
  let h = 0x811c9dc5
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193)
  let g = 0x2545f491
  for (let i = text.length - 1; i >= 0; i--) g = Math.imul(g ^ text.charCodeAt(i), 0x01000193)
  return [finish(h), finish(g)]
}

function finish(x: number): number {
  x = Math.imul(x ^ (x >>> 16), 0x85ebca6b)
  x = Math.imul(x ^ (x >>> 13), 0xc2b2ae35)
  return (x ^ (x >>> 16)) >>> 0
}

/** A key: 16 hexadecimal digits of a text's hash. */
export const keyOf = (text: string): string =>
  hashText(text)
    .map(w => w.toString(16).padStart(8, '0'))
    .join('')
export const keyWords = (key: string): [number, number] => [parseInt(key.slice(0, 8), 16), parseInt(key.slice(8), 16)]
/** A number in [0, 1) from a key and a seed. */
export const drawOf = (key: string, seed: number): number => hashText(`${key}:${seed}`)[0] / 2 ** 32
