import { decodeSrgb } from '../color/convert'
import type { SurfacePicture, SurfaceUse } from '../mesh/mesh'
import { lines } from './lines'
import type { Surface } from './meshFile'

/** The media type of a picture, by the ending of its name. */
function pictureType(name: string): string {
  if (/\.png$/i.test(name)) return 'image/png'
  return /\.jpe?g$/i.test(name) ? 'image/jpeg' : 'application/octet-stream'
}

/** What the pictures of a material library are for, by their statement. */
const MTL_PICTURES: Record<string, SurfaceUse> = {
  map_Kd: 'base color',
  map_Pr: 'roughness',
  map_Pm: 'metalness',
  map_Bump: 'bump',
  map_bump: 'bump',
  bump: 'bump',
  norm: 'normal',
  map_Ke: 'emission',
  map_d: 'opacity',
}

/**
 * The roughness that a Phong exponent looks like: its distribution's width (Walter et al. 2007, section 5.2), whose
 * root glTF calls roughness.
 */
const roughnessOf = (exponent: number): number => (2 / (Math.max(0, exponent) + 2)) ** 0.25

/** The options that stand before the name of a picture: each with its numbers. */
function mtlOptions(words: string[]): { options: Map<string, string[]>; name: string } {
  const options = new Map<string, string[]>()
  let i = 0
  while (/^-[a-z]/i.test(words[i] ?? '')) {
    const option = words[i++]!
    const values: string[] = []
    while (i < words.length - 1 && /^(-?[\d.]+(e-?\d+)?|on|off)$/i.test(words[i]!)) values.push(words[i++]!)
    options.set(option, values)
  }
  return { options, name: words.slice(i).join(' ') }
}

/**
 * Where a picture of a material library lies. Its v runs upward and ours down, so what is moved up there is moved down
 * here.
 */
function mtlPlace(options: Map<string, string[]>): Pick<SurfacePicture, 'placed' | 'beyond'> {
  const pair = (option: string, otherwise: number) => {
    const [x, y] = (options.get(option) ?? []).map(Number)
    return [x ?? otherwise, y ?? otherwise] as const
  }
  const [su, sv] = pair('-s', 1)
  const [ou, ov] = pair('-o', 0)
  const moved = su !== 1 || sv !== 1 || ou !== 0 || ov !== 0
  return {
    ...(moved && { placed: { move: [ou, 1 - sv - ov], turn: 0, scale: [su, sv] } }),
    ...(options.get('-clamp')?.[0] === 'on' && { beyond: ['edge', 'edge'] }),
  }
}

/**
 * Reads MTL: diffuse color (sRGB), what glows, opacity, the metalness and roughness that many writers add, and
 * pictures.
 */
export function readMtl(
  bytes: Uint8Array,
  file: (name: string) => Uint8Array | undefined,
  warnings: string[],
): Surface[] {
  const surfaces: Surface[] = []
  // Roughness that is said outright goes before that of a highlight.
  const told = new Set<Surface>()
  const linear = (n: number[]) => n.slice(0, 3).map(decodeSrgb) as Surface['baseColor']
  const numbers: Record<string, { least: number; take: (surface: Surface, n: number[]) => void }> = {
    Kd: { least: 3, take: (s, n) => void (s.baseColor = linear(n)) },
    Ke: { least: 3, take: (s, n) => n.some(x => x > 0) && (s.emission = linear(n)) },
    Pm: { least: 1, take: (s, n) => void (s.metalness = n[0]!) },
    Pr: {
      least: 1,
      take(s, n) {
        s.roughness = n[0]!
        told.add(s)
      },
    },
    Ns: { least: 1, take: (s, n) => !told.has(s) && (s.roughness = roughnessOf(n[0]!)) },
    d: { least: 1, take: (s, n) => n[0]! < 1 && (s.opacity = n[0]!) },
    Tr: { least: 1, take: (s, n) => n[0]! > 0 && (s.opacity = 1 - n[0]!) },
  }
  for (const line of lines(bytes)) {
    const [word = '', ...rest] = line.trim().split(/\s+/)
    const surface = surfaces.at(-1)
    if (word === 'newmtl') {
      surfaces.push({ name: rest.join(' '), baseColor: [0.5, 0.5, 0.5], metalness: 0, roughness: 0.5, textures: [] })
      continue
    }
    if (!surface) continue
    const n = rest.map(Number)
    const known = numbers[word]
    if (known && n.length >= known.least && n.slice(0, known.least).every(Number.isFinite)) known.take(surface, n)
    const use = MTL_PICTURES[word]
    if (!use) continue
    const { options, name } = mtlOptions(rest)
    const picture = file(name)
    if (picture) surface.textures.push({ use, type: pictureType(name), bytes: picture, ...mtlPlace(options) })
    else warnings.push(`The picture "${name}" was not brought along; its material goes on without it.`)
  }
  for (const s of surfaces) if (s.textures.some(t => t.use === 'opacity')) s.opacity ??= 1
  return surfaces
}
