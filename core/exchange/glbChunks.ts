declare class TextDecoder {
  decode(bytes: Uint8Array): string
}
declare class TextEncoder {
  encode(text: string): Uint8Array
}

const HEADER = 12
const CHUNK_HEADER = 8
const SPACE = 0x20

/**
 * A GLB with its JSON changed; what is behind it stays as it is (glTF 2.0, section 4.4).
 * @param change gets the JSON and changes it in place
 */
export function withJson(glb: Uint8Array, change: (json: Record<string, unknown>) => void): Uint8Array {
  const view = new DataView(glb.buffer, glb.byteOffset, glb.byteLength)
  const length = view.getUint32(HEADER, true)
  const begin = HEADER + CHUNK_HEADER
  const json = JSON.parse(new TextDecoder().decode(glb.subarray(begin, begin + length))) as Record<string, unknown>
  change(json)
  const text = new TextEncoder().encode(JSON.stringify(json))
  const padded = Math.ceil(text.length / 4) * 4
  const rest = glb.subarray(begin + length)
  const out = new Uint8Array(begin + padded + rest.length).fill(SPACE)
  out.set(glb.subarray(0, begin))
  out.set(text, begin)
  out.set(rest, begin + padded)
  const written = new DataView(out.buffer)
  written.setUint32(8, out.length, true)
  written.setUint32(HEADER, padded, true)
  return out
}
