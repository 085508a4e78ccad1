import { decode } from 'fast-png'
import { exrPicture } from '../../core/exchange/readExr'
import { fineOf, isExr, isFine, rgbaOf, type DecodedPng, type Picture } from '../../core/evaluate/pictures'

/** Texels that are decoded here: the browser makes larger pictures smaller. */
const MOST_TEXELS = 8192 * 8192

/**
 * A picture that a look names, from its file: PNG, or OpenEXR for numbers.
 * @throws Error with a sentence where it is broken, too large (which its head tells before it is decoded), or of
 * another kind
 */
export function readPicture(name: string, bytes: Uint8Array): Picture {
  if (isExr(name)) return exrPicture(name, bytes)
  return { name, ...rgbaOf(decoded(name, bytes)) }
}

/** The same of a picture of normals, with all of its bits where it is a PNG of 16 bits to a number. */
export function readNormals(name: string, bytes: Uint8Array): Picture {
  return isFine(bytes) ? { name, ...fineOf(decoded(name, bytes)) } : readPicture(name, bytes)
}

function decoded(name: string, bytes: Uint8Array): DecodedPng {
  const head = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (bytes.length < 24 || head.getUint32(16) * head.getUint32(20) > MOST_TEXELS) {
    throw new Error(
      `The picture ${name} is larger than 8192 x 8192 pixels and has not been made smaller by a browser yet; open the project and deliver from there.`,
    )
  }
  try {
    return decode(bytes)
  } catch {
    throw new Error(`The picture ${name} is a PNG that cannot be read.`)
  }
}
