import { CHANNEL_NAMES, type Channel } from '../../graph/types'
import { percent, type ValueCheck } from './declare'

/** Base colors of real surfaces: luminance of coal and of fresh snow, and of the darkest bare metal in use. */
const DARKEST = 0.015
const LIGHTEST = 0.92
const DARKEST_METAL = 0.12
/** Shares of the area from which a finding is worth the artist's time. */
const MUCH = 0.05
const VERY_MUCH = 0.25

export default {
  about: 'what no real surface has',
  run(checked) {
    const { end, program, points } = checked
    if (!end) return
    const at = Object.fromEntries(CHANNEL_NAMES.map(c => [c, checked.valuesAt(program.result[c], points)])) as Record<
      Channel,
      Float32Array[]
    >
    let dark = 0
    let light = 0
    let dull = 0
    let between = 0
    for (let i = 0; i < points.count; i++) {
      const [r, g, b] = at.baseColor.map(c => c[i]!) as [number, number, number]
      const y = 0.2126 * r + 0.7152 * g + 0.0722 * b
      const metal = at.metalness[0]![i]!
      if (metal > 0.1 && metal < 0.9) between++
      if (metal > 0.5) dull += Number(y < DARKEST_METAL)
      else {
        dark += Number(y < DARKEST)
        light += Number(y > LIGHTEST)
      }
    }
    const share = (x: number) => x / points.count
    if (share(dark) > VERY_MUCH)
      checked.warn(
        end,
        `The base color is darker than coal on ${percent(share(dark))} of the surface; light that bounces there is lost, and it looks like a hole.`,
      )
    if (share(light) > MUCH)
      checked.warn(
        end,
        `The base color is lighter than fresh snow on ${percent(share(light))} of the surface; it will glow under strong light.`,
      )
    if (share(dull) > MUCH)
      checked.warn(
        end,
        `On ${percent(share(dull))} of the surface a metal reflects less than any bare metal does. Dirt and paint over metal have metalness 0.`,
      )
    if (share(between) > VERY_MUCH)
      checked.warn(
        end,
        `The metalness is neither 0 nor 1 on ${percent(share(between))} of the surface. Real surfaces are one or the other; only edges between them are in between.`,
      )
  },
} satisfies ValueCheck
