import { join } from 'node:path'
import { lanesOfPort } from '../../core/bake/lanes'
import { MAP_NAMES, MAPS, type MapName, type PictureFormat } from '../../core/bake/maps'
import { parseDelivery, type DeliverySettings } from '../../core/deliver/settings'
import type { Mesh } from '../../core/mesh/mesh'
import { inspectUvs } from '../../core/mesh/uvs'
import { command, wholeNumber, pictureSettings, withPictures, type PictureOptions } from '../command'
import { formatOption, type AskedFormat } from '../formats'
import { leave, leaving } from '../leave'
import { openLook, type OpenLook } from '../pieces'
import { FOUND_PROBLEMS, UsageError } from '../usage'
import { voiceOf } from '../voice'

/** What is baked where no channels are named. */
const DEFAULT_CHANNELS = ['baseColor', 'metalness', 'roughness', 'orm', 'normal', 'height', 'emission', 'opacity']

/** Reads a list of channels and ports. @throws UsageError */
function channelsOf(text: string): string[] {
  const channels = text
    .split(',')
    .map(c => c.trim())
    .filter(Boolean)
  if (!channels.length) throw new UsageError('--channels names nothing to bake.')
  const strange = channels.find(c => !MAP_NAMES.some(m => m === c) && !c.includes('/'))
  if (strange) throw new UsageError(`--channels takes ${MAP_NAMES.join(', ')}, or NODE/PORT, not "${strange}".`)
  return channels
}

interface Options extends PictureOptions {
  out: string
  format: AskedFormat[]
  channels?: string[]
  udim?: number
}

const settingsOf = ({ look }: OpenLook, options: Options, format: PictureFormat): DeliverySettings => {
  const channels = options.channels ?? DEFAULT_CHANNELS
  const ports = channels.filter(c => c.includes('/'))
  return parseDelivery({
    ...pictureSettings(options),
    format,
    meshes: [],
    maps: channels.filter((c): c is MapName => c in MAPS),
    extra: ports.map(c => ({ name: c.replaceAll('/', ' '), lanes: lanesOfPort(look, c), space: 'linear' })),
    ...(options.udim !== undefined && { tiles: [options.udim] }),
  })
}

/** Refuses a mesh that has no room for pictures, or not the tile that is asked for. */
function refuseTiles(mesh: Mesh, { mesh: path, udim }: Options): void {
  if (!mesh.uvs) throw new UsageError(`${path}: Textures need UVs, and the mesh has none; ubblet unwrap makes them.`)
  const { tiles } = inspectUvs(mesh)
  if (udim !== undefined && !tiles.includes(udim))
    throw new UsageError(`${path}: The mesh has no tile ${udim}; it has ${tiles.join(', ')}.`)
}

export const bakeCommand = () =>
  withPictures(
    command('bake', {
      summary: 'pictures of channels, one file each',
      examples: [
        ['bake moss.look.json --mesh roof.glb --out maps --size 2048', 'Every channel that the look sets.'],
        [
          'bake moss.look.json --mesh roof.glb --out maps --channels roughness,crackle/value --format png16,exr',
          'A channel and a port of a node, in two formats.',
        ],
        ['bake moss.look.json --mesh roof.glb --out maps --udim 1002', 'One tile, so that machines can share them.'],
      ],
    }),
  )
    .argument('<look>', 'a look file')
    .requiredOption('--out <folder>', 'where the pictures go')
    .addOption(formatOption('--format <list>'))
    .option('--channels <list>', `${MAP_NAMES.join(', ')}, or NODE/PORT of the look`, channelsOf)
    .option('--udim <number>', 'only this tile', wholeNumber('udim', 1001, 9999))
    .action(async (path: string, options: Options) => {
      const voice = voiceOf(options)
      const open = await openLook(path)
      const asked = options.format.map(({ word, format }) => ({ word, settings: settingsOf(open, options, format) }))
      const work = await leaving(open, options, voice, mesh => refuseTiles(mesh, options))
      const files: string[] = []
      const left = new Set<string>()
      for (const { word, settings } of asked) {
        const folder = asked.length > 1 ? join(options.out, word) : options.out
        const done = await leave(work, settings, folder, { pictures: '', contact: false }, options, voice)
        files.push(...done.files)
        for (const l of done.leftOut) left.add(l)
      }
      voice.answer({ files, leftOut: [...left] }, () => files.map(f => `${f}\n`).join(''))
      // What was named and has nothing to show is a finding; what the defaults name besides is not.
      if (options.channels && left.size) process.exitCode = FOUND_PROBLEMS
    })
