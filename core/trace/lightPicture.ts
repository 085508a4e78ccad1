import { HDRLoader } from 'three/examples/jsm/loaders/HDRLoader.js'
import { FloatType } from 'three'
import { readExr, type Decoded } from '../exchange/readExr'
import type { Surroundings } from './light'
import { checkLight } from './lightHead'

/** Wider pictures are made smaller: light has no finer detail than the mirror ball shows. In pixels. */
const WIDEST = 2048

function decode(kind: 'exr' | 'hdr', bytes: ArrayBuffer): Decoded {
  if (kind === 'exr') return readExr(bytes)
  const { width, height, data } = new HDRLoader().setDataType(FloatType).parse(bytes)
  if (!width || !height || !(data instanceof Float32Array)) throw new Error('nothing in it')
  return { width, height, lanes: data.length / (width * height), data }
}

/** Light is never negative and never without end. */
const clean = (x: number): number => (Number.isFinite(x) ? Math.max(0, x) : 0)

/** The mean of each block of `step` x `step` pixels, three numbers to each; gray pictures have one for all three. */
function reduced({ width, height, lanes, data }: Decoded, step: number): Surroundings {
  const across = Math.max(1, Math.floor(width / step))
  const down = Math.max(1, Math.floor(height / step))
  const out = new Float32Array(across * down * 3)
  for (let y = 0; y < height; y++) {
    const row = Math.min(down - 1, Math.floor(y / step))
    for (let x = 0; x < width; x++) {
      const to = (row * across + Math.min(across - 1, Math.floor(x / step))) * 3
      const from = (y * width + x) * lanes
      for (let k = 0; k < 3; k++) out[to + k]! += clean(data[from + Math.min(k, lanes - 1)]!)
    }
  }
  const lastColumn = width - (across - 1) * step
  const lastRow = height - (down - 1) * step
  for (let i = 0; i < across * down; i++) {
    const wide = i % across === across - 1 ? lastColumn : step
    const tall = Math.floor(i / across) === down - 1 ? lastRow : step
    for (let k = 0; k < 3; k++) out[i * 3 + k]! /= wide * tall
  }
  return { width: across, height: down, data: out }
}

/**
 * Reads a picture of surroundings: Radiance HDR or OpenEXR, by longitude and latitude from straight up, linear.
 * @param bytes the whole file
 * @throws Error with one sentence where it is neither, broken or too large
 */
export function readLight(name: string, bytes: ArrayBuffer): Surroundings {
  const kind = checkLight(name, new Uint8Array(bytes))
  let decoded: Decoded
  try {
    decoded = decode(kind, bytes)
  } catch {
    throw new Error(`${name} cannot be read: its file is broken, or packed in a way that is not known here.`)
  }
  return reduced(decoded, Math.ceil(decoded.width / WIDEST))
}
