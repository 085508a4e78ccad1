// Bundles the command line (and the server's jobs) for plain Node.
import { existsSync, readdirSync, rmSync } from 'node:fs'
import { build } from 'esbuild'

const FOLDER = 'dist'

/** Takes three from its own files: of its one large file what nobody needs would come along. */
const threeInParts = {
  name: 'three in parts',
  setup(bundle) {
    bundle.onResolve({ filter: /^three$/ }, ({ resolveDir, kind }) =>
      bundle.resolve('three/src/Three.Core.js', { resolveDir, kind }),
    )
  },
}

const options = {
  outdir: FOLDER,
  external: ['mikktspace', 'watlas', '@libsql/client', '@jsquash/webp'],
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
  banner: {
    js: 'import { createRequire as ubCreateRequire } from "node:module"; const require = ubCreateRequire(import.meta.url);',
  },
}

// The command itself, and what carries out a call, for whoever has many of them.
const PIECE = 'cli-piece'
for (const name of existsSync(FOLDER) ? readdirSync(FOLDER) : [])
  if (name.startsWith(PIECE)) rmSync(`${FOLDER}/${name}`)
await build({
  ...options,
  entryPoints: { cli: 'cli/main.ts', 'cli-run': 'cli/run.ts' },
  splitting: true,
  chunkNames: `${PIECE}-[hash]`,
})
// Each of these is one file, which goes wherever it runs. The build has the database's library, but not what wraps it.
await build({
  ...options,
  external: ['mikktspace', 'libsql', '@jsquash/webp'],
  entryPoints: {
    'mesh-job': 'server/jobs/mesh.ts',
    'bake-thread': 'node/bake/bakeThread.ts',
    'delivery-job': 'server/jobs/delivery.ts',
    'demo-job': 'server/jobs/demo.ts',
    'check-job': 'server/jobs/check.ts',
    'room-job': 'server/jobs/room.ts',
    'trace-thread': 'node/render/traceThread.ts',
  },
})
