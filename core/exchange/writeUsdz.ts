import { zipSync, type Zippable } from 'fflate'

declare class TextEncoder {
  encode(text: string): Uint8Array
}

/** Every file in the package begins at a multiple of so many bytes. */
const ALIGNED = 64
/** Bytes of a local file header before the name (APPNOTE 4.3.7), and of the head of an extra field (4.5.1). */
const HEADER = 30
const EXTRA = 4
/** An extra field that nobody knows: its content is skipped. */
const PADDING = 0x1986

/**
 * Packs a USD layer with its pictures: a zip whose files are stored as they are, each aligned to 64 bytes, the layer
 * first ("Usdz File Format Specification", 1.3).
 * @param layer its name and text; paths in it are relative to it
 * @param pictures by those paths
 */
export function writeUsdz(
  layer: { name: string; text: string },
  pictures: ReadonlyMap<string, Uint8Array>,
): Uint8Array {
  const encoder = new TextEncoder()
  const files: [string, Uint8Array][] = [[layer.name, encoder.encode(layer.text)], ...pictures]
  const packed: Zippable = {}
  let offset = 0
  for (const [name, bytes] of files) {
    const before = offset + HEADER + encoder.encode(name).length + EXTRA
    const padding = (ALIGNED - (before % ALIGNED)) % ALIGNED
    // Always the same time: the same delivery is the same file.
    packed[name] = [bytes, { level: 0, mtime: '1980-01-01T00:00:00', extra: { [PADDING]: new Uint8Array(padding) } }]
    offset = before + padding + bytes.length
  }
  return zipSync(packed)
}
