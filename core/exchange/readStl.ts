import { lines } from './lines'
import { checkPositions, checkTriangles, fail, IDENTITY, READ_LIMITS, type Found, type ReadOptions } from './meshFile'
import { STL_HEAD, STL_TRIANGLE, stlTriangles } from './readers/stl'

/**
 * Reads STL, binary or text: loose triangles of one object, in whatever units they are. Corners at one place are welded
 * when the parts are found; the normals of the file are those of the facets, and are found anew.
 * @param stem what the object is called where the file does not say
 */
export function readStl(bytes: Uint8Array, stem: string, options: ReadOptions = {}): Found {
  const limits = options.limits ?? READ_LIMITS
  const count = stlTriangles(bytes)
  const read =
    count === undefined ? textOf(bytes, limits.triangles, options.progress) : binaryOf(bytes, count, limits.triangles)
  const { positions, name } = read
  if (!positions.length) fail('The file has no triangles.')
  checkPositions(positions, name || stem)
  const corners = positions.length / 3
  return {
    pieces: [
      {
        object: 0,
        matrix: IDENTITY,
        runs: [{ material: '', corners }],
        positions,
        triangles: Uint32Array.from({ length: corners }, (_, i) => i),
        maps: new Map(),
      },
    ],
    objects: [{ name: name || stem, parents: [] }],
    surfaces: [],
    warnings: [],
  }
}

interface Triangles {
  positions: Float32Array
  name: string
}

function binaryOf(bytes: Uint8Array, count: number, most: number): Triangles {
  checkTriangles(count, { bytes: 0, triangles: most })
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const positions = new Float32Array(count * 9)
  for (let t = 0; t < count; t++) {
    // A normal stands before the three corners, two bytes of anything behind them.
    const from = STL_HEAD + t * STL_TRIANGLE + 12
    for (let k = 0; k < 9; k++) positions[t * 9 + k] = view.getFloat32(from + k * 4, true)
  }
  return { positions, name: '' }
}

function textOf(bytes: Uint8Array, most: number, progress: ReadOptions['progress']): Triangles {
  const numbers: number[] = []
  let name = ''
  let number = 0
  for (const line of lines(bytes, 0, progress)) {
    number++
    const words = line.trim().split(/\s+/)
    if (words[0] === 'solid') name ||= words.slice(1).join(' ')
    if (words[0] !== 'vertex') continue
    const corner = words.slice(1, 4).map(Number)
    if (corner.length < 3 || corner.some(x => !Number.isFinite(x)))
      fail(`Line ${number} is not a vertex: "${line.trim().slice(0, 60)}".`)
    numbers.push(...corner)
    checkTriangles(numbers.length / 9, { bytes: 0, triangles: most })
  }
  if (numbers.length % 9) fail('The last facet of the file has fewer than three corners: it is cut off.')
  return { positions: Float32Array.from(numbers), name }
}
