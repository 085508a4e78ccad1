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

// Whoever reads only the first lines has what it wants.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code !== 'EPIPE') throw error
  process.exit()
})

try {
  const asked = process.argv.slice(2)
  await program().parseAsync(asked.length ? asked : ['--help'], { from: 'user' })
} catch (error) {
  // Help and version end the same way.
  if (!(error instanceof CommanderError && error.exitCode === 0)) {
    const message = told(error)
    process.stderr.write(
      process.argv.includes('--json') ? `${JSON.stringify({ error: message })}\n` : `ubblet: ${message}\n`,
    )
    process.exitCode = NOT_DONE
  }
}
