import { inspect, type InspectedSurface } from '../../core/exchange/inspect'
import { command, withPreparation, type MeshOptions } from '../command'
import { openPiece } from '../pieces'
import { voiceOf } from '../voice'

/** What the file says of a material, in a line. */
function materialLine({ name, baseColor, metalness, roughness, pictures }: InspectedSurface): string {
  const shown = pictures.length ? `, pictures: ${pictures.map(p => p.use).join(', ')}` : ''
  const color = baseColor.map(x => x.toFixed(3)).join(' ')
  return `material ${name}: base color ${color}, metalness ${metalness}, roughness ${roughness}${shown}`
}

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
          ...(report.nodes
            ? [`${report.nodes} nodes; what stands in them: ${report.shapes} different, ${levels.object} in all`]
            : []),
          `vertex maps: ${attributes.map(a => `${a.name} (${a.components})`).join(', ') || 'none'}`,
          `UV sets: ${report.uvSets}${tiles}`,
          ...report.surfaces.map(materialLine),
          ...report.warnings.map(w => `note: ${w}`),
          '',
        ].join('\n'),
      )
    })
