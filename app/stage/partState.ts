import { DataTexture, NearestFilter, RGBAFormat, UnsignedByteType } from 'three'

/** Parts in a row of the state texture. Per part: red is 255 where it is hidden, green where it is selected. */
const PART_ROW = 1024

/** The marks of all parts, and where those of one are. */
export const STATE_DECLARATION = `uniform highp sampler2D ubState;
ivec2 ubPartCell(int part) { return ivec2(part % ${PART_ROW}, part / ${PART_ROW}); }`
/** Moves the vertices of hidden parts out of the view. Needs `int ubPart`. */
export const HIDE_VERTEX = `vec4 ubMark = texelFetch(ubState, ubPartCell(ubPart), 0);
if (ubMark.r > 0.5) gl_Position = vec4(2.0, 2.0, 2.0, 1.0);`

/** One color or mark per part, as a texture that is read by part number. */
export function partTexture(parts: number, fill: (part: number, bytes: Uint8Array, at: number) => void): DataTexture {
  const height = Math.max(1, Math.ceil(parts / PART_ROW))
  const bytes = new Uint8Array(PART_ROW * height * 4)
  for (let i = 0; i < parts; i++) fill(i, bytes, i * 4)
  const texture = new DataTexture(bytes, PART_ROW, height, RGBAFormat, UnsignedByteType)
  texture.minFilter = texture.magFilter = NearestFilter
  texture.needsUpdate = true
  return texture
}

export const stateTexture = (parts: number, selected: ReadonlySet<number>, hidden: ReadonlySet<number>): DataTexture =>
  partTexture(parts, (i, bytes, at) => {
    bytes[at] = hidden.has(i) ? 255 : 0
    bytes[at + 1] = selected.has(i) ? 255 : 0
  })
