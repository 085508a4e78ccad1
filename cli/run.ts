import { CommanderError } from 'commander'
import { LaneError } from '../core/bake/lanes'
import { DeliveryError } from '../core/deliver/settings'
import { MeshFileError } from '../core/exchange/meshFile'
import { program } from './program'
import { UsageError } from './usage'

/** The code of a call that could not be carried out. */
const NOT_DONE = 2

/** Errors whose message is one sentence for whoever called. */
const EXPECTED = [UsageError, DeliveryError, LaneError, MeshFileError]

/** What commander says of a wrong call, as one sentence of ours. */
function sentenceOf({ message }: CommanderError): string {
  const [first = '', ...rest] = message.replace(/^error: /, '').split('\n')
  const sentence = `${first[0]?.toUpperCase()}${first.slice(1)}`.replace(/\.?$/, '.')
  return [sentence, ...rest.map(r => r.replace(/^\((.*)\)$/, '$1'))].join(' ')
}

/** What went wrong, in one line. @param error anything that was thrown */
function told(error: unknown): string {
  if (error instanceof CommanderError) return sentenceOf(error)
  if (EXPECTED.some(kind => error instanceof kind)) return (error as Error).message
  return `unexpected: ${error instanceof Error ? error.stack : String(error)}`
}

/**
 * Carries out one call of the command line; what it says goes to the process's own streams, and `process.exitCode` to
 * what it came to.
 * @param asked its arguments
 */
export async function run(asked: readonly string[]): Promise<void> {
  try {
    const called = await program(asked[0])
    await called.parseAsync(asked.length ? asked : ['--help'], { from: 'user' })
  } catch (error) {
    // Help and version end the same way.
    if (error instanceof CommanderError && error.exitCode === 0) return
    const message = told(error)
    process.stderr.write(asked.includes('--json') ? `${JSON.stringify({ error: message })}\n` : `ubblet: ${message}\n`)
    process.exitCode = NOT_DONE
  }
}
