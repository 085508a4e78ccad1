import { join } from 'node:path'
import { MATCHES, type MatchBy } from '../../core/dense/partners'
import { DETAIL_KINDS, takeDetail, type DetailKind, type TakeSettings } from '../../core/dense/take'
import { loadKernels } from '../../core/kernels/kernels'
import { diagonalOf, type Mesh } from '../../core/mesh/mesh'
import { compressor } from '../../node/bake/compress'
import { command, withPreparation, type MeshOptions } from '../command'
import { write } from '../files'
import { meshFile } from '../meshFiles'
import { openPiece } from '../pieces'
import { UsageError } from '../usage'
import { voiceOf } from '../voice'

interface DetailOptions extends Omit<MeshOptions, 'mesh' | 'cache'> {
  dense: string
  out: string
  take: string
  size: string
  match: string
  outward?: string
  inward?: string
}

/** Share of the texels beyond which missing the dense mesh is a problem. */
const MANY = 0.02

export const detailCommand = () =>
  withPreparation(
    command('detail', {
      summary: 'normals, height and maps of a dense mesh, as pictures on the UVs of a light one',
      examples: [
        [
          'detail winch.glb --dense winch-high.glb --out detail',
          'Normal and height, within a hundredth of the diagonal.',
        ],
        ['detail winch.glb --dense scan.ply --take normal,convexity,COLOR_0 --match near --out detail', 'More of it.'],
      ],
    }),
  )
    .argument('<mesh>', 'the light mesh, with UVs')
    .requiredOption('--dense <file>', 'the dense mesh')
    .requiredOption('--out <folder>', 'where the pictures go: dense NAME.exr')
    .option('--take <names>', `some of ${DETAIL_KINDS.join(', ')}, or vertex maps of the dense mesh`, 'normal,height')
    .option('--size <n>', 'texels along each side of a tile', '1024')
    .option('--match <how>', `which detail a part may have: ${MATCHES.join(', ')}`, 'part')
    .option('--outward <millimeters>', 'how far outside of the surface rays begin')
    .option('--inward <millimeters>', 'how far inside of it they end')
    .action(async (mesh: string, options: DetailOptions) => {
      const voice = voiceOf(options)
      const { piece } = await openPiece({ ...options, mesh }, voice)
      const { mesh: dense } = await meshFile(options.dense)
      const settings = settingsOf(options, piece.mesh, dense)
      if (!piece.mesh.uvs) throw new UsageError(`${mesh}: it has no UVs; "ubblet unwrap" makes some.`)
      const { texels } = await loadKernels()
      const light = { mesh: piece.mesh, parts: piece.parts }
      const taken = takeDetail(texels, light, dense, settings, compressor, (share, what) => voice.progress(share, what))
      const files: string[] = []
      for (const { of, bytes } of taken.pictures) {
        const path = join(options.out, `dense ${of.replace(/[^\p{L}\p{N} _-]/gu, '')}.exr`)
        await write(path, bytes)
        files.push(path)
      }
      const sum = (list: Uint32Array): number => list.reduce((a, b) => a + b, 0)
      const texelsInAll = sum(taken.found.texels)
      const report = {
        files,
        texels: texelsInAll,
        missed: sum(taken.found.missed),
        wrong: sum(taken.found.wrong),
        alone: taken.alone.map(i => piece.parts.parts[i]!.name),
        leftOver: taken.leftOver,
      }
      voice.answer(report, () =>
        [
          ...files,
          `${((100 * (texelsInAll - report.missed)) / Math.max(1, texelsInAll)).toFixed(1)} % of ${texelsInAll} texels met the dense mesh`,
          ...(report.wrong ? [`note: ${report.wrong} texels met what belongs to another part`] : []),
          ...(report.alone.length ? [`note: without a partner: ${report.alone.slice(0, 8).join(', ')}`] : []),
          '',
        ].join('\n'),
      )
      if (report.missed > texelsInAll * MANY) process.exitCode = 1
    })

/** @throws UsageError for what there is not */
function settingsOf(options: DetailOptions, light: Mesh, dense: Mesh): TakeSettings {
  const names = options.take
    .split(',')
    .map(n => n.trim())
    .filter(Boolean)
  const isKind = (name: string): name is DetailKind => (DETAIL_KINDS as readonly string[]).includes(name)
  const vertexMaps = names.filter(n => !isKind(n))
  const unknown = vertexMaps.find(n => !dense.maps.some(m => m.name === n))
  if (unknown)
    throw new UsageError(
      `There is no "${unknown}" to take; there are ${[...DETAIL_KINDS, ...dense.maps.map(m => m.name)].join(', ')}.`,
    )
  const match = MATCHES.find((m): m is MatchBy => m === options.match)
  if (!match) throw new UsageError(`--match is ${MATCHES.join(', ')}, not "${options.match}".`)
  const size = Number(options.size)
  if (!Number.isInteger(size) || size < 16 || size > 8192)
    throw new UsageError('--size is a whole number from 16 to 8192.')
  const distance = (text: string | undefined, option: string): number => {
    if (text === undefined) return diagonalOf(light) / 100
    const millimeters = Number(text)
    if (!(millimeters >= 0)) throw new UsageError(`${option} is a length in millimeters, not "${text}".`)
    return millimeters / 1000
  }
  return {
    match,
    size,
    kinds: names.filter(isKind),
    vertexMaps,
    outward: distance(options.outward, '--outward'),
    inward: distance(options.inward, '--inward'),
    dilation: size >> 6,
  }
}
