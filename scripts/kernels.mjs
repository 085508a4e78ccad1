// Compiles the AssemblyScript kernels and writes them as modules that carry the bytes, so that core needs no file
// access in any host.
import { execFileSync } from 'node:child_process'
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'

mkdirSync('core/kernels/generated', { recursive: true })
for (const [source, name] of [
  ['index', 'bytes'],
  ['texels', 'texelBytes'],
  ['surface', 'surfaceBytes'],
  ['rays', 'rayBytes'],
]) {
  const wasm = `core/kernels/generated/${source}.wasm`
  execFileSync(
    process.execPath,
    [
      'node_modules/assemblyscript/bin/asc.js',
      `core/kernels/assembly/${source}.ts`,
      '-o',
      wasm,
      '--runtime',
      'stub',
      '--enable',
      'simd',
      '-O3',
      '--converge',
      '--noAssert',
      '--initialMemory',
      '2',
      '--use',
      'abort=',
      '--disableWarning',
      '112',
    ],
    { stdio: 'inherit' },
  )
  writeFileSync(
    `core/kernels/generated/${name}.ts`,
    `/** The compiled kernels, base64. Made by scripts/kernels.mjs. */\nexport const KERNELS =\n  '${readFileSync(wasm).toString('base64')}'\n`,
  )
}
