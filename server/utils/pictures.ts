import { exrSize, lightKind } from '../../core/trace/lightHead'
import type { PictureType } from '../../node/store/pictureTypes'
import { refuse } from './requests'

/** Bytes of a picture's file. */
export const PICTURE_BYTES = 256 * 2 ** 20
/** Texels of a picture: decoded, they take four bytes each. */
const MOST_TEXELS = 16384 * 16384

interface PictureHead {
  width: number
  height: number
}
interface PictureKind {
  type: PictureType
  begins: (b: Buffer) => boolean
  head: (b: Buffer) => PictureHead | undefined
}

const pngHead = (b: Buffer): PictureHead | undefined =>
  b.length < 24 ? undefined : { width: b.readUInt32BE(16), height: b.readUInt32BE(20) }

/** A frame header lies before this byte: what stands before are tables and what cameras write. */
const JPEG_HEAD = 16 * 2 ** 20

/** How many bytes may fill up a head (T.81, B.1.1.2). */
const JPEG_FILL = 4096

/** The frame header (SOF0 to SOF15, but for the tables among them) of a JPEG, ITU-T T.81, B.2.2. */
function jpegHead(b: Buffer): PictureHead | undefined {
  const tables = [0xc4, 0xc8, 0xcc]
  let filled = 0
  for (let at = 2; at + 9 < b.length;) {
    if (at > JPEG_HEAD || b[at] !== 0xff) return undefined
    const marker = b[at + 1]!
    // Bytes that fill up. Nobody needs many.
    if (marker === 0xff) {
      filled++
      if (filled > JPEG_FILL) return undefined
      at++
      continue
    }
    if (marker >= 0xc0 && marker <= 0xcf && !tables.includes(marker))
      return { width: b.readUInt16BE(at + 7), height: b.readUInt16BE(at + 5) }
    at += 2 + b.readUInt16BE(at + 2)
  }
  return undefined
}

/** RFC 9649: the first chunk says the size, in one of three ways. */
function webpHead(b: Buffer): PictureHead | undefined {
  if (b.length < 30) return undefined
  const chunk = b.toString('latin1', 12, 16)
  if (chunk === 'VP8X') return { width: b.readUIntLE(24, 3) + 1, height: b.readUIntLE(27, 3) + 1 }
  if (chunk === 'VP8 ') return { width: b.readUInt16LE(26) & 0x3fff, height: b.readUInt16LE(28) & 0x3fff }
  if (chunk !== 'VP8L') return undefined
  const bits = b.readUInt32LE(21)
  return { width: (bits & 0x3fff) + 1, height: ((bits >>> 14) & 0x3fff) + 1 }
}

/** OpenEXR: what its attribute `dataWindow` says. */
function exrHead(b: Buffer): PictureHead | undefined {
  const [width, height] = exrSize(b) ?? []
  return width && height ? { width, height } : undefined
}

/** Kinds of pictures that a look reads, by how their files begin. */
const KINDS: readonly PictureKind[] = [
  { type: 'image/x-exr', begins: b => lightKind(b) === 'exr', head: exrHead },
  {
    type: 'image/png',
    begins: b => b.subarray(0, 8).equals(Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a])),
    head: pngHead,
  },
  { type: 'image/jpeg', begins: b => b[0] === 0xff && b[1] === 0xd8 && b[2] === 0xff, head: jpegHead },
  {
    type: 'image/webp',
    begins: b => b.toString('latin1', 0, 4) === 'RIFF' && b.toString('latin1', 8, 12) === 'WEBP',
    head: webpHead,
  },
]
export const pictureKind = (bytes: Buffer): PictureKind | undefined => KINDS.find(({ begins }) => begins(bytes))

/**
 * What kind of picture a file is, its size looked at before anybody decodes it.
 * @throws H3Error where it is none, or larger than can be decoded
 */
export function checkPicture(name: string, bytes: Buffer): string {
  const kind = pictureKind(bytes)
  if (!kind) throw refuse(422, `${name} is not a PNG, JPEG, WebP or EXR picture.`)
  const head = kind.head(bytes)
  if (!head?.width || !head.height) throw refuse(422, `${name} does not say how large it is; its file is broken.`)
  if (head.width * head.height > MOST_TEXELS)
    throw refuse(
      422,
      `${name} has ${head.width} x ${head.height} pixels, which is more than the ${MOST_TEXELS / 2 ** 20} megapixels that can be read.`,
    )
  return kind.type
}
