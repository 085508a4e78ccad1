import { run } from './run'

// Whoever reads only the first lines has what it wants.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code !== 'EPIPE') throw error
  process.exit()
})

await run(process.argv.slice(2))
