import { basename, dirname, extname, join } from 'node:path'
import { parseDelivery } from '../../core/deliver/settings'
import { command, oneOf, pictureSettings, withPictures, type PictureOptions } from '../command'
import { formatOption, type AskedFormat } from '../formats'
import { leave, leaving, renamed } from '../leave'
import { openLook } from '../pieces'
import { UsageError } from '../usage'
import { voiceOf } from '../voice'

interface Options extends PictureOptions {
  to: string
  format: AskedFormat[]
  color: 'texture' | 'vertices'
  material: 'baked' | 'procedural'
  on: 'file' | 'analysis'
}

/** What of a delivery a file of some ending is, and what it is called there where that is something else. */
const ENDINGS: Record<string, (options: Options) => { settings: object; as?: string }> = {
  '.glb': () => ({ settings: { meshes: ['glb'] } }),
  '.ply': () => ({ settings: { meshes: ['ply'] } }),
  '.usda': () => ({ settings: { meshes: ['usda'] } }),
  '.usdz': () => ({ settings: { meshes: ['usdz'] } }),
  '.mtlx': ({ material }) =>
    material === 'procedural'
      ? { settings: { meshes: ['glb'], materials: [material] }, as: '.procedural.mtlx' }
      : { settings: { meshes: [], materials: [material] } },
  '.csv': () => ({ settings: { meshes: [], tables: ['csv'] } }),
  '.json': () => ({ settings: { meshes: [], tables: ['json'] }, as: '.parts.json' }),
}

export const exportCommand = () =>
  withPictures(
    command('export', {
      summary: 'the mesh with the look on it, its material, or a table of its parts, by the ending of the file',
      examples: [
        ['export moss.look.json --mesh roof.glb --to roof-moss.glb', 'A GLB with its pictures inside.'],
        ['export moss.look.json --mesh roof.glb --to roof.usda --color vertices', 'USD with colors on the vertices.'],
        ['export moss.look.json --mesh roof.glb --to roof.mtlx --material procedural', 'The patterns as nodes.'],
      ],
    }),
  )
    .argument('<look>', 'a look file')
    .requiredOption('--to <file>', `the file: ${Object.keys(ENDINGS).join(', ')}`)
    .addOption(formatOption('--format <word>'))
    .option('--color <where>', 'texture or vertices', oneOf('color', ['texture', 'vertices']), 'texture')
    .option('--material <kind>', 'baked or procedural', oneOf('material', ['baked', 'procedural']), 'baked')
    .option(
      '--on <mesh>',
      'the vertices of the file, or of the analysis mesh',
      oneOf('on', ['file', 'analysis']),
      'file',
    )
    .action(async (path: string, options: Options) => {
      const voice = voiceOf(options)
      const { to } = options
      const ending = extname(to)
      const made = ENDINGS[ending.toLowerCase()]?.(options)
      if (!made) throw new UsageError(`${to}: export writes ${Object.keys(ENDINGS).join(', ')}.`)
      if (options.format.length > 1) throw new UsageError('--format takes one format here; bake takes several.')
      const settings = parseDelivery({
        ...pictureSettings(options),
        format: options.format[0]!.format,
        colorIn: options.color,
        on: options.on,
        ...made.settings,
      })
      const work = await leaving(await openLook(path), options, voice)
      const folder = dirname(to)
      const stem = basename(to, ending)
      const done = await leave(work, settings, folder, { stem, bare: true }, options, voice)
      const files = made.as ? await renamed(done.files, join(folder, `${stem}${made.as}`), to) : done.files
      voice.answer({ files }, () => files.map(f => `${f}\n`).join(''))
    })
