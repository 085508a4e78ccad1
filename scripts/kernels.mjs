// Compiles the AssemblyScript kernels and writes them as a module that carries the bytes, so that core needs no file
// access in any host.
import { execFileSync } from 'node:child_process'
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'

mkdirSync('core/kernels/generated', { recursive: true })
const wasm = 'core/kernels/generated/kernels.wasm'
execFileSync(process.execPath, ['node_modules/assemblyscript/bin/asc.js', 'core/kernels/assembly/index.ts', '-o', wasm,
  '--runtime', 'stub', '--enable', 'simd', '-O3', '--converge', '--noAssert', '--initialMemory', '2', '--use', 'abort=', '--disableWarning', '112'],
{ stdio: 'inherit' })
writeFileSync('core/kernels/generated/bytes.ts',
  `/** The compiled kernels, base64. Made by scripts/kernels.mjs. */\nexport const KERNELS =\n  '${readFileSync(wasm).toString('base64')}'\n`)
