import { READ_LIMITS, type ReadLimits } from '#core/exchange/meshFile'

/** A positive number from the environment, or what stands in its place. */
export const setting = (name: string, fallback: number): number => {
  const value = Number(process.env[name])
  return Number.isFinite(value) && value > 0 ? value : fallback
}

/** How large a mesh may be: UBBLET_MAX_MEGABYTES and UBBLET_MAX_TRIANGLES, or the defaults of the readers. */
export const limits = (): ReadLimits => ({
  bytes: setting('UBBLET_MAX_MEGABYTES', READ_LIMITS.bytes / 2 ** 20) * 2 ** 20,
  triangles: setting('UBBLET_MAX_TRIANGLES', READ_LIMITS.triangles),
})
