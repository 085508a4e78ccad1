import type { Stiffness } from './curvature'

/**
 * Vertices of a surface that are computed together: nothing outside is joined to any of them. Its matrix and positions
 * are numbered by their order in `vertices`. Each row of the matrix begins with the neighbors that come before its own
 * vertex: those from `middles` on come after it.
 */
export interface Island {
  vertices: Uint32Array
  positions: Float64Array
  matrix: Stiffness
  middles: Uint32Array
}

/** Small ones are put together until they have as many vertices: few enough for a processor's own memory. */
const ENOUGH = 2048

/** Lists of vertices that hang together, in the order in which they are come to, each of some whole components. */
function* listsOf({ starts, neighbors }: Stiffness): Generator<Uint32Array> {
  const count = starts.length - 1
  const isFound = new Uint8Array(count)
  const list = new Uint32Array(count)
  let begin = 0
  let end = 0
  for (let seed = 0; seed < count; seed++) {
    if (isFound[seed]) continue
    isFound[seed] = 1
    let next = end
    list[end++] = seed
    for (; next < end; next++) {
      const i = list[next]!
      for (let k = starts[i]!; k < starts[i + 1]!; k++) {
        const j = neighbors[k]!
        if (isFound[j]) continue
        isFound[j] = 1
        list[end++] = j
      }
    }
    if (end - begin < ENOUGH) continue
    yield list.subarray(begin, end)
    begin = end
  }
  if (end > begin) yield list.subarray(begin, end)
}

/**
 * Takes a surface apart into what is joined by its edges, for what is solved on each alone: a part that is small is
 * done sooner, and its numbers stay close together.
 * @param positions x, y, z per vertex
 */
export function* islandsOf(positions: Float64Array, matrix: Stiffness): Generator<Island> {
  const place = new Uint32Array(matrix.mass.length)
  for (const vertices of listsOf(matrix)) {
    const count = vertices.length
    const own = new Float64Array(count * 3)
    const mass = new Float64Array(count)
    const diagonal = new Float64Array(count)
    const starts = new Uint32Array(count + 1)
    vertices.forEach((i, n) => {
      place[i] = n
      own.set(positions.subarray(i * 3, i * 3 + 3), n * 3)
      mass[n] = matrix.mass[i]!
      diagonal[n] = matrix.diagonal[i]!
      starts[n + 1] = starts[n]! + matrix.starts[i + 1]! - matrix.starts[i]!
    })
    const neighbors = new Uint32Array(starts[count]!)
    const weights = new Float64Array(starts[count]!)
    const middles = new Uint32Array(count)
    vertices.forEach((i, n) => {
      let low = starts[n]!
      let high = starts[n + 1]!
      for (let from = matrix.starts[i]!; low < high; from++) {
        const neighbor = place[matrix.neighbors[from]!]!
        const to = neighbor < n ? low++ : --high
        neighbors[to] = neighbor
        weights[to] = matrix.weights[from]!
      }
      middles[n] = low
    })
    yield { vertices, positions: own, matrix: { starts, neighbors, weights, diagonal, mass }, middles }
  }
}
