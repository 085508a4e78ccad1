/**
 * Gradient noise of the MaterialX standard in plain JavaScript with doubles: written from the standard's definition,
 * apart from the kernels, to hold them against, and the baseline of the bench.
 */
const rotl = (x: number, k: number): number => (x << k) | (x >>> (32 - k))

function final(a: number, b: number, c: number): number {
  c = ((c ^ b) - rotl(b, 14)) | 0
  a = ((a ^ c) - rotl(c, 11)) | 0
  b = ((b ^ a) - rotl(a, 25)) | 0
  c = ((c ^ b) - rotl(b, 16)) | 0
  a = ((a ^ c) - rotl(c, 4)) | 0
  b = ((b ^ a) - rotl(a, 14)) | 0
  c = ((c ^ b) - rotl(b, 24)) | 0
  return c >>> 0
}

/** `mx_hash_int` of three integers. */
export function hash3(x: number, y: number, z: number): number {
  const start = (0xdeadbeef + (3 << 2) + 13) | 0
  return final((start + x) | 0, (start + y) | 0, (start + z) | 0)
}

/** `mx_hash_int` of four integers. */
export function hash4(x: number, y: number, z: number, w: number): number {
  const start = (0xdeadbeef + (4 << 2) + 13) | 0
  let a = (start + x) | 0
  let b = (start + y) | 0
  let c = (start + z) | 0
  a = ((a - c) ^ rotl(c, 4)) | 0
  c = (c + b) | 0
  b = ((b - a) ^ rotl(a, 6)) | 0
  a = (a + c) | 0
  c = ((c - b) ^ rotl(b, 8)) | 0
  b = (b + a) | 0
  a = ((a - c) ^ rotl(c, 16)) | 0
  c = (c + b) | 0
  b = ((b - a) ^ rotl(a, 19)) | 0
  a = (a + c) | 0
  c = ((c - b) ^ rotl(b, 4)) | 0
  b = (b + a) | 0
  return final((a + w) | 0, b, c)
}

function gradient(hash: number, x: number, y: number, z: number): number {
  const h = hash & 15
  const u = h < 8 ? x : y
  const other = h === 12 || h === 14 ? x : z
  const v = h < 4 ? y : other
  return (h & 1 ? -u : u) + (h & 2 ? -v : v)
}

const fade = (t: number): number => t * t * t * (t * (t * 6 - 15) + 10)
const lerp = (a: number, b: number, t: number): number => (1 - t) * a + t * b

export function perlin3(x: number, y: number, z: number): number {
  const X = Math.floor(x)
  const Y = Math.floor(y)
  const Z = Math.floor(z)
  const fx = x - X
  const fy = y - Y
  const fz = z - Z
  const u = fade(fx)
  const v = fade(fy)
  const w = fade(fz)
  const g = (i: number, j: number, k: number): number => gradient(hash3(X + i, Y + j, Z + k), fx - i, fy - j, fz - k)
  return (
    0.982 *
    lerp(
      lerp(lerp(g(0, 0, 0), g(1, 0, 0), u), lerp(g(0, 1, 0), g(1, 1, 0), u), v),
      lerp(lerp(g(0, 0, 1), g(1, 0, 1), u), lerp(g(0, 1, 1), g(1, 1, 1), u), v),
      w,
    )
  )
}

export function fractal3(
  x: number,
  y: number,
  z: number,
  octaves: number,
  lacunarity: number,
  diminish: number,
): number {
  let sum = 0
  let amplitude = 1
  for (let i = 0; i < octaves; i++) {
    sum += amplitude * perlin3(x, y, z)
    amplitude *= diminish
    x *= lacunarity
    y *= lacunarity
    z *= lacunarity
  }
  return sum
}

const unit = (bits: number): number => bits / 4294967295

/** `mx_cell_noise_float`. */
export const cell3 = (x: number, y: number, z: number): number =>
  unit(hash3(Math.floor(x), Math.floor(y), Math.floor(z)))

/**
 * `mx_worley_noise_vec3` with Euclidean distance: the ways to the nearest two points, and a value of the nearest's own.
 */
export function worley3(x: number, y: number, z: number, jitter: number): [first: number, second: number, own: number] {
  const found: [number, number][] = []
  for (let i = -1; i <= 1; i++) {
    for (let j = -1; j <= 1; j++) {
      for (let k = -1; k <= 1; k++) {
        const c = [Math.floor(x) + i, Math.floor(y) + j, Math.floor(z) + k] as const
        const at = c.map((q, n) => q + (unit(hash4(...c, n)) - 0.5) * jitter + 0.5) as [number, number, number]
        found.push([Math.hypot(at[0] - x, at[1] - y, at[2] - z), unit(hash4(...c, 3))])
      }
    }
  }
  found.sort((a, b) => a[0] - b[0])
  return [found[0]![0], found[1]![0], found[0]![1]]
}
