import { inspect } from '../../core/exchange/inspect'
import { command, withPreparation, type MeshOptions } from '../command'
import { openPiece } from '../pieces'
import { voiceOf } from '../voice'

export const inspectCommand = () =>
  withPreparation(
    command('inspect', {
      summary: 'what a mesh file holds',
      examples: [
        ['inspect pier.glb', 'Parts, objects, vertex maps, UVs, and what is odd about the file.'],
        ['inspect pier.glb --json', 'The same, with key, name, area and place of every part.'],
      ],
    }),
  )
    .argument('<mesh>', 'a mesh file')
    .action(async (mesh: string, options: Omit<MeshOptions, 'mesh' | 'cache'>) => {
      const voice = voiceOf(options)
      const { piece } = await openPiece({ ...options, mesh }, voice)
      const report = inspect(piece.mesh, piece.parts, piece.arranged.measures)
      const { levels, attributes, udims } = report
      const tiles = udims.length > 1 ? `, tiles ${udims.join(' ')}` : ''
      voice.answer(report, () =>
        [
          `${report.triangles} triangles, ${report.vertices} vertices`,
          `${levels.object} objects, ${levels.group} groups, ${levels.part} parts, ${levels.patch} patches`,
          `vertex maps: ${attributes.map(a => `${a.name} (${a.components})`).join(', ') || 'none'}`,
          `UV sets: ${report.uvSets}${tiles}`,
          ...report.warnings.map(w => `note: ${w}`),
          '',
        ].join('\n'),
      )
    })
