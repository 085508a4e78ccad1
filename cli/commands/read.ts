import { command, type VoiceOptions } from '../command'
import { write } from '../files'
import { openLook } from '../pieces'
import { voiceOf } from '../voice'

export const readCommand = () =>
  command('read', {
    summary: 'a material document as a look, as far as it is known',
    examples: [['read copper.mtlx --to copper.look.json', 'What could not be taken over is listed.']],
  })
    .argument('<document>', 'a MaterialX document')
    .requiredOption('--to <look>', 'the look file')
    .action(async (path: string, options: VoiceOptions & { to: string }) => {
      const { look, report } = await openLook(path)
      await write(options.to, `${JSON.stringify(look, null, 1)}\n`)
      voiceOf(options).answer({ file: options.to, report }, () => [options.to, ...report, ''].join('\n'))
    })
