/**
 * Grows the covered texels outward, a ring at a time: an empty texel takes the mean of its covered neighbors (of eight).
 * So filtering across an island's border meets the island's own color.
 * @param image `channels` numbers per texel, changed in place
 * @param covered 1 where a texel has a value; changed in place
 */
export function dilate(image: Float32Array, channels: number, size: number, covered: Uint8Array, rings: number): void {
  let edge: number[] = []
  for (let i = 0; i < covered.length; i++) if (covered[i]) edge.push(i)
  const sum = new Float64Array(channels)
  for (let ring = 0; ring < rings && edge.length; ring++) {
    const grown: number[] = [], values: number[] = [], seen = new Set<number>()
    for (const from of edge) {
      const x = from % size, y = (from - x) / size
      for (let dy = -1; dy <= 1; dy++) {
        for (let dx = -1; dx <= 1; dx++) {
          const nx = x + dx, ny = y + dy
          if (nx < 0 || ny < 0 || nx >= size || ny >= size) continue
          const at = ny * size + nx
          if (covered[at] || seen.has(at)) continue
          seen.add(at)
          sum.fill(0)
          let n = 0
          for (let ey = Math.max(0, ny - 1); ey <= Math.min(size - 1, ny + 1); ey++) {
            for (let ex = Math.max(0, nx - 1); ex <= Math.min(size - 1, nx + 1); ex++) {
              const q = ey * size + ex
              if (!covered[q]) continue
              n++
              for (let k = 0; k < channels; k++) sum[k]! += image[q * channels + k]!
            }
          }
          grown.push(at)
          for (let k = 0; k < channels; k++) values.push(sum[k]! / n)
        }
      }
    }
    grown.forEach((at, i) => {
      covered[at] = 1
      for (let k = 0; k < channels; k++) image[at * channels + k] = values[i * channels + k]!
    })
    edge = grown
  }
}
