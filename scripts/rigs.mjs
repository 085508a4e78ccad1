// Prefilters the lights of the stage, for machines whose graphics card is software: half floats, level by level, face
// by face, four a texel.
import { mkdirSync, writeFileSync } from 'node:fs'
import { build } from 'esbuild'
import { DataUtils } from 'three'

const FOLDER = 'app/stage/generated'
const bundled = 'node_modules/.cache/ubblet-rigs.mjs'

await build({
  stdin: {
    contents: `export { prefilteredRig } from './core/light/prefiltered'; export { RIGS } from './core/trace/rigs'`,
    resolveDir: process.cwd(),
    loader: 'ts',
  },
  outfile: bundled,
  bundle: true,
  platform: 'node',
  format: 'esm',
  external: ['three'],
})
const { prefilteredRig, RIGS } = await import(`../${bundled}`)

mkdirSync(FOLDER, { recursive: true })
for (const name of Object.keys(RIGS)) {
  const halves = []
  for (const { faces } of prefilteredRig(name).cubeMap())
    for (const face of faces)
      for (let i = 0; i < face.length; i += 3)
        halves.push(...[face[i], face[i + 1], face[i + 2], 1].map(DataUtils.toHalfFloat))
  writeFileSync(`${FOLDER}/${name}.bin`, Uint16Array.from(halves))
}
