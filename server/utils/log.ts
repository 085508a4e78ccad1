import pino from 'pino'

/**
 * One line of JSON for each event, on standard output. UBBLET_LOG_LEVEL: fatal, error, warn, info (default), debug or
 * silent.
 */
export const log = pino(
  { level: process.env.UBBLET_LOG_LEVEL ?? 'info', base: null, timestamp: pino.stdTimeFunctions.isoTime },
  process.stdout,
)
// Where nobody reads the log any more, the server goes on without it, and ends when it is told to.
process.stdout.on('error', () => {})
