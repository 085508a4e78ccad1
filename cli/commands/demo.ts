import { join } from 'node:path'
import { partedDense } from '../../core/dense/partners'
import { fileStem } from '../../core/exchange/names'
import { writeGlb } from '../../core/exchange/writeGlb'
import { loadKernels } from '../../core/kernels/kernels'
import type { Mesh } from '../../core/mesh/mesh'
import { findParts } from '../../core/mesh/parts'
import { DEMOS, type DemoCounts } from '../../demo'
import { demoPictures, type DemoPicture } from '../../demo/detail'
import { compressor } from '../../node/bake/compress'
import { command, type VoiceOptions } from '../command'
import { write } from '../files'
import { voiceOf } from '../voice'

const json = (data: unknown): string => `${JSON.stringify(data, null, 1)}\n`

/** What looks read of a dense mesh. */
async function takenFrom(mesh: Mesh, dense: Mesh): Promise<DemoPicture[]> {
  const { texels } = await loadKernels()
  return demoPictures(texels, { mesh, parts: findParts(mesh) }, partedDense(dense), compressor)
}

export const demoCommand = () =>
  command('demo', {
    summary: 'writes the demo meshes, preparations and looks as files',
    examples: [['demo pier', 'Three meshes of a ferry pier, with their looks, and a dense one.']],
  })
    .argument('<folder>', 'where they go')
    .option('--no-detail', 'leaves out the dense mesh and what a look reads of it; making them needs most of the time')
    .action(async (folder: string, options: VoiceOptions & { detail: boolean }) => {
      const written: { file: string; counts?: DemoCounts }[] = []
      for (const demo of DEMOS) {
        const { mesh, counts } = demo.make()
        const put = async (name: string, data: Uint8Array | string): Promise<void> => {
          await write(join(folder, name), data)
          written.push({ file: name, ...(name === `${demo.file}.glb` && { counts }) })
        }
        await put(`${demo.file}.glb`, await writeGlb(mesh, demo.title))
        if (demo.dense && options.detail) {
          const dense = demo.dense()
          await put(`${demo.file}-dense.glb`, await writeGlb(dense, demo.title))
          for (const { name, bytes } of await takenFrom(mesh, dense)) await put(name, bytes)
        }
        await put(`${demo.file}.preparation.json`, json(demo.preparation()))
        for (const [i, make] of demo.looks.entries()) {
          const look = make()
          await put(`${demo.file}${i ? `-${fileStem(look.name)}` : ''}.look.json`, json(look))
        }
      }
      voiceOf(options).answer(written, () => written.map(w => `${join(folder, w.file)}\n`).join(''))
    })
