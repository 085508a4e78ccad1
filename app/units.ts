/** Lengths, areas and volumes in meters as people say them, to three digits. */
const digits = (x: number): string => x === 0 ? '0' : Number(x.toPrecision(3)).toLocaleString('en-US', { maximumFractionDigits: 6 })
export const meters = (x: number): string => Math.abs(x) >= 1 ? `${digits(x)} m` : Math.abs(x) >= 0.01 ? `${digits(x * 100)} cm` : `${digits(x * 1000)} mm`
export const squareMeters = (x: number): string => x >= 0.1 ? `${digits(x)} m²` : x >= 1e-5 ? `${digits(x * 1e4)} cm²` : `${digits(x * 1e6)} mm²`
export const cubicMeters = (x: number): string => x >= 0.1 ? `${digits(x)} m³` : x >= 1e-7 ? `${digits(x * 1e6)} cm³` : `${digits(x * 1e9)} mm³`
export const count = (n: number, one: string, many = `${one}s`): string => `${n.toLocaleString('en-US')} ${n === 1 ? one : many}`
export const seconds = (s: number): string => s < 90 ? `${Math.max(1, Math.round(s))} s` : `${Math.round(s / 60)} min`
