import { decodeSrgb } from '../color/convert'
import { GROUP_MAP } from '../mesh/mesh'
import { Growing } from '../mesh/growing'
import { eachLine, isBlank, linesAfter } from './lines'
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
import { PieceBuilder } from './pieceBuilder'
import { PlainNumbers } from './plainNumbers'
import { readMtl } from './readMtl'
import { triangulate } from './triangulate'

declare class TextDecoder {
  decode(bytes: Uint8Array): string
}

type Resources = ReadonlyMap<string, Uint8Array>
const CORNER_WORDS = ['vertex', 'UV', 'normal']
const BLANKS = /\s+/
/** A file whose first words are none of the format's is not one. */
const FIRST_LINES = 50
const BACKSLASH = 92
/** First letters of statements that most lines of a file are. */
const [V, T, N, F] = [118, 116, 110, 102]
/** Numbers and corners of a line beyond which it is read as text. */
const MOST_NUMBERS = 8
const MOST_CORNERS = 64

/**
 * Reads Wavefront OBJ: objects (`o`; without any, groups `g` are the objects), groups within objects as the vertex map
 * `group`, faces of any size, indices from the end, smoothing groups where there are no normals, colors after the
 * coordinates (taken as sRGB, kept linear as `COLOR_0`). V is turned to run downward, as in glTF.
 * @param resources MTL files and pictures, by name
 */
export function readObj(bytes: Uint8Array, resources: Resources, options: ReadOptions = {}): Found {
  const reader = new ObjReader(bytes, resources, options.limits ?? READ_LIMITS, hasObjects(bytes))
  eachLine(bytes, (from, end, number) => reader.take(from, end, number), options.progress)
  return reader.found()
}

/** An `o` after groups without one must not change what the groups before it were. */
const hasObjects = (bytes: Uint8Array): boolean => !linesAfter(bytes, 'o').next().done

/** Which corner a word names, from 1, or from the end below 0; one that no list has where it is no whole number. */
function wholeOf(word: string): number {
  const number = Number(word)
  const isOne = Number.isInteger(number) && number !== 0 && Math.abs(number) < NO_CORNER
  return isOne ? number : NO_CORNER
}
const NO_CORNER = 2 ** 31 - 1

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
  /** Where faces go, until they belong to something else. */
  private target: { into: PieceBuilder; group: number; triangles: Growing<Uint32Array> } | undefined
  /** The line: as it stands, by its number, and in words. */
  private line = ''
  private number = 0
  private words: string[] = []
  /** The lines that the line goes on from. */
  private begun = ''
  private readonly decoder = new TextDecoder()
  private readonly plain: PlainNumbers
  /** Numbers of the line. */
  private readonly numbers = new Float64Array(MOST_NUMBERS)
  /** Corners of a face: position, UV and normal, as the line names them, and then from 0 and -1 where there is none. */
  private corners = new Int32Array(MOST_CORNERS * 3)
  /** How many positions, UVs and normals there are so far. */
  private readonly have = [0, 0, 0]
  private triangles = 0
  private colored = 0
  private others = 0

  /** @param named whether objects are named; groups are the objects where none is */
  constructor(
    private readonly bytes: Uint8Array,
    private readonly resources: Resources,
    private readonly limits: ReadLimits,
    private readonly named: boolean,
  ) {
    this.plain = new PlainNumbers(bytes)
  }

  private readonly statements: Record<string, () => void> = {
    v: () => this.takeVertex(this.readNumbers(3)),
    vt: () => this.takeUv(this.readNumbers(1)),
    vn: () => {
      this.readNumbers(3)
      this.takeNormal()
    },
    f: () => this.takeFace(this.readCorners()),
    o: () => this.belong(() => (this.object = this.rest)),
    g: () => this.belong(() => (this.group = this.rest)),
    s: () => void (this.smooth = numberOf(this.smoothNumbers, Number(this.rest) || 0)),
    usemtl: () => this.belong(() => (this.material = this.rest)),
    mtllib: () => this.takeLibrary(),
    l: () => void this.others++,
    p: () => void this.others++,
    curv: () => void this.others++,
    surf: () => void this.others++,
  }

  /**
   * Takes a line of the file.
   * @param from its first byte
   * @param end the one after its last
   * @param number which line it is, from 1
   */
  take(from: number, end: number, number: number): void {
    this.number = number
    const goesOn = end > from && this.bytes[end - 1] === BACKSLASH
    if (!goesOn && !this.begun && this.takePlain(from, end)) return
    const text = this.begun + this.decoder.decode(this.bytes.subarray(from, goesOn ? end - 1 : end))
    this.begun = goesOn ? `${text} ` : ''
    if (!goesOn) this.takeText(text.trim())
  }

  /** Takes one of the statements that nearly all lines are, if it is written as it nearly always is. */
  private takePlain(from: number, end: number): boolean {
    const { bytes, plain } = this
    let at = from
    while (isBlank(bytes[at])) at++
    const [first, second, third] = [bytes[at], bytes[at + 1], bytes[at + 2]]
    if (first === F && isBlank(second)) {
      const count = plain.triples(at + 1, end, this.corners)
      const isFace = count >= 3 && this.resolve(count) < 0
      if (isFace) this.takeFace(count)
      return isFace
    }
    if (first !== V) return false
    const isVertex = isBlank(second)
    if (!isVertex && !isBlank(third)) return false
    const count = plain.decimals(at + (isVertex ? 1 : 2), end, this.numbers)
    if (isVertex && count >= 3) this.takeVertex(count)
    else if (second === T && count >= 1) this.takeUv(count)
    else if (second === N && count >= 3) this.takeNormal()
    else return false
    return true
  }

  private takeText(line: string): void {
    this.line = line
    this.words = line.split(BLANKS)
    const word = this.words[0]!
    if (Object.hasOwn(this.statements, word)) this.statements[word]!()
    else if (this.number < FIRST_LINES && word && !/^[#a-z_]/i.test(word))
      fail(`Line ${this.number} is not OBJ: "${line.slice(0, 60)}".`)
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

  /** @returns how many numbers the line has, of which those that matter are in `numbers`; `least` are some */
  private readNumbers(least: number): number {
    const all = this.words.slice(1, MOST_NUMBERS + 1).map(Number)
    for (let i = 0; i < least; i++)
      if (!Number.isFinite(all[i]))
        fail(`Line ${this.number}: "${this.line.slice(0, 60)}" should have ${least} numbers.`)
    this.numbers.set(all)
    return all.length
  }

  private takeVertex(count: number): void {
    const { numbers } = this
    const { positions, colors } = this.lists
    const isColored = count >= 6
    if (isColored) this.colored++
    for (let k = 0; k < 3; k++) {
      positions.push(numbers[k]!)
      colors.push(isColored && Number.isFinite(numbers[3 + k]) ? decodeSrgb(numbers[3 + k]!) : 1)
    }
  }

  private takeUv(count: number): void {
    const { numbers } = this
    const { uvs } = this.lists
    uvs.push(numbers[0]!)
    uvs.push(1 - (count > 1 && Number.isFinite(numbers[1]) ? numbers[1]! : 0))
  }

  private takeNormal(): void {
    for (let k = 0; k < 3; k++) this.lists.normals.push(this.numbers[k]!)
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

  /** Faces belong to something else from here on. */
  private belong(change: () => void): void {
    change()
    this.target = undefined
  }

  private targetOf(): NonNullable<typeof this.target> {
    const into = this.builder()
    return { into, group: numberOf(this.groupNumbers, this.group), triangles: into.trianglesOf(this.material) }
  }

  /** Takes a face whose corners are in `corners`. */
  private takeFace(count: number): void {
    const { corners } = this
    this.target ??= this.targetOf()
    const { into, group, triangles } = this.target
    this.triangles += count - 2
    checkTriangles(this.triangles, this.limits)
    const vertices: number[] = []
    for (let i = 0; i < count * 3; i += 3)
      vertices.push(into.vertex(corners[i]!, corners[i + 1]!, corners[i + 2]!, group, this.smooth))
    const { positions } = this.lists
    const place = (i: number): number[] => [0, 1, 2].map(k => positions.at(corners[i * 3]! * 3 + k))
    for (const i of triangulate(count, place)) triangles.push(vertices[i]!)
  }

  /** Reads the corners of a face from the words of its line. @returns how many there are */
  private readCorners(): number {
    const named = this.words.slice(1).map(word => word.split('/'))
    if (named.length < 3) fail(`Line ${this.number}: a face needs three corners.`)
    if (this.corners.length < named.length * 3) this.corners = new Int32Array(named.length * 3)
    named.forEach((texts, i) => {
      for (let k = 0; k < 3; k++) this.corners[i * 3 + k] = texts[k] ? wholeOf(texts[k]!) : 0
    })
    const wrong = this.resolve(named.length)
    if (wrong < 0) return named.length
    const kind = wrong % 3
    const text = named[(wrong - kind) / 3]![kind]
    if (!text) fail(`Line ${this.number}: a corner of the face names no vertex.`)
    return fail(
      `Line ${this.number}: the face names ${CORNER_WORDS[kind]} ${text}, but there are only ${this.have[kind]}.`,
    )
  }

  /**
   * Turns the corners of a face, as a line names them, into those of the lists, from 0; -1 where none is named.
   * @returns which of the numbers names nothing that there is; -1 where each does
   */
  private resolve(count: number): number {
    const { corners, have, lists } = this
    have[0] = lists.positions.length / 3
    have[1] = lists.uvs.length / 2
    have[2] = lists.normals.length / 3
    for (let i = 0; i < count * 3; i++) {
      const named = corners[i]!
      const kind = i % 3
      const at = named < 0 ? have[kind]! + named : named - 1
      const isLeftOut = named === 0 && kind > 0
      if (!isLeftOut && (at < 0 || at >= have[kind]!)) return i
      corners[i] = at
    }
    return -1
  }
}
