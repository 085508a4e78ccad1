import { extname } from 'node:path'
import { unwrap } from '../../core/exchange/unwrap'
import { MeshFileError } from '../../core/exchange/readMesh'
import { command, type VoiceOptions } from '../command'
import { lookAhead, write } from '../files'
import { meshFile } from '../meshFiles'
import { UsageError } from '../usage'
import { voiceOf } from '../voice'

export const unwrapCommand = () =>
  command('unwrap', {
    summary: 'a mesh with UVs made anew, in one tile, as GLB',
    examples: [['unwrap pier.obj --to pier-uv.glb', 'Vertices are split where charts part; everything else stays.']],
  })
    .argument('<mesh>', 'a mesh file')
    .requiredOption('--to <file>', 'the .glb to write')
    .action(async (path: string, options: VoiceOptions & { to: string }) => {
      const { to } = options
      if (extname(to).toLowerCase() !== '.glb') throw new UsageError(`${to}: unwrap writes .glb.`)
      await lookAhead(to)
      const { mesh } = await meshFile(path)
      const bytes = await unwrap(mesh).catch((error: unknown) => {
        throw error instanceof MeshFileError ? new UsageError(`${path}: ${error.message}`) : error
      })
      await write(to, bytes)
      voiceOf(options).answer({ file: to, bytes: bytes.length }, () => `${to}\n`)
    })
