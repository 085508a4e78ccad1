import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js'
import { FloatType } from 'three'
import type { Picture } from '../evaluate/pictures'

/** Rows from the top, `lanes` numbers to a pixel. */
export interface Decoded {
  width: number
  height: number
  lanes: number
  data: Float32Array
}

/** Both corners of a window, the last pixel included. */
interface ExrBox {
  min: { x: number; y: number }
  max: { x: number; y: number }
}

interface Parsed extends Decoded {
  header: { dataWindow: RawBox; displayWindow: RawBox; channels: { name: string }[] }
}
interface RawBox {
  xMin: number
  yMin: number
  xMax: number
  yMax: number
}
const boxOf = ({ xMin, yMin, xMax, yMax }: RawBox): ExrBox => ({
  min: { x: xMin, y: yMin },
  max: { x: xMax, y: yMax },
})

function parse(bytes: ArrayBuffer): Parsed {
  const parsed = new EXRLoader().setDataType(FloatType).parse(bytes) as unknown as Parsed
  const { width, height, data } = parsed
  if (!width || !height || !(data instanceof Float32Array)) throw new Error('nothing in it')
  const lanes = data.length / (width * height)
  // That reader gives rows from the bottom.
  const turned = new Float32Array(data.length)
  const row = width * lanes
  for (let y = 0; y < height; y++) turned.set(data.subarray(y * row, (y + 1) * row), (height - 1 - y) * row)
  return { ...parsed, width, height, lanes, data: turned }
}

/** The numbers of an EXR picture as they are, row by row from the top. @throws Error where it cannot be read */
export function readExr(bytes: ArrayBuffer): Decoded {
  const { width, height, lanes, data } = parse(bytes)
  return { width, height, lanes, data }
}

/**
 * An EXR file as a picture of the project: its numbers as they are. Where the data window is larger than the display
 * window, or lies elsewhere, the display window is one tile of the UVs and the data window says which tiles the picture
 * covers.
 * @throws Error with a sentence where it cannot be read
 */
export function exrPicture(name: string, bytes: Uint8Array): Picture {
  let parsed: Parsed
  try {
    parsed = parse(bytes.slice().buffer as ArrayBuffer)
  } catch {
    throw new Error(`${name} cannot be read: its file is broken, or packed in a way that is not known here.`)
  }
  const { width, height, lanes, data, header } = parsed
  const window = boxOf(header.dataWindow)
  const tile = boxOf(header.displayWindow)
  const across = tile.max.x - tile.min.x + 1
  const down = tile.max.y - tile.min.y + 1
  const covers = [
    (window.min.x - tile.min.x) / across,
    (window.min.y - tile.min.y) / down,
    width / across,
    height / down,
  ] as [number, number, number, number]
  const elsewhere = covers[0] !== 0 || covers[1] !== 0 || covers[2] !== 1 || covers[3] !== 1
  const single = header.channels.length === 1
  // That reader spreads one channel over all four.
  const numbers = single && lanes > 1 ? data.filter((_, i) => i % lanes === 0) : data
  return { name, width, height, data: numbers, ...(single && { lanes: 1 as const }), ...(elsewhere && { covers }) }
}
