import { toLab, toLch, type Triple } from '../color/convert'
import { colorDifference } from '../color/difference'
import { clusters, pullPalette, type Pulled } from '../color/palette'
import type { Picture } from '../evaluate/pictures'
import { LaidLook } from '../evaluate/laidLook'
import type { MeshTables } from '../evaluate/tables'
import { titleOf } from '../graph/check'
import { kindFor, paramOf } from '../graph/kinds'
import type { Look } from '../graph/look'
import { stripOf } from '../graph/strip'
import type { Kernels } from '../kernels/kernels'
import { samplePoints } from '../mesh/sample'
import type { Program } from '../program/lower'
import type { Ref } from '../program/ops'
import { paletteDistance } from './earthMover'

/** What a look comes to in numbers. Spreads are standard deviations over the parts, weighed by their area. */
export interface SheetNumbers {
  /** Of OKLCH lightness, 0 to 1, and of chroma. */
  lightness: number
  chroma: number
  /** Of hue in degrees: the circular one, weighed by chroma. */
  hue: number
  /** Of roughness. */
  roughness: number
  /**
   * The share of touching pairs of parts whose colors are hard to tell apart; undefined while it is not known which
   * touch.
   */
  alike?: number
  /** Colors by area, the largest first; shares add up to 1. */
  palette: Pulled[]
  /**
   * Of each step of the look, from the first that is laid over the base: the share of the surface where its mask is
   * above a half.
   */
  steps: { title: string; share: number }[]
  /** How far the palette is from a reference's: see {@link paletteDistance}. */
  away?: number
}

/** Points behind the numbers. */
const POINTS = 8192
/** Points behind statistics of a look that is compared. */
export const STATISTICS = 16_384
/** Colors of a palette. */
const COLORS = 6
/** The palette of a whole picture, to hold that of a look against. */
export const paletteOf = (picture: Picture): Pulled[] =>
  pullPalette(picture, { x: 0, y: 0, width: 1, height: 1 }, COLORS)
/** CIEDE2000 below which two parts side by side look alike. */
const ALIKE = 3

/**
 * The numbers of a look on a mesh.
 * @param reference the palette of a picture that the look is to come close to
 */
export function sheetNumbers(
  kernels: Kernels,
  tables: MeshTables,
  look: Look,
  reference?: readonly Pulled[],
): SheetNumbers {
  const laid = LaidLook.of(kernels, tables, look)
  const { program } = laid
  const points = samplePoints(tables.mesh, POINTS)
  const { baseColor, roughness } = program.result
  const masks = masksOf(look, program)
  const [r, g, b, rough, ...covers] = laid.sampler(
    [...baseColor, ...roughness, ...masks.flatMap(m => m.ref ?? [])],
    STATISTICS,
  )(points) as [Float32Array, Float32Array, Float32Array, Float32Array, ...Float32Array[]]
  const { partOfTriangle, parts } = tables.parts
  const sums = parts.map(() => ({ count: 0, color: [0, 0, 0] as Triple, roughness: 0 }))
  for (let i = 0; i < points.count; i++) {
    const sum = sums[partOfTriangle[points.triangle[i]!]!]!
    sum.count++
    sum.color[0] += r[i]!
    sum.color[1] += g[i]!
    sum.color[2] += b[i]!
    sum.roughness += rough[i]!
  }
  const means = sums.map(s => ({
    weight: s.count / points.count,
    color: s.color.map(x => x / Math.max(1, s.count)) as Triple,
    roughness: s.roughness / Math.max(1, s.count),
  }))
  const seen = means.filter(m => m.weight > 0)
  const lch = seen.map(m => toLch(m.color))
  const weights = seen.map(m => m.weight)
  const palette = clusters(
    Array.from({ length: points.count }, (_, i) => toLab([r[i]!, g[i]!, b[i]!])),
    COLORS,
  )
  const pairs = tables.touchingKnown?.() ? tables.touching?.().pairs : undefined
  const alike = pairs?.length ? shareAlike(pairs, means) : undefined
  return {
    lightness: spread(
      lch.map(c => c[0]),
      weights,
    ),
    chroma: spread(
      lch.map(c => c[1]),
      weights,
    ),
    hue: hueSpread(lch, weights),
    roughness: spread(
      seen.map(m => m.roughness),
      weights,
    ),
    palette,
    steps: masks.map(({ title, ref, fixed }) => ({
      title,
      share: ref === undefined ? Number(fixed > HALF) : shareAbove(covers.shift()!),
    })),
    ...(alike !== undefined && { alike }),
    ...(reference?.length && { away: paletteDistance(palette, reference) }),
  }
}

/** Where the mask of a step counts as there. */
const HALF = 0.5
const shareAbove = (values: Float32Array): number => values.filter(x => x > HALF).length / Math.max(1, values.length)

/** The masks of a look's steps that are switched on: each a value of its program, or the number that is set. */
function masksOf(look: Look, program: Program): { title: string; ref?: Ref; fixed: number }[] {
  return (stripOf(look)?.steps ?? []).flatMap(({ node, mask }) => {
    if (node.off) return []
    const value = mask && program.outputs.get(`${mask.node}/${mask.port}`)
    const title = titleOf(node)
    if (value?.type === 'value') return [{ title, ref: value.value, fixed: 0 }]
    return kindFor(node)?.inputs.mask ? [{ title, fixed: Number(paramOf(node, 'mask')) }] : []
  })
}

/** A weighed standard deviation. @param weights they add up to 1 */
function spread(values: readonly number[], weights: readonly number[]): number {
  const mean = values.reduce((sum, x, i) => sum + x * weights[i]!, 0)
  return Math.sqrt(values.reduce((sum, x, i) => sum + (x - mean) ** 2 * weights[i]!, 0))
}

/**
 * The circular standard deviation of hues in degrees (Mardia and Jupp, "Directional Statistics", 2000); grays count
 * little.
 */
function hueSpread(lch: readonly Triple[], weights: readonly number[]): number {
  let [x, y, total] = [0, 0, 0]
  lch.forEach(([, chroma, hue], i) => {
    const weight = weights[i]! * chroma
    x += weight * Math.cos((hue * Math.PI) / 180)
    y += weight * Math.sin((hue * Math.PI) / 180)
    total += weight
  })
  if (total < 1e-9) return 0
  const length = Math.min(1, Math.hypot(x, y) / total)
  return length > 1 - 1e-12 ? 0 : (Math.sqrt(-2 * Math.log(length)) * 180) / Math.PI
}

function shareAlike(pairs: Uint32Array, means: readonly { weight: number; color: Triple }[]): number {
  let alike = 0
  let all = 0
  for (let i = 0; i < pairs.length; i += 2) {
    const [a, b] = [means[pairs[i]!]!, means[pairs[i + 1]!]!]
    if (!a.weight || !b.weight) continue
    all++
    if (colorDifference(a.color, b.color) < ALIKE) alike++
  }
  return all ? alike / all : 0
}
