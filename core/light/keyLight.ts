import { toward, type Surroundings } from '../trace/light'
import { lampOf, RIGS, tripleOf, type Panel, type Rig, type RigName } from '../trace/rigs'

type Triple = [number, number, number]

/** The brightest lamp of a rig, as seen from the middle of the mesh: the one whose shadow is drawn. */
export interface KeyLight {
  /** Where the light comes from, of length 1. */
  from: Triple
  /** What falls from it on a surface that faces it, in the unit of the rig's radiance times steradian. */
  irradiance: Triple
  /** Half its opening, in radians. */
  radius: number
  /** What falls from everywhere, the key included, on a surface that faces straight up. */
  onGround: Triple
}

function keyOfPanel(panel: Panel): Omit<KeyLight, 'onGround'> {
  const { from, radiance, solidAngle } = lampOf(panel)
  return {
    from,
    irradiance: radiance.map(x => x * solidAngle) as Triple,
    radius: Math.atan(Math.sqrt(solidAngle / Math.PI)),
  }
}

const sum = (x: Triple): number => x[0] + x[1] + x[2]

/** The key light of a rig: the lamp that lights most. */
export function keyOfRig(name: RigName): KeyLight {
  const { dome, panels } = RIGS[name] as Rig
  const lamps = panels.map(keyOfPanel)
  const onGround: Triple = [0, 0, 0]
  for (const { from, irradiance } of lamps)
    irradiance.forEach((x, k) => {
      onGround[k]! += x * Math.max(0, from[1])
    })
  // The dome in rings of equal height: each has the same solid angle, and counts by its cosine.
  for (let i = 0; i < RINGS; i++) {
    const up = (i + 0.5) / RINGS
    tripleOf(dome(up)).forEach((x, k) => {
      onGround[k]! += (x * up * 2 * Math.PI) / RINGS
    })
  }
  return { ...lamps.reduce((a, b) => (sum(b.irradiance) > sum(a.irradiance) ? b : a)), onGround }
}
const RINGS = 64

/** The key light of a picture of surroundings: all around its brightest place that is at least half as bright. */
export function keyOfPicture({ width, height, data }: Surroundings): KeyLight {
  const at = (x: number, y: number, k: number) => data[(y * width + x) * 3 + k]!
  const bright = (x: number, y: number) => at(x, y, 0) + at(x, y, 1) + at(x, y, 2)
  let best = [0, 0] as [number, number]
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) if (bright(x, y) > bright(...best)) best = [x, y]
  const seenAt = (x: number, y: number) => toward((x + 0.5) / width, (y + 0.5) / height)
  const middle = seenAt(...best)
  const half = bright(...best) / 2
  const from: Triple = [0, 0, 0]
  const irradiance: Triple = [0, 0, 0]
  const onGround: Triple = [0, 0, 0]
  let solidAngle = 0
  for (let y = 0; y < height; y++) {
    const piece = ((((2 * Math.PI) / width) * Math.PI) / height) * Math.sin(((y + 0.5) / height) * Math.PI)
    for (let x = 0; x < width; x++) {
      const d = seenAt(x, y)
      for (let k = 0; k < 3; k++) onGround[k]! += at(x, y, k) * Math.max(0, d[1]) * piece
      // Within 25 degrees of it.
      if (bright(x, y) < half || d[0] * middle[0] + d[1] * middle[1] + d[2] * middle[2] < 0.9) continue
      for (let k = 0; k < 3; k++) {
        irradiance[k]! += at(x, y, k) * piece
        from[k]! += d[k]! * bright(x, y) * piece
      }
      solidAngle += piece
    }
  }
  const length = Math.hypot(...from) || 1
  return { from: from.map(x => x / length) as Triple, irradiance, radius: Math.sqrt(solidAngle / Math.PI), onGround }
}
