import { join } from 'node:path'
import { mkdir } from 'node:fs/promises'
import { pngOf } from '../../core/bake/png'
import { reseed } from '../../core/graph/recipe'
import { loadKernels } from '../../core/kernels/kernels'
import type { RigName } from '../../core/trace/rigs'
import { stills, type StillPart, type StillView } from '../../core/light/still'
import { compressor } from '../../node/bake/compress'
import { command, seedOption, wholeNumber, withMesh, type MeshOptions } from '../command'
import { write } from '../files'
import { openLook, openMesh } from '../pieces'
import { rigOption, showOption, STAGE_GRAY, withoutOption, sizeOption, type Size } from '../shown'
import { voiceOf } from '../voice'

const MOST_FRAMES = 3600

interface Options extends MeshOptions {
  to: string
  frames: number
  size: Size
  rig: RigName
  show: StillView
  without: StillPart[]
  seed: number
}

export const turntableCommand = () =>
  withMesh(
    command('turntable', {
      summary: 'a look on a mesh that turns once about the vertical, as a sequence of pictures',
      examples: [
        ['turntable drift.look.json --mesh rack.glb --to turning --frames 48', 'turning/0001.png to turning/0048.png.'],
      ],
    }),
  )
    .argument('<look>', 'a look file')
    .requiredOption('--to <folder>', 'where the pictures go: PNG, numbered from 0001')
    .option('--frames <number>', 'pictures of one turn', wholeNumber('frames', 2, MOST_FRAMES), 24)
    .addOption(sizeOption({ width: 640, height: 480 }))
    .addOption(rigOption())
    .addOption(showOption())
    .addOption(withoutOption())
    .addOption(seedOption())
    .action(async (path: string, options: Options) => {
      const voice = voiceOf(options)
      const { to, frames, size, rig, show, without, seed } = options
      const open = await openLook(path)
      const { tables } = (await openMesh(options, voice, open)).piece
      const look = reseed(open.look, seed)
      const picture = stills(await loadKernels(), tables, {
        ...size,
        rig,
        show,
        without,
        background: STAGE_GRAY,
      })
      await mkdir(to, { recursive: true })
      const files: string[] = []
      for (let i = 0; i < frames; i++) {
        voice.progress(i / frames, `picture ${i + 1} of ${frames}`)
        const name = join(to, `${String(i + 1).padStart(4, '0')}.png`)
        const data = picture(look, (i * 360) / frames)
        await write(name, pngOf({ ...size, data, channels: 4 }, compressor))
        files.push(name)
      }
      voice.progress(1, to)
      voice.answer({ files, ...size }, () => `${files.length} pictures in ${to}\n`)
    })
