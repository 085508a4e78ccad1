/** From how many numbers on some of them are sooner found than all put in order. */
const MANY = 1 << 14
const HALF = 1 << 16

/**
 * The numbers above which some shares of those points lie at which a mask is more than a half: each halfway between the
 * last point above and the first one below, or just beyond the ends at shares of 0 and 1; 0 where there is no point.
 * @param of a number for each point
 * @param where the mask, as many
 * @param shares 0 to 1
 */
export function quantiles(of: Float32Array, where: Float32Array, shares: readonly number[]): number[] {
  const values = taken(of, where)
  const n = values.length
  if (!n) return shares.map(() => 0)
  const aboves = shares.map(share => Math.round(Math.min(1, Math.max(0, share)) * n))
  const ranks = aboves.flatMap(above => [Math.max(0, n - above - 1), Math.min(n - 1, n - above)])
  const found = n < MANY ? inOrder(values, ranks) : atRanks(values, ranks)
  return aboves.map((above, i) => {
    const below = found[i * 2]!
    if (above === 0) return Math.fround(below + beyond(below))
    const least = found[i * 2 + 1]!
    if (above === n) return Math.fround(least - beyond(least))
    return Math.fround((least + below) / 2)
  })
}
const beyond = (x: number): number => 1e-5 * Math.max(1, Math.abs(x))

function taken(of: Float32Array, where: Float32Array): Float32Array {
  const values = new Float32Array(of.length)
  let n = 0
  for (let i = 0; i < of.length; i++) if (where[i]! > 0.5) values[n++] = of[i]!
  return values.subarray(0, n)
}

function inOrder(values: Float32Array, ranks: readonly number[]): number[] {
  values.sort()
  return ranks.map(rank => values[rank]!)
}

/**
 * The numbers that would stand at some ranks if all were in order. The bits of a float, with those of negative ones
 * turned, are integers in the same order: first their upper halves are counted, then the lower ones of the numbers that
 * share the upper half in question.
 */
export function atRanks(values: Float32Array, ranks: readonly number[]): number[] {
  const keys = new Int32Array(values.slice().buffer)
  for (let i = 0; i < keys.length; i++) keys[i] = turned(keys[i]!)
  const upper = new Uint32Array(HALF)
  for (let i = 0; i < keys.length; i++) upper[(keys[i]! >> 16) + HALF / 2]!++
  const lowers = new Map<number, Uint32Array>()
  return ranks.map(rank => {
    const [bin, left] = binOf(upper, rank)
    const half = bin - HALF / 2
    const lower = lowers.get(half) ?? lowersOf(keys, half)
    lowers.set(half, lower)
    return floatOf((half << 16) | binOf(lower, left)[0])
  })
}

function lowersOf(keys: Int32Array, half: number): Uint32Array {
  const counts = new Uint32Array(HALF)
  for (let i = 0; i < keys.length; i++) if (keys[i]! >> 16 === half) counts[keys[i]! & (HALF - 1)]!++
  return counts
}

/** The bin in which the number of a rank is, and its rank in that bin. */
function binOf(counts: Uint32Array, rank: number): [bin: number, left: number] {
  let bin = 0
  let left = rank
  while (left >= counts[bin]!) left -= counts[bin++]!
  return [bin, left]
}

/** Bits of a float as an integer in the order of the floats, and back. */
const turned = (bits: number): number => bits ^ ((bits >> 31) & 0x7fffffff)
const ONE = new Float32Array(1)
const BITS = new Int32Array(ONE.buffer)
function floatOf(key: number): number {
  BITS[0] = turned(key)
  return ONE[0]!
}
