import { decodeSrgb } from '../color/convert'
import { GROUP_MAP } from '../mesh/mesh'
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

/** Reads MTL: diffuse color (sRGB), the metalness and roughness that many writers add, and pictures. */
function readMtl(bytes: Uint8Array, file: (name: string) => Uint8Array | undefined, warnings: string[]): Surface[] {
  const surfaces: Surface[] = []
  const uses: Record<string, string> = {
    map_Kd: 'base color',
    map_Pr: 'roughness',
    map_Pm: 'metalness',
    map_Bump: 'bump',
    bump: 'bump',
    norm: 'normal',
    map_Ke: 'emission',
    map_d: 'opacity',
  }
  for (const line of lines(bytes)) {
    const [word = '', ...rest] = line.trim().split(/\s+/)
    const surface = surfaces.at(-1)
    const n = rest.map(Number)
    if (word === 'newmtl')
      surfaces.push({ name: rest.join(' '), baseColor: [0.5, 0.5, 0.5], metalness: 0, roughness: 0.5, textures: [] })
    else if (!surface) continue
    else if (word === 'Kd' && n.length >= 3 && n.every(Number.isFinite))
      surface.baseColor = n.slice(0, 3).map(decodeSrgb) as Surface['baseColor']
    else if (word === 'Pr' && Number.isFinite(n[0])) surface.roughness = n[0]!
    else if (word === 'Pm' && Number.isFinite(n[0])) surface.metalness = n[0]!
    else if (uses[word]) {
      // Options (-bm 1, -o 0 0 0) come before the name.
      const name = rest.join(' ').replace(/^(-\w+(\s+-?[\d.]+)*\s+)*/, '')
      const picture = file(name)
      if (picture)
        surface.textures.push({
          use: uses[word],
          type: pictureType(name),
          bytes: picture,
        })
      else warnings.push(`The picture "${name}" was not brought along; its material goes on without it.`)
    }
  }
  return surfaces
}
