/**
 * Grows the covered texels outward, a ring at a time: an empty texel takes the mean of its covered neighbors (of eight).
 * So filtering across an island's border meets the island's own color.
 * @param lanes one column of `width` times rows texels each, changed in place
 * @param covered 1 where a texel has a value; changed in place
 */
export function dilate(lanes: readonly Float32Array[], width: number, covered: Uint8Array, rings: number): void {
  const height = covered.length / width
  const near = (at: number, visit: (q: number) => void) => {
    const x = at % width, y = (at - x) / width
    for (let ny = Math.max(0, y - 1); ny <= Math.min(height - 1, y + 1); ny++) {
      for (let nx = Math.max(0, x - 1); nx <= Math.min(width - 1, x + 1); nx++) visit(ny * width + nx)
    }
  }
  // (1) Covered texels beside an empty one.
  let edge: number[] = []
  for (let at = 0; at < covered.length; at++) {
    if (!covered[at]) continue
    const x = at % width
    if ((x > 0 && !covered[at - 1]) || (x < width - 1 && !covered[at + 1]) || (at >= width && !covered[at - width]) || (at + width < covered.length && !covered[at + width])) edge.push(at)
    // Corners count as well, but an empty corner beside two covered sides is one of theirs.
    else if (at >= width && ((x > 0 && !covered[at - width - 1]) || (x < width - 1 && !covered[at - width + 1]))) edge.push(at)
    else if (at + width < covered.length && ((x > 0 && !covered[at + width - 1]) || (x < width - 1 && !covered[at + width + 1]))) edge.push(at)
  }
  for (let ring = 0; ring < rings && edge.length; ring++) {
    // (2) Their empty neighbors, each once: 2 marks those of this ring, which do not count as covered yet.
    const grown: number[] = []
    for (const from of edge) {
      near(from, (q) => {
        if (covered[q]) return
        covered[q] = 2
        grown.push(q)
      })
    }
    for (const at of grown) {
      let n = 0
      for (const lane of lanes) lane[at] = 0
      near(at, (q) => {
        if (covered[q] !== 1) return
        n++
        for (const lane of lanes) lane[at]! += lane[q]!
      })
      for (const lane of lanes) lane[at]! /= n
    }
    for (const at of grown) covered[at] = 1
    edge = grown
  }
}
