import { decodeSrgb } from '../color/convert'
import { GROUP_MAP, type SurfacePicture, type SurfaceUse } from '../mesh/mesh'
import { Growing } from '../mesh/growing'
import { lines, linesAfter } from './lines'
import {
  checkPositions,
  checkTriangles,
  fail,
  READ_LIMITS,
  type Found,
  type ReadLimits,
  type ReadOptions,
  type Surface,
} from './meshFile'
import { PieceBuilder, type Corner } from './pieceBuilder'
import { triangulate } from './triangulate'

/** The media type of a picture, by the ending of its name. */
function pictureType(name: string): string {
  if (/\.png$/i.test(name)) return 'image/png'
  return /\.jpe?g$/i.test(name) ? 'image/jpeg' : 'application/octet-stream'
}

type Resources = ReadonlyMap<string, Uint8Array>
const CORNER_WORDS = ['vertex', 'UV', 'normal']
const BLANKS = /\s+/
/** What one space between words is not. */
const OTHER_BLANKS = / {2}|[^\S ]/
/** A file whose first words are none of the format's is not one. */
const FIRST_LINES = 50

/**
 * Reads Wavefront OBJ: objects (`o`; without any, groups `g` are the objects), groups within objects as the vertex map
 * `group`, faces of any size, indices from the end, smoothing groups where there are no normals, colors after the
 * coordinates (taken as sRGB, kept linear as `COLOR_0`). V is turned to run downward, as in glTF.
 * @param resources MTL files and pictures, by name
 */
export function readObj(bytes: Uint8Array, resources: Resources, options: ReadOptions = {}): Found {
  const reader = new ObjReader(resources, options.limits ?? READ_LIMITS, hasObjects(bytes))
  let continued = ''
  let number = 0
  for (const raw of lines(bytes, 0, options.progress)) {
    number++
    if (raw.endsWith('\\')) {
      continued += `${raw.slice(0, -1)} `
      continue
    }
    reader.take((continued + raw).trim(), number)
    continued = ''
  }
  return reader.found()
}

/** An `o` after groups without one must not change what the groups before it were. */
const hasObjects = (bytes: Uint8Array): boolean => !linesAfter(bytes, 'o').next().done

/** The words of a line; those of most lines have one space between them, which is found much sooner. */
const wordsOf = (line: string): string[] => line.split(OTHER_BLANKS.test(line) ? BLANKS : ' ')

/** The number of a name, from 0, in the order in which they come for the first time. */
function numberOf<T>(numbers: Map<T, number>, name: T): number {
  const known = numbers.get(name)
  if (known !== undefined) return known
  numbers.set(name, numbers.size)
  return numbers.size - 1
}

/** Takes the statements of a file, one after the other. */
class ObjReader {
  private readonly warnings: string[] = []
  private readonly surfaces: Surface[] = []
  private readonly objects: Found['objects'] = []
  private readonly builders = new Map<string, PieceBuilder>()
  private readonly groupNumbers = new Map<string, number>()
  private readonly smoothNumbers = new Map<number, number>([[0, 0]])
  private readonly lists = {
    positions: new Growing(Float32Array),
    uvs: new Growing(Float32Array),
    normals: new Growing(Float32Array),
    colors: new Growing(Float32Array),
  }
  /** What faces belong to at present. */
  private object = ''
  private group = ''
  private material = ''
  private smooth = 0
  /** The line: as it stands, by its number, and in words. */
  private line = ''
  private number = 0
  private words: string[] = []
  private triangles = 0
  private colored = 0
  private others = 0

  /** @param named whether objects are named; groups are the objects where none is */
  constructor(
    private readonly resources: Resources,
    private readonly limits: ReadLimits,
    private readonly named: boolean,
  ) {}

  private readonly statements: Record<string, () => void> = {
    v: () => this.takeVertex(),
    vt: () => {
      const n = this.numbers(1)
      this.lists.uvs.push(n[0]!)
      this.lists.uvs.push(1 - (Number.isFinite(n[1]) ? n[1]! : 0))
    },
    vn: () => {
      const n = this.numbers(3)
      for (let k = 0; k < 3; k++) this.lists.normals.push(n[k]!)
    },
    f: () => this.takeFace(),
    o: () => void (this.object = this.rest),
    g: () => void (this.group = this.rest),
    s: () => void (this.smooth = numberOf(this.smoothNumbers, Number(this.rest) || 0)),
    usemtl: () => void (this.material = this.rest),
    mtllib: () => this.takeLibrary(),
    l: () => void this.others++,
    p: () => void this.others++,
    curv: () => void this.others++,
    surf: () => void this.others++,
  }

  /** @param number of the line in the file, from 1 */
  take(line: string, number: number): void {
    this.line = line
    this.number = number
    this.words = wordsOf(line)
    const word = this.words[0]!
    if (Object.hasOwn(this.statements, word)) this.statements[word]!()
    else if (number < FIRST_LINES && word && !/^[#a-z_]/i.test(word))
      fail(`Line ${number} is not OBJ: "${line.slice(0, 60)}".`)
  }

  /** What stands behind the first word. */
  private get rest(): string {
    return this.line.slice(this.words[0]!.length).trim()
  }

  found(): Found {
    const { objects, surfaces, warnings } = this
    if (!this.triangles) fail('The file has no triangles.')
    if (this.others) warnings.push(`${this.others} lines, points or curves were left out.`)
    const pieces = [...this.builders.values()].map(b => b.finish())
    for (const p of pieces) {
      checkPositions(p.positions, objects[p.object]!.name)
      if (!this.colored) p.maps.delete('COLOR_0')
      if (!this.named || this.groupNumbers.size < 2) p.maps.delete(GROUP_MAP)
    }
    return { pieces, objects, surfaces, warnings }
  }

  private numbers(least: number): number[] {
    const { words } = this
    const all: number[] = []
    for (let i = 1; i < words.length; i++) all.push(Number(words[i]))
    for (let i = 0; i < least; i++)
      if (!Number.isFinite(all[i]))
        fail(`Line ${this.number}: "${this.line.slice(0, 60)}" should have ${least} numbers.`)
    return all
  }

  private takeVertex(): void {
    const n = this.numbers(3)
    const { positions, colors } = this.lists
    const isColored = n.length >= 6
    if (isColored) this.colored++
    for (let k = 0; k < 3; k++) {
      positions.push(n[k]!)
      colors.push(isColored && Number.isFinite(n[3 + k]) ? decodeSrgb(n[3 + k]!) : 1)
    }
  }

  private takeLibrary(): void {
    const file = (name: string): Uint8Array | undefined =>
      this.resources.get(name) ?? this.resources.get(name.replaceAll('\\', '/').split('/').pop()!)
    const library = file(this.rest)
    if (library) this.surfaces.push(...readMtl(library, file, this.warnings))
    else
      this.warnings.push(`The material file "${this.rest}" was not brought along; the materials keep only their names.`)
  }

  private builder(): PieceBuilder {
    const name = (this.named ? this.object : this.group || this.object) || 'Object 1'
    const known = this.builders.get(name)
    if (known) return known
    const made = new PieceBuilder(this.builders.size, this.lists)
    this.builders.set(name, made)
    this.objects.push({ name, parents: [] })
    return made
  }

  private takeFace(): void {
    const into = this.builder()
    const words = this.words.slice(1)
    if (words.length < 3) fail(`Line ${this.number}: a face needs three corners.`)
    const corners = words.map(word => this.corner(word))
    this.triangles += corners.length - 2
    checkTriangles(this.triangles, this.limits)
    const group = numberOf(this.groupNumbers, this.group)
    const vertices = corners.map(corner => into.vertex(corner, group, this.smooth))
    const { positions } = this.lists
    const place = (i: number): number[] => [0, 1, 2].map(k => positions.at(corners[i]!.position * 3 + k))
    const triangles = into.trianglesOf(this.material)
    for (const i of triangulate(vertices.length, place)) triangles.push(vertices[i]!)
  }

  private corner(word: string): Corner {
    const [v, t, n] = word.split('/')
    const { positions, uvs, normals } = this.lists
    const corner = {
      position: this.whichOf(0, v, positions.length / 3),
      uv: this.whichOf(1, t, uvs.length / 2),
      normal: this.whichOf(2, n, normals.length / 3),
    }
    if (corner.position < 0) fail(`Line ${this.number}: a corner of the face names no vertex.`)
    return corner
  }

  /** Which of so many a corner names, from 0; -1 where it names none. */
  private whichOf(kind: number, text: string | undefined, have: number): number {
    if (!text) return -1
    const i = Number(text)
    const at = i < 0 ? have + i : i - 1
    if (!Number.isInteger(i) || i === 0 || at < 0 || at >= have)
      fail(`Line ${this.number}: the face names ${CORNER_WORDS[kind]} ${text}, but there are only ${have}.`)
    return at
  }
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
