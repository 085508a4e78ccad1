/** Entries along a side of the table, and directions from which each is found. */
const SIZE = 16
const SAMPLES = 1024

/**
 * How much a rough surface reflects of light that comes from everywhere: `scale` times its reflectance straight on,
 * plus `bias` (split-sum approximation: Karis, "Real Shading in Unreal Engine 4", 2013; visibility: Heitz,
 * "Understanding the Masking-Shadowing Function", 2014).
 * @param cos of the angle between the normal and the way to the eye
 */
function integrated(roughness: number, cos: number): [scale: number, bias: number] {
  const alpha2 = roughness ** 4
  const sine = Math.sqrt(1 - cos * cos)
  let [scale, bias] = [0, 0]
  for (let i = 0; i < SAMPLES; i++) {
    const share = (i + 0.5) / SAMPLES
    const phi = ((i * 0.6180339887498949) % 1) * 2 * Math.PI
    // A direction halfway between light and eye, drawn by the GGX distribution.
    const up = Math.sqrt((1 - share) / (1 + (alpha2 - 1) * share))
    const toEye = sine * Math.sqrt(1 - up * up) * Math.cos(phi) + cos * up
    const toLight = 2 * toEye * up - cos
    if (toLight <= 0 || toEye <= 0) continue
    const masked =
      toLight * Math.sqrt(alpha2 + (1 - alpha2) * cos * cos) +
      cos * Math.sqrt(alpha2 + (1 - alpha2) * toLight * toLight)
    const weight = (2 * toLight * toEye) / (masked * up)
    const grazing = (1 - toEye) ** 5
    scale += (1 - grazing) * weight
    bias += grazing * weight
  }
  return [scale / SAMPLES, bias / SAMPLES]
}

let made: Float64Array | undefined
function table(): Float64Array {
  if (made) return made
  made = new Float64Array(SIZE * SIZE * 2)
  for (let y = 0; y < SIZE; y++)
    for (let x = 0; x < SIZE; x++) made.set(integrated((x + 0.5) / SIZE, (y + 0.5) / SIZE), (y * SIZE + x) * 2)
  return made
}

/** The same from a table, smooth between its entries. @param into gets scale and bias */
export function albedo(roughness: number, cos: number, into: Float64Array): void {
  const entries = table()
  const x = Math.min(SIZE - 1.000001, Math.max(0, roughness * SIZE - 0.5))
  const y = Math.min(SIZE - 1.000001, Math.max(0, cos * SIZE - 0.5))
  const at = (Math.floor(y) * SIZE + Math.floor(x)) * 2
  const [fx, fy] = [x % 1, y % 1]
  for (let k = 0; k < 2; k++) {
    const low = entries[at + k]! * (1 - fx) + entries[at + 2 + k]! * fx
    const high = entries[at + SIZE * 2 + k]! * (1 - fx) + entries[at + SIZE * 2 + 2 + k]! * fx
    into[k] = low * (1 - fy) + high * fy
  }
}
