import { parseDelivery, type DeliverySettings } from '../../core/deliver/settings'
import { BAKE_SIZES } from '../../core/bake/maps'
import { command, oneOf, withBaking, type BakingOptions } from '../command'
import { documentOf } from '../files'
import { leave, leaving } from '../leave'
import { openLook } from '../pieces'
import { FOUND_PROBLEMS } from '../usage'
import { voiceOf } from '../voice'

interface Options extends BakingOptions {
  out: string
  settings?: string
  size?: (typeof BAKE_SIZES)[number]
}

async function settingsOf({ settings, size, seed }: Options): Promise<DeliverySettings> {
  const asked = { ...(size && { size }), ...(seed && { seeds: [seed] }) }
  if (!settings) return parseDelivery(asked)
  const read = await documentOf(settings, 'file of delivery settings', parseDelivery)
  return { ...read, ...asked }
}

export const deliverCommand = () =>
  withBaking(
    command('deliver', {
      summary: 'everything at once, with a manifest',
      examples: [
        ['deliver moss.look.json --mesh roof.glb --out roof', 'A GLB, with manifest, key table and contact picture.'],
        ['deliver moss.look.json --mesh roof.glb --out roof --settings film.json', 'What a file of settings asks for.'],
        ['deliver roof.look.zip --mesh roof-v2.obj --out roof', 'Another export: the keys in the zip keep its draws.'],
      ],
    }),
  )
    .argument('<look>', 'a look file')
    .requiredOption('--out <folder>', 'where the delivery goes')
    .option('--settings <file>', 'what it is to hold, as the interface saves it')
    .option('--size <number>', `pixels along a side: ${BAKE_SIZES.join(', ')}`, oneOf('size', BAKE_SIZES))
    .action(async (path: string, options: Options) => {
      const voice = voiceOf(options)
      const settings = await settingsOf(options)
      const work = await leaving(await openLook(path), options, voice)
      const { files, leftOut } = await leave(work, settings, options.out, {}, options, voice)
      voice.answer({ files, leftOut }, () => files.map(f => `${f}\n`).join(''))
      if (leftOut.length) process.exitCode = FOUND_PROBLEMS
    })
