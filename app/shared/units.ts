/** Lengths, areas and volumes in meters as people say them, to three digits. */
const digits = (x: number): string =>
  x === 0 ? '0' : Number(x.toPrecision(3)).toLocaleString('en-US', { maximumFractionDigits: 6 })
/**
 * A unit, how many of it are in one of the base unit, and from how many of the base unit on it is used. The last is for
 * all that is smaller.
 */
type Unit = readonly [name: string, inOne: number, from: number]
const inUnits =
  (units: readonly Unit[]) =>
  (x: number): string => {
    const [name, inOne] = units.find(([, , from]) => Math.abs(x) >= from) ?? units.at(-1)!
    return `${digits(x * inOne)} ${name}`
  }
export const meters = inUnits([
  ['m', 1, 1],
  ['cm', 100, 0.01],
  ['mm', 1000, 0],
])
export const squareMeters = inUnits([
  ['m²', 1, 0.1],
  ['cm²', 1e4, 1e-5],
  ['mm²', 1e6, 0],
])
export const cubicMeters = inUnits([
  ['m³', 1, 0.1],
  ['cm³', 1e6, 1e-7],
  ['mm³', 1e9, 0],
])
export const count = (n: number, one: string, many = `${one}s`): string =>
  `${n.toLocaleString('en-US')} ${n === 1 ? one : many}`
export const seconds = (s: number): string => (s < 90 ? `${Math.max(1, Math.round(s))} s` : `${Math.round(s / 60)} min`)
/** A share, with a tenth of a percent where that matters. */
export const percent = (share: number): string => `${(100 * share).toFixed(share > 0.995 || share < 0.1 ? 1 : 0)} %`
