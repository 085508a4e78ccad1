import { encodeSrgb } from '../color/convert'
import type { Mesh, VertexMap } from '../mesh/mesh'
import { plainName } from './names'

declare class TextEncoder {
  encode(text: string): Uint8Array
}
const LETTERS: Record<number, readonly string[]> = {
  1: [''],
  2: ['_x', '_y'],
  3: ['_x', '_y', '_z'],
  4: ['_x', '_y', '_z', '_w'],
}

/**
 * Writes a mesh as binary PLY 1.0, little-endian: position, normal, UV (`s`, `t`, with t upward as is usual in this
 * format), every vertex map as float properties named after it (`NAME`, or `NAME_x`…), and, where given, colors as
 * `red`, `green`, `blue` in 8 bits of sRGB.
 * @param colors linear, three numbers per vertex
 * @param keys of the part that each vertex belongs to: 16 hexadecimal digits, written as two whole numbers
 */
export function writePly(
  mesh: Mesh,
  maps: readonly (VertexMap & { whole?: boolean })[],
  colors?: Float32Array,
  keys?: readonly string[],
): Uint8Array {
  const columns = columnsOf(mesh, maps, keys)
  const head = new TextEncoder().encode(
    [
      'ply',
      'format binary_little_endian 1.0',
      'comment Ubblet',
      `element vertex ${mesh.positions.length / 3}`,
      ...columns.map(c => `property ${c.type} ${c.name}`),
      ...(colors ? ['red', 'green', 'blue'].map(c => `property uchar ${c}`) : []),
      `element face ${mesh.indices.length / 3}`,
      'property list uchar uint vertex_indices',
      'end_header',
      '',
    ].join('\n'),
  )
  return withBody(head, mesh, columns, colors)
}

/** A property of vertices: number `at` of `size` at each. */
interface Column {
  name: string
  values: ArrayLike<number>
  size: number
  at: number
  type: 'float' | 'int' | 'uint'
}

function columnsOf(
  mesh: Mesh,
  maps: readonly (VertexMap & { whole?: boolean })[],
  keys: readonly string[] | undefined,
): Column[] {
  const columns: Column[] = []
  const add = (names: readonly string[], values: ArrayLike<number>, type: Column['type'] = 'float') =>
    names.forEach((name, at) => columns.push({ name, values, size: names.length, at, type }))
  add(['x', 'y', 'z'], mesh.positions)
  add(['nx', 'ny', 'nz'], mesh.normals)
  if (mesh.uvs)
    add(
      ['s', 't'],
      mesh.uvs.map((x, i) => (i % 2 ? 1 - x : x)),
    )
  const taken = new Set(columns.map(c => c.name).concat('red', 'green', 'blue'))
  for (const map of maps) {
    let name = plainName(map.name)
    while (LETTERS[map.components]!.some(l => taken.has(name + l))) name += '_'
    const names = LETTERS[map.components]!.map(l => name + l)
    names.forEach(n => taken.add(n))
    add(names, map.values, map.whole ? 'int' : 'float')
  }
  if (keys) {
    const half = (from: number) => Uint32Array.from(keys, key => Number.parseInt(key.slice(from, from + 8), 16))
    add(['part_key_high'], half(0), 'uint')
    add(['part_key_low'], half(8), 'uint')
  }
  return columns
}

/** The header, and behind it vertices and faces. */
function withBody(head: Uint8Array, mesh: Mesh, columns: readonly Column[], colors?: Float32Array): Uint8Array {
  const vertices = mesh.positions.length / 3
  const triangles = mesh.indices.length / 3
  const stride = columns.length * 4 + (colors ? 3 : 0)
  const out = new Uint8Array(head.length + vertices * stride + triangles * 13)
  const view = new DataView(out.buffer)
  out.set(head)
  let at = head.length
  for (let v = 0; v < vertices; v++) {
    for (const c of columns) {
      const value = c.values[v * c.size + c.at]!
      if (c.type === 'float') view.setFloat32(at, value, true)
      else view.setUint32(at, value, true)
      at += 4
    }
    if (colors)
      for (let k = 0; k < 3; k++)
        out[at++] = Math.round(Math.min(1, Math.max(0, encodeSrgb(Math.max(0, colors[v * 3 + k]!)))) * 255)
  }
  for (let t = 0; t < triangles; t++) {
    out[at++] = 3
    for (let k = 0; k < 3; k++, at += 4) view.setUint32(at, mesh.indices[t * 3 + k]!, true)
  }
  return out
}
