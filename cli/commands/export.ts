import { basename, dirname, extname, join } from 'node:path'
import { DELIVERY_FORMATS, MATERIAL_WORDS } from '../../core/deliver/formats'
import type { DeliveryFormat } from '../../core/deliver/formats/declare'
import { parseDelivery, RELIEF_WORDS } from '../../core/deliver/settings'
import {
  COMPRESSION_WORDS,
  GLB_PICTURE_WORDS,
  type Compression,
  type GlbPictures,
} from '../../core/exchange/compression'
import { command, oneOf, pictureSettings, withPictures, type PictureOptions } from '../command'
import { lookAhead } from '../files'
import { formatOption, type AskedFormat } from '../formats'
import { leave, leaving, renamed } from '../leave'
import { openLook } from '../pieces'
import { UsageError } from '../usage'
import { voiceOf } from '../voice'

interface Options extends PictureOptions {
  to: string
  format: AskedFormat[]
  color: 'texture' | 'vertices'
  material: (typeof MATERIAL_WORDS)[number]
  on: 'file' | 'analysis'
  compress: Compression
  pictures: GlbPictures
  relief: (typeof RELIEF_WORDS)[number]
}

const ENDINGS = [...new Set(DELIVERY_FORMATS.map(f => f.ending))]

/** The format of a file by its ending. @throws UsageError where there is none */
function formatOf(to: string, { material }: Options): DeliveryFormat {
  const ending = extname(to).toLowerCase()
  const found = DELIVERY_FORMATS.find(f => f.ending === ending && (f.section !== 'materials' || f.word === material))
  if (!found) throw new UsageError(`${to}: export writes ${ENDINGS.join(', ')}.`)
  return found
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
    .requiredOption('--to <file>', `the file: ${ENDINGS.join(', ')}`)
    .addOption(formatOption('--format <word>'))
    .option('--color <where>', 'texture or vertices', oneOf('color', ['texture', 'vertices']), 'texture')
    .option('--material <kind>', 'baked or procedural', oneOf('material', MATERIAL_WORDS), 'baked')
    .option(
      '--on <mesh>',
      'the vertices of the file, or of the analysis mesh',
      oneOf('on', ['file', 'analysis']),
      'file',
    )
    .option('--relief <how>', 'height as normal, displacement or both', oneOf('relief', RELIEF_WORDS), 'normal')
    .option('--compress <how>', 'pack a GLB: none, exact or quantized', oneOf('compress', COMPRESSION_WORDS), 'none')
    .option('--pictures <how>', 'in a GLB: png, or webp without loss', oneOf('pictures', GLB_PICTURE_WORDS), 'png')
    .action(async (path: string, options: Options) => {
      const voice = voiceOf(options)
      const { to } = options
      const format = formatOf(to, options)
      if (options.format.length > 1) throw new UsageError('--format takes one format here; bake takes several.')
      const settings = parseDelivery({
        ...pictureSettings(options),
        format: options.format[0]!.format,
        colorIn: options.color,
        on: options.on,
        compression: options.compress,
        glbPictures: options.pictures,
        relief: options.relief,
        ...(format.with ?? { meshes: [] }),
        [format.section]: [format.word],
      })
      await lookAhead(to)
      const work = await leaving(await openLook(path), options, voice)
      const folder = dirname(to)
      const stem = basename(to, extname(to))
      const done = await leave(work, settings, folder, { stem, bare: true }, options, voice)
      const written = join(folder, `${stem}${format.suffix ?? format.ending}`)
      const files = written === to ? done.files : await renamed(done.files, written, to)
      voice.answer({ files }, () => files.map(f => `${f}\n`).join(''))
    })
