// Bundles the command line (and the server's jobs) for plain Node.
import { build } from 'esbuild'

await build({
  entryPoints: {
    cli: 'cli/main.ts',
    'mesh-job': 'server/jobs/mesh.ts',
    'bake-thread': 'node/bake/bakeThread.ts',
    'delivery-job': 'server/jobs/delivery.ts',
    'demo-job': 'server/jobs/demo.ts',
    'check-job': 'server/jobs/check.ts',
    'room-job': 'server/jobs/room.ts',
    'trace-thread': 'node/render/traceThread.ts',
  },
  outdir: 'dist',
  external: ['mikktspace', 'watlas', '@libsql/client', '@jsquash/webp'],
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  outExtension: { '.js': '.mjs' },
  logLevel: 'warning',
  sourcemap: 'linked',
  banner: {
    js: 'import { createRequire as ubCreateRequire } from "node:module"; const require = ubCreateRequire(import.meta.url);',
  },
})
