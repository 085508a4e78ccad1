import { decodeSrgb } from '../color/convert'
import { GROUP_MAP, type SurfacePicture, type SurfaceUse } from '../mesh/mesh'
import { lines } from './lines'
import {
  checkPositions,
  checkTriangles,
  fail,
  READ_LIMITS,
  type Found,
  type ReadOptions,
  type Surface,
} from './meshFile'
import { Floats, PieceBuilder } from './pieceBuilder'
import { triangulate } from './triangulate'

/** The media type of a picture, by the ending of its name. */
function pictureType(name: string): string {
  if (/\.png$/i.test(name)) return 'image/png'
  return /\.jpe?g$/i.test(name) ? 'image/jpeg' : 'application/octet-stream'
}

/**
 * Reads Wavefront OBJ: objects (`o`; without any, groups `g` are the objects), groups within objects as the vertex map
 * `group`, faces of any size, indices from the end, smoothing groups where there are no normals, colors after the
 * coordinates (taken as sRGB, kept linear as `COLOR_0`). V is turned to run downward, as in glTF.
 * @param resources MTL files and pictures, by name
 */
export function readObj(
  bytes: Uint8Array,
  resources: ReadonlyMap<string, Uint8Array>,
  options: ReadOptions = {},
): Found {
  const limits = options.limits ?? READ_LIMITS
  const warnings: string[] = []
  const surfaces: Surface[] = []
  const positions = new Floats()
  const uvs = new Floats()
  const normals = new Floats()
  const colors = new Floats()
  const builders = new Map<string, PieceBuilder>()
  const objects: Found['objects'] = []
  let named = false
  let object = ''
  let group = ''
  let material = ''
  let smooth = 0
  let triangles = 0
  let number = 0
  let face = 0
  let colored = 0
  let others = 0
  const groupNumbers = new Map<string, number>()
  const file = (name: string) => resources.get(name) ?? resources.get(name.replaceAll('\\', '/').split('/').pop()!)
  // An `o` after groups without one must not change what the groups before it were.
  for (const line of lines(bytes)) {
    if (/^\s*o\s/.test(line)) {
      named = true
      break
    }
  }
  const builder = (): PieceBuilder => {
    const name = (named ? object : group || object) || 'Object 1'
    const known = builders.get(name)
    if (known) return known
    const made = new PieceBuilder(builders.size, [
      { name: 'COLOR_0', components: 3 },
      { name: GROUP_MAP, components: 1 },
    ])
    builders.set(name, made)
    objects.push({ name, parents: [] })
    return made
  }
  let continued = ''
  for (const raw of lines(bytes)) {
    number++
    if (raw.endsWith('\\')) {
      continued += `${raw.slice(0, -1)} `
      continue
    }
    const line = (continued + raw).trim()
    continued = ''
    const space = line.search(/\s/)
    const word = space < 0 ? line : line.slice(0, space)
    const rest = space < 0 ? '' : line.slice(space + 1).trim()
    const numbers = (least: number): number[] => {
      const all = rest.split(/\s+/).map(Number)
      if (all.length < least || all.slice(0, least).some(x => !Number.isFinite(x)))
        fail(`Line ${number}: "${line.slice(0, 60)}" should have ${least} numbers.`)
      return all
    }
    if (word === 'v') {
      const n = numbers(3)
      positions.push(n[0]!, n[1]!, n[2]!)
      const rgb = n.length >= 6 ? n.slice(3, 6) : [1, 1, 1]
      if (n.length >= 6) colored++
      colors.push(...rgb.map(x => decodeSrgb(Number.isFinite(x) ? x : 1)))
    } else if (word === 'vt') {
      const n = numbers(1)
      uvs.push(n[0]!, 1 - (Number.isFinite(n[1]) ? n[1]! : 0))
    } else if (word === 'vn') {
      const n = numbers(3)
      normals.push(n[0]!, n[1]!, n[2]!)
    } else if (word === 'f') {
      const into = builder()
      const corners = rest.split(/\s+/)
      if (corners.length < 3) fail(`Line ${number}: a face needs three corners.`)
      face++
      const parsed = corners.map(c => {
        const [v, t, n] = c.split('/').map((text, k) => {
          if (!text) return -1
          const i = Number(text)
          const have = [positions.length / 3, uvs.length / 2, normals.length / 3][k]!
          const at = i < 0 ? have + i : i - 1
          if (!Number.isInteger(i) || i === 0 || at < 0 || at >= have)
            fail(`Line ${number}: the face names ${['vertex', 'UV', 'normal'][k]} ${text}, but there are only ${have}.`)
          return at
        })
        return { v: v!, t: t ?? -1, n: n ?? -1 }
      })
      if (parsed.some(c => c.v < 0)) fail(`Line ${number}: a corner of the face names no vertex.`)
      triangles += corners.length - 2
      checkTriangles(triangles, limits)
      let id = groupNumbers.get(group)
      if (id === undefined) groupNumbers.set(group, (id = groupNumbers.size))
      const xyz = (v: number) => [positions.at(v * 3), positions.at(v * 3 + 1), positions.at(v * 3 + 2)]
      // Without normals, corners are one in a smooth group, or in their face alone.
      const shared = smooth ? `s${smooth}` : `f${face}`
      const vertices = parsed.map(({ v, t, n }) =>
        into.vertex(
          { key: `${v}/${t}/${n >= 0 ? n : shared}/${id}`, position: xyz(v) },
          t >= 0 ? [uvs.at(t * 2), uvs.at(t * 2 + 1)] : undefined,
          n >= 0 ? [normals.at(n * 3), normals.at(n * 3 + 1), normals.at(n * 3 + 2)] : undefined,
          [[colors.at(v * 3), colors.at(v * 3 + 1), colors.at(v * 3 + 2)], [id]],
        ),
      )
      into.triangles(
        material,
        triangulate(vertices.length, i => xyz(parsed[i]!.v)).map(i => vertices[i]!),
      )
    } else if (word === 'o') object = rest
    else if (word === 'g') group = rest
    else if (word === 's') smooth = rest === 'off' ? 0 : Number(rest) || 0
    else if (word === 'usemtl') material = rest
    else if (word === 'mtllib') {
      const library = file(rest)
      if (library) surfaces.push(...readMtl(library, file, warnings))
      else warnings.push(`The material file "${rest}" was not brought along; the materials keep only their names.`)
    } else if (word === 'l' || word === 'p' || word === 'curv' || word === 'surf') others++
    else if (number < 50 && word && !/^[#a-z_]/i.test(word)) fail(`Line ${number} is not OBJ: "${line.slice(0, 60)}".`)
  }
  if (!triangles) fail('The file has no triangles.')
  if (others) warnings.push(`${others} lines, points or curves were left out.`)
  const pieces = [...builders.values()].map(b => b.finish())
  for (const p of pieces) {
    checkPositions(p.positions, objects[p.object]!.name)
    if (!colored) p.maps.delete('COLOR_0')
    if (!named || groupNumbers.size < 2) p.maps.delete(GROUP_MAP)
  }
  return { pieces, objects, surfaces, warnings }
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
function readMtl(bytes: Uint8Array, file: (name: string) => Uint8Array | undefined, warnings: string[]): Surface[] {
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
