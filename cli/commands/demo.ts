import { join } from 'node:path'
import { fileStem } from '../../core/exchange/names'
import { writeGlb } from '../../core/exchange/writeGlb'
import { DEMOS, type DemoCounts } from '../../demo'
import { command, type VoiceOptions } from '../command'
import { write } from '../files'
import { voiceOf } from '../voice'

const json = (data: unknown): string => `${JSON.stringify(data, null, 1)}\n`

export const demoCommand = () =>
  command('demo', {
    summary: 'writes the demo meshes, preparations and looks as files',
    examples: [['demo pier', 'Three meshes of a ferry pier, with two looks each, and a dense one.']],
  })
    .argument('<folder>', 'where they go')
    .action(async (folder: string, options: VoiceOptions) => {
      const written: { file: string; counts?: DemoCounts }[] = []
      for (const demo of DEMOS) {
        const { mesh, counts } = demo.make()
        const put = async (name: string, data: Uint8Array | string): Promise<void> => {
          await write(join(folder, name), data)
          written.push({ file: name, ...(name.endsWith('.glb') && { counts }) })
        }
        await put(`${demo.file}.glb`, await writeGlb(mesh, demo.title))
        if (demo.dense) {
          const name = `${demo.file}-dense.glb`
          await write(join(folder, name), await writeGlb(demo.dense(), demo.title))
          written.push({ file: name })
        }
        await put(`${demo.file}.preparation.json`, json(demo.preparation()))
        for (const [i, make] of demo.looks.entries()) {
          const look = make()
          await put(`${demo.file}${i ? `-${fileStem(look.name)}` : ''}.look.json`, json(look))
        }
      }
      voiceOf(options).answer(written, () => written.map(w => `${join(folder, w.file)}\n`).join(''))
    })
