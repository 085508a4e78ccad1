// Compiles the AssemblyScript kernels and writes them as modules that carry the bytes, so that core needs no file
// access in any host. In one process: the compiler takes most of its time to get going.
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import asc from 'assemblyscript/asc'

const OPTIONS = [
  ['--runtime', 'stub'],
  ['--enable', 'simd'],
  ['-O3'],
  ['--converge'],
  ['--noAssert'],
  ['--initialMemory', '2'],
  ['--use', 'abort='],
  ['--disableWarning', '112'],
].flat()

mkdirSync('core/kernels/generated', { recursive: true })
for (const [source, name] of [
  ['index', 'bytes'],
  ['texels', 'texelBytes'],
  ['surface', 'surfaceBytes'],
  ['rays', 'rayBytes'],
]) {
  const wasm = `core/kernels/generated/${source}.wasm`
  const { error, stderr } = await asc.main([`core/kernels/assembly/${source}.ts`, '-o', wasm, ...OPTIONS])
  const said = stderr.toString()
  if (said) console.error(said)
  if (error) process.exit(1)
  writeFileSync(
    `core/kernels/generated/${name}.ts`,
    `/** The compiled kernels, base64. Made by scripts/kernels.mjs. */\nexport const KERNELS =\n  '${readFileSync(wasm).toString('base64')}'\n`,
  )
}
