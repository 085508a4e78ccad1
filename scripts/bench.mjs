// npm run bench: medians and ratios against a baseline in the same run, as JSON.
import { WITH_REQUIRE } from './bundling.mjs'
import { build, chromium, must, setup } from './lib.mjs'

if (process.argv.includes('--no-browser')) setup()
else build()
const { build: bundle } = await import('esbuild')
await bundle({
  entryPoints: ['tests/bench/main.ts'],
  outfile: 'dist/bench.mjs',
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  logLevel: 'warning',
  external: ['@playwright/test', 'mikktspace'],
  banner: WITH_REQUIRE,
})
must(process.execPath, ['dist/bench.mjs', ...process.argv.slice(2)], {
  env: { ...process.env, ...(!process.argv.includes('--no-browser') && { CHROMIUM: chromium() }) },
})
