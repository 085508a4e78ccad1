import { decodeSrgb } from '../color/convert'
import { lines } from './lines'
import {
  checkIndices,
  checkPositions,
  checkTriangles,
  fail,
  IDENTITY,
  READ_LIMITS,
  type Found,
  type Piece,
  type ReadLimits,
  type ReadOptions,
} from './meshFile'
import { triangulate } from './triangulate'

declare class TextDecoder {
  decode(bytes: Uint8Array): string
}

const SIZES: Record<string, number> = {
  char: 1,
  int8: 1,
  uchar: 1,
  uint8: 1,
  short: 2,
  int16: 2,
  ushort: 2,
  uint16: 2,
  int: 4,
  int32: 4,
  uint: 4,
  uint32: 4,
  float: 4,
  float32: 4,
  double: 8,
  float64: 8,
}
interface Property {
  name: string
  type: string
  list?: string
}
interface Element {
  name: string
  count: number
  properties: Property[]
}

/** Reads numbers one after the other, from text or from either binary order. */
interface Source {
  next(type: string): number
  left(): number
}

function binary(bytes: Uint8Array, from: number, little: boolean): Source {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  let at = from
  const readers: Record<string, (at: number) => number> = {
    char: a => view.getInt8(a),
    uchar: a => view.getUint8(a),
    short: a => view.getInt16(a, little),
    ushort: a => view.getUint16(a, little),
    int: a => view.getInt32(a, little),
    uint: a => view.getUint32(a, little),
    float: a => view.getFloat32(a, little),
    double: a => view.getFloat64(a, little),
  }
  const same: Record<string, string> = {
    int8: 'char',
    uint8: 'uchar',
    int16: 'short',
    uint16: 'ushort',
    int32: 'int',
    uint32: 'uint',
    float32: 'float',
    float64: 'double',
  }
  for (const [name, as] of Object.entries(same)) readers[name] = readers[as]!
  return {
    next(type) {
      if (at + SIZES[type]! > bytes.length) fail('The file is cut off: it ends before all of its elements are there.')
      const value = readers[type]!(at)
      at += SIZES[type]!
      return value
    },
    left: () => bytes.length - at,
  }
}

function text(bytes: Uint8Array, from: number, progress: ReadOptions['progress']): Source {
  function* words() {
    for (const line of lines(bytes, from, progress)) yield* line.trim().split(/\s+/).filter(Boolean)
  }
  const all = words()
  return {
    next() {
      const { value, done } = all.next()
      if (done) return fail('The file is cut off: it ends before all of its elements are there.')
      const n = Number(value)
      // Some writers put out "nan" and "inf"; what they mean is decided where the number is used.
      return Number.isNaN(n) && !/^[+-]?(nan|inf)/i.test(value)
        ? fail(`"${value.slice(0, 40)}" stands where a number should be.`)
        : n
    },
    left: () => bytes.length - from,
  }
}

function header(bytes: Uint8Array): { format: string; elements: Element[]; end: number } {
  const head = new TextDecoder().decode(bytes.subarray(0, 65536))
  const close = /(^|[\r\n])end_header(\r\n|\n|\r)/.exec(head)
  if (!close) return fail('The PLY header is not closed by "end_header".')
  const elements: Element[] = []
  let format = ''
  for (const line of head.slice(0, close.index).split(/\r\n|\n|\r/)) {
    const [word, ...rest] = line.trim().split(/\s+/)
    if (word === 'format') format = rest[0] ?? ''
    else if (word === 'element') {
      const count = Number(rest[1])
      if (!Number.isInteger(count) || count < 0) fail(`The element "${rest[0]}" has no proper count.`)
      elements.push({ name: rest[0]!, count, properties: [] })
    } else if (word === 'property') {
      const [list, type, name] = rest[0] === 'list' ? [rest[1], rest[2]!, rest[3]!] : [undefined, rest[0]!, rest[1]!]
      if (!SIZES[type] || (list !== undefined && !SIZES[list]) || !name || !elements.length)
        fail(`The property line "${line.trim().slice(0, 60)}" cannot be read.`)
      elements.at(-1)!.properties.push({ name, type, ...(list && { list }) })
    }
  }
  if (!['ascii', 'binary_little_endian', 'binary_big_endian'].includes(format))
    fail(`The PLY format "${format}" is not known.`)
  // The header is ASCII, so characters are bytes.
  return { format, elements, end: close.index + close[0].length }
}

const NAMES: Record<string, string[]> = {
  position: ['x', 'y', 'z'],
  normal: ['nx', 'ny', 'nz'],
  uv: ['s', 't'],
  uv2: ['u', 'v'],
  uv3: ['texture_u', 'texture_v'],
  color: ['red', 'green', 'blue'],
  color2: ['r', 'g', 'b'],
  color3: ['diffuse_red', 'diffuse_green', 'diffuse_blue'],
}

/**
 * Reads PLY: text and both binary orders, faces of any size, normals, one UV set, colors (`COLOR_0`; whole numbers are
 * sRGB and become linear), and every other vertex property as a vertex map of its name.
 * @param name of the one object
 */
export function readPly(bytes: Uint8Array, name: string, options: ReadOptions = {}): Found {
  const { format, elements, end } = header(bytes)
  const source =
    format === 'ascii' ? text(bytes, end, options.progress) : binary(bytes, end, format === 'binary_little_endian')
  const warnings: string[] = []
  let vertices: Vertices | undefined
  const corners: number[] = []
  for (const element of elements) {
    // What is claimed must at least fit into what is there: a byte a number, two characters in text.
    const sizes = element.properties.map(p => (format === 'ascii' ? 2 : SIZES[p.list ?? p.type]!))
    if (sizes.reduce((sum, n) => sum + n, 0) * element.count > source.left() + 2)
      fail(`The file claims ${element.count} elements "${element.name}", but it is too short to hold them.`)
    if (element.name === 'vertex') vertices = readVertices(element, source, name, warnings)
    else readFaces(element, source, vertices, corners, options.limits ?? READ_LIMITS, warnings)
  }
  if (!vertices || !corners.length) return fail('The file has no triangles.')
  const triangles = Uint32Array.from(corners)
  checkIndices(triangles, vertices.positions.length / 3, name)
  const piece = pieceOf(vertices.columns, vertices.positions, triangles)
  return { pieces: [piece], objects: [{ name, parents: [] }], surfaces: [], warnings }
}

/** The properties of vertices by their names, and their places. */
interface Vertices {
  columns: Map<string, { type: string; values: Float32Array }>
  positions: Float32Array
}

function readVertices(element: Element, source: Source, object: string, warnings: string[]): Vertices {
  const columns: Vertices['columns'] = new Map()
  for (const p of element.properties) {
    if (p.list) warnings.push(`The list "${p.name}" on the vertices was left out.`)
    else if (columns.has(p.name))
      warnings.push(`There are two vertex properties called "${p.name}"; the last one was kept.`)
    if (!p.list) columns.set(p.name, { type: p.type, values: new Float32Array(element.count) })
  }
  for (let i = 0; i < element.count; i++) {
    for (const p of element.properties) {
      if (p.list) for (let n = source.next(p.list); n > 0; n--) source.next(p.type)
      else columns.get(p.name)!.values[i] = source.next(p.type)
    }
  }
  const axes = NAMES.position!.map(n => columns.get(n)?.values)
  if (axes.some(a => !a)) fail('The vertices have no x, y and z.')
  const positions = new Float32Array(element.count * 3)
  axes.forEach((a, k) =>
    a!.forEach((x, i) => {
      positions[i * 3 + k] = x
    }),
  )
  checkPositions(positions, object)
  return { columns, positions }
}

const isCorners = (p: Property): boolean => /^vertex_ind(ices|ex)$/.test(p.name)

/** Reads faces, whose triangles go to `corners`, or passes over an element that is something else. */
function readFaces(
  element: Element,
  source: Source,
  vertices: Vertices | undefined,
  corners: number[],
  limits: ReadLimits,
  warnings: string[],
): void {
  const faces = element.name === 'face'
  if (faces && !vertices) fail('The faces come before the vertices.')
  const unread = element.properties.filter(p => !isCorners(p)).map(p => p.name)
  if (faces && unread.length) warnings.push(`Values on faces were left out (${unread.join(', ')}).`)
  if (!faces && element.count) warnings.push(`The element "${element.name}" was left out.`)
  for (let i = 0; i < element.count; i++) {
    for (const p of element.properties) {
      if (!p.list) {
        source.next(p.type)
        continue
      }
      const n = source.next(p.list)
      if (!Number.isInteger(n) || n < 0 || n > source.left()) fail(`Face ${i} claims ${n} corners.`)
      const face = Array.from({ length: n }, () => source.next(p.type))
      if (!faces || !isCorners(p)) continue
      for (const corner of trianglesOf(face, i, vertices!.positions)) corners.push(corner)
      checkTriangles(corners.length / 3, limits)
    }
  }
}

/** The corners of the triangles of a face; none where it has fewer than three. */
function trianglesOf(face: readonly number[], number: number, positions: Float32Array): number[] {
  const vertices = positions.length / 3
  for (const v of face)
    if (!Number.isInteger(v) || v < 0 || v >= vertices)
      fail(`Face ${number} names vertex ${v}, but there are only ${vertices} vertices.`)
  if (face.length < 3) return []
  const cut =
    face.length === 3 ? [0, 1, 2] : triangulate(face.length, c => positions.subarray(face[c]! * 3, face[c]! * 3 + 3))
  return cut.map(c => face[c]!)
}

function pieceOf(
  columns: Map<string, { type: string; values: Float32Array }>,
  positions: Float32Array,
  triangles: Uint32Array,
): Piece {
  const count = positions.length / 3
  const take = (...sets: string[]): { values: Float32Array; types: string[] } | undefined => {
    const names = sets.map(s => NAMES[s]!).find(list => list.every(n => columns.has(n)))
    if (!names) return undefined
    const values = new Float32Array(count * names.length)
    const types: string[] = []
    names.forEach((n, k) => {
      const column = columns.get(n)!
      columns.delete(n)
      types.push(column.type)
      column.values.forEach((x, i) => {
        values[i * names.length + k] = x
      })
    })
    return { values, types }
  }
  take('position')
  const normals = take('normal')?.values
  const uvs = take('uv', 'uv2', 'uv3')?.values
  const color = take('color', 'color2', 'color3')
  const maps: Piece['maps'] = new Map()
  if (color) {
    const type = color.types[0]!
    // Of integers, the largest is full; floats are linear as they are.
    const isByte = /^u?(char|int8)$/.test(type)
    const isShort = /^u?(short|int16)$/.test(type)
    const full = Number(isByte) * 255 + Number(isShort) * 65535
    maps.set('COLOR_0', { components: 3, values: full ? color.values.map(x => decodeSrgb(x / full)) : color.values })
  }
  for (const [name, { type, values }] of columns)
    maps.set(name, {
      components: 1,
      values: /^alpha$/.test(name) && SIZES[type] === 1 ? values.map(x => x / 255) : values,
    })
  for (const [name, m] of maps)
    if (m.values.some(x => !Number.isFinite(x)))
      maps.set(name, { ...m, values: m.values.map(x => (Number.isFinite(x) ? x : 0)) })
  if (uvs) for (let i = 1; i < uvs.length; i += 2) uvs[i] = 1 - uvs[i]!
  return {
    object: 0,
    matrix: IDENTITY,
    runs: [{ material: '', corners: triangles.length }],
    positions,
    ...(normals && { normals }),
    ...(uvs && { uvs }),
    triangles,
    maps,
  }
}
