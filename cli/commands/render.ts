import { extname } from 'node:path'
import type { Surroundings } from '../../core/trace/light'
import { readLight } from '../../core/trace/lightPicture'
import type { RigName } from '../../core/trace/rigs'
import { render, toExr, toPng } from '../../node/render/render'
import { anyNumber, command, threadsOption, wholeNumber, type VoiceOptions } from '../command'
import { file, lookAhead, write } from '../files'
import { rigOption, sizeOption, type Size } from '../shown'
import { UsageError } from '../usage'
import { voiceOf } from '../voice'

/** A picture of surroundings to light by. */
async function lightFile(path: string): Promise<Surroundings> {
  const bytes = await file(path)
  try {
    return readLight(path, bytes.slice().buffer)
  } catch (error) {
    throw new UsageError((error as Error).message)
  }
}

interface Options extends VoiceOptions {
  to: string
  size: Size
  samples: number
  rig: RigName
  light?: string
  turn: number
  plate: number
  threads: number
}

export const renderCommand = () =>
  command('render', {
    summary: 'a path-traced picture of a delivered GLB',
    examples: [
      ['render roof-moss.glb --to roof.png --size 960x720 --rig lowSun', 'In the light of a rig of the stage.'],
      ['render roof-moss.glb --to roof.exr --light yard.hdr --turn 40', 'In the light of a picture; linear values.'],
    ],
  })
    .argument('<glb>', 'a delivered GLB')
    .requiredOption('--to <picture>', '.png or .exr')
    .addOption(sizeOption({ width: 480, height: 360 }))
    .option('--samples <number>', 'rays through each pixel', wholeNumber('samples', 1, 65536), 64)
    .addOption(rigOption())
    .option('--light <file>', 'a picture of surroundings instead: .hdr or .exr')
    .option('--turn <degrees>', 'of the light about the vertical', anyNumber('turn'), 0)
    .option('--plate <strength>', 'of a plate of light above', anyNumber('plate'), 0)
    .addOption(threadsOption())
    .action(async (path: string, options: Options) => {
      const voice = voiceOf(options)
      const { to, samples, turn, plate, threads } = options
      const ending = extname(to).toLowerCase()
      if (ending !== '.png' && ending !== '.exr') throw new UsageError(`${to}: render writes .png and .exr.`)
      await lookAhead(to)
      const { width, height } = options.size
      const bytes = await file(path)
      const light = options.light ? await lightFile(options.light) : options.rig
      const settings = { width, height, samples, light, turn, plate, brightness: 1, threads: Math.max(1, threads) }
      const traced = await render(bytes, settings).catch((error: Error) => {
        throw new UsageError(`${path}: ${error.message}`)
      })
      await write(to, ending === '.png' ? toPng(traced, width, height) : await toExr(traced, width, height))
      voice.answer({ file: to, width, height, samples }, () => `${to}\n`)
    })
