import { encodeSrgb } from '../color/convert'
import type { LaidLook } from '../evaluate/laidLook'
import { smallView } from '../evaluate/view'
import { CHANNEL_NAMES, type Channel } from '../graph/types'
import type { MeshTables } from '../evaluate/tables'

/** One cell of the sheet, in pixels. */
const WIDTH = 320
const HEIGHT = 240
const GAP = 4
const GRAY = 118

/**
 * A contact sheet: one row for each look, in it the base color in plain light and then every channel that the look
 * sets, gray for numbers. A height is fitted between its lowest and highest.
 * @returns RGB bytes, row by row from the top
 */
export function contactSheet(
  tables: MeshTables,
  looks: readonly LaidLook[],
): { width: number; height: number; data: Uint8Array } {
  const view = smallView(tables.mesh, tables.parts, WIDTH, HEIGHT)
  const shown: Channel[] = CHANNEL_NAMES.filter(
    c => ['baseColor', 'metalness', 'roughness'].includes(c) || looks.some(l => l.program.sets.has(c)),
  )
  const width = shown.length * (WIDTH + GAP) + GAP
  const height = looks.length * (HEIGHT + GAP) + GAP
  const data = new Uint8Array(width * height * 3).fill(GRAY)
  looks.forEach((laid, row) => {
    const { program } = laid
    const columns = laid.sampler(shown.flatMap(c => program.result[c]))(view.points)
    let at = 0
    shown.forEach((channel, cell) => {
      const lanes = columns.slice(at, (at += program.result[channel].length))
      const color = lanes.length === 3 ? lanes : [lanes[0]!, lanes[0]!, lanes[0]!]
      let low = 0
      let high = 1
      if (channel === 'height') for (const x of lanes[0]!) [low, high] = [Math.min(low, x), Math.max(high, x)]
      view.pixel.forEach((pixel, i) => {
        const x = GAP + cell * (WIDTH + GAP) + (pixel % WIDTH)
        const y = GAP + row * (HEIGHT + GAP) + Math.floor(pixel / WIDTH)
        for (let k = 0; k < 3; k++) {
          const value = (color[k]![i]! - low) / (high - low)
          const shade = channel === 'baseColor' ? view.shade[i]! ** 2 : 1
          const isColor = channel === 'baseColor' || channel === 'emission'
          const lit = isColor ? encodeSrgb(Math.max(0, value) * shade) : value
          data[(y * width + x) * 3 + k] = Math.round(Math.min(1, Math.max(0, lit)) * 255)
        }
      })
    })
  })
  return { width, height, data }
}
