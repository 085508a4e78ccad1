import { Option } from 'commander'
import { STILL_PARTS, STILL_VIEWS } from '../core/light/still'
import { RIGS, type RigName } from '../core/trace/rigs'
import { oneOf } from './command'
import { UsageError } from './usage'

/** Most pixels along a side of a picture that is rendered. */
const MOST_PIXELS = 8192

export interface Size {
  width: number
  height: number
}

/** Reads WIDTHxHEIGHT. @throws UsageError */
function sizeOf(text: string): Size {
  const found = /^(\d+)x(\d+)$/.exec(text)
  const width = Number(found?.[1])
  const height = Number(found?.[2])
  if (!(width > 0 && height > 0 && width <= MOST_PIXELS && height <= MOST_PIXELS))
    throw new UsageError(`--size takes WIDTHxHEIGHT in pixels, up to ${MOST_PIXELS} each, not "${text}".`)
  return { width, height }
}

/** Width and height of a picture. */
export const sizeOption = (size: Size): Option =>
  new Option('--size <widthxheight>', 'pixels').argParser(sizeOf).default(size, `${size.width}x${size.height}`)

const RIG_NAMES = Object.keys(RIGS) as RigName[]
/** Which of the stage's rigs lights a picture. */
export const rigOption = (): Option =>
  new Option('--rig <name>', RIG_NAMES.join(', ')).argParser(oneOf('rig', RIG_NAMES)).default('overcast')

/** What pictures show. */
export const showOption = (): Option =>
  new Option('--show <what>', STILL_VIEWS.join(', ')).argParser(oneOf('show', STILL_VIEWS)).default('finished')

/** What stands behind the mesh, as on the stage, encoded for display. */
export const STAGE_GRAY: [number, number, number] = [178 / 255, 178 / 255, 178 / 255]

/** What is left out of finished pictures. */
export const withoutOption = (): Option =>
  new Option('--without <what>', `${STILL_PARTS.join(', ')}, with commas between several`)
    .argParser((text: string) => text.split(',').map(oneOf('without', STILL_PARTS)))
    .default([], 'nothing')
