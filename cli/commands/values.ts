import { partValues, partValuesCsv } from '../../core/bake/values'
import { reseed } from '../../core/graph/recipe'
import { loadKernels } from '../../core/kernels/kernels'
import { LaidLook } from '../../core/evaluate/laidLook'
import { command, seedOption, withMesh, type MeshOptions } from '../command'
import { openLook, openMesh } from '../pieces'
import { voiceOf } from '../voice'

export const valuesCommand = () =>
  withMesh(
    command('values', {
      summary: 'key, name, area and mean of each channel for every part, as CSV',
      examples: [['values drift.look.json --mesh rack.glb --seed 4 > parts.csv', 'The table of the fourth roll.']],
    }),
  )
    .argument('<look>', 'a look file')
    .addOption(seedOption())
    .action(async (path: string, options: MeshOptions & { seed: number }) => {
      const voice = voiceOf(options)
      const open = await openLook(path)
      const look = reseed(open.look, options.seed)
      const { tables } = (await openMesh(options, voice, open)).piece
      const rows = partValues(LaidLook.of(await loadKernels(), tables, look), look)
      voice.answer(rows, () => partValuesCsv(rows))
    })
