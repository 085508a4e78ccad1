// Bundles the command line (and the server's jobs) for plain Node.
import { existsSync, readdirSync, rmSync } from 'node:fs'
import { build } from 'esbuild'
import { threeInParts, WITH_REQUIRE } from './bundling.mjs'

const FOLDER = 'dist'

const options = {
  outdir: FOLDER,
  // They read files beside their own.
  external: ['mikktspace', 'watlas', 'libsql', '@jsquash/webp'],
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  outExtension: { '.js': '.mjs' },
  logLevel: 'warning',
  plugins: [threeInParts],
  // Names stay as they are, for whoever reads of an error.
  minifySyntax: true,
  minifyWhitespace: true,
  sourcemap: 'linked',
  banner: WITH_REQUIRE,
}

for (const name of existsSync(FOLDER) ? readdirSync(FOLDER) : [])
  if (/^(cli|job)-piece/.test(name)) rmSync(`${FOLDER}/${name}`)
// Each reads the pieces that it uses when it uses them: whatever begins often begins at once.
const split = (piece, entryPoints) =>
  build({ ...options, entryPoints, splitting: true, chunkNames: `${piece}-piece-[hash]` })
await Promise.all([
  // The command itself, and what carries out a call, for whoever has many of them.
  split('cli', { cli: 'cli/main.ts', 'cli-run': 'cli/run.ts' }),
  // These go wherever the server runs.
  split('job', {
    'mesh-job': 'server/jobs/mesh.ts',
    'import-job': 'server/jobs/importProject.ts',
    'bake-thread': 'node/bake/bakeThread.ts',
    'delivery-job': 'server/jobs/delivery.ts',
    'demo-job': 'server/jobs/demo.ts',
    'check-job': 'server/jobs/check.ts',
    'room-job': 'server/jobs/room.ts',
    'trace-thread': 'node/render/traceThread.ts',
  }),
])
