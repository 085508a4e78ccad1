/** Sizes of pictures of light, from the heads of their files: they are looked at before anybody decodes one. */

/** Pixels of a picture of light. */
const MOST_PIXELS = 16384 * 8192
/** Bytes of its file. */
export const LIGHT_BYTES = 256 * 2 ** 20
/** Where the head of a file ends at the latest, in bytes. */
const HEAD = 65_536

/** Little-endian bytes that an OpenEXR file begins with. */
const EXR_BEGINS = [0x76, 0x2f, 0x31, 0x01]

export type LightKind = 'exr' | 'hdr'

/** What a file is by its first bytes: OpenEXR or Radiance HDR; undefined where it is neither. */
export function lightKind(bytes: Uint8Array): LightKind | undefined {
  if (EXR_BEGINS.every((b, i) => bytes[i] === b)) return 'exr'
  return bytes[0] === 0x23 && bytes[1] === 0x3f ? 'hdr' : undefined
}

/**
 * Width and height that the attribute `dataWindow` of an OpenEXR header says: four 32-bit integers, both ends included.
 */
export function exrSize(bytes: Uint8Array): [number, number] | undefined {
  const text = String.fromCharCode(...bytes.subarray(0, HEAD))
  const name = 'dataWindow\0box2i\0'
  const at = text.indexOf(name)
  const from = at + name.length + 4
  if (at < 0 || from + 16 > bytes.length) return undefined
  const view = new DataView(bytes.buffer, bytes.byteOffset + from, 16)
  const [left, top, right, bottom] = [0, 4, 8, 12].map(k => view.getInt32(k, true)) as [number, number, number, number]
  return [right - left + 1, bottom - top + 1]
}

/**
 * What kind of picture of light a file is.
 * @throws Error with a sentence where it is none, or larger than can be read
 */
export function checkLight(name: string, bytes: Uint8Array): LightKind {
  const kind = lightKind(bytes)
  if (!kind) throw new Error(`${name} is no picture of light; Radiance HDR and OpenEXR files are.`)
  const text = String.fromCharCode(...bytes.subarray(0, HEAD))
  const said = /-Y (\d+) \+X (\d+)/.exec(text)
  const size = kind === 'exr' ? exrSize(bytes) : said && ([Number(said[2]), Number(said[1])] as const)
  if (!size || !(size[0] > 0 && size[1] > 0))
    throw new Error(`${name} does not say how large it is; its file is broken.`)
  const [width, height] = size
  if (width * height > MOST_PIXELS) {
    throw new Error(
      `${name} has ${width} x ${height} pixels, which is more than the ${MOST_PIXELS / 2 ** 20} megapixels that can be read.`,
    )
  }
  return kind
}
