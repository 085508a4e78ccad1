import { availableParallelism, homedir } from 'node:os'
import { join } from 'node:path'
import { Command, Option } from 'commander'
import { MESH_ENDINGS } from '../core/exchange/readers'
import { BAKE_SIZES } from '../core/bake/maps'
import { UsageError } from './usage'

/** What a command of ours needs beside its options: a summary for the list, and calls that show how it is used. */
export interface Told {
  summary: string
  /** Whole calls, each with what it does. */
  examples: readonly (readonly [call: string, does: string])[]
}

/**
 * A command of `ubblet`. It takes `--json` and `--quiet`, says nothing by itself when a call is wrong (`main` does),
 * and shows its examples below its help.
 */
export function command(name: string, { summary, examples }: Told): Command {
  const lines = examples.map(([call, does]) => `  ${does}\n    ubblet ${call}`)
  return new Command(name)
    .description(summary)
    .option('--json', 'answer in JSON, errors as well')
    .option('--quiet', 'no progress and no notes')
    .exitOverride()
    .configureOutput({ writeErr: () => {} })
    .showSuggestionAfterError(true)
    .addHelpText('after', `\nExamples:\n${lines.join('\n')}`)
}

/** Reads a whole number of an option. @throws UsageError where it is none, or out of range */
export function wholeNumber(option: string, from: number, to: number) {
  return (text: string): number => {
    const value = Number(text)
    if (text.trim() === '' || !Number.isInteger(value) || value < from || value > to)
      throw new UsageError(`--${option} takes a whole number from ${from} to ${to}, not "${text}".`)
    return value
  }
}

/** Reads any number of an option. @throws UsageError where it is none */
export function anyNumber(option: string) {
  return (text: string): number => {
    const value = Number(text)
    if (text.trim() === '' || !Number.isFinite(value))
      throw new UsageError(`--${option} takes a number, not "${text}".`)
    return value
  }
}

/** Reads one of several words. @throws UsageError where it is none of them */
export function oneOf<T extends string | number>(option: string, choices: readonly T[]) {
  return (text: string): T => {
    const found = choices.find(c => String(c) === text)
    if (found === undefined) throw new UsageError(`--${option} takes ${choices.join(', ')}, not ${text || 'nothing'}.`)
    return found
  }
}

/** What every command takes. */
export interface VoiceOptions {
  json?: true
  quiet?: true
}

/** What commands take that open a mesh. */
export interface MeshOptions extends VoiceOptions {
  mesh: string
  preparation?: string
  keys?: string
  cache: string
}
/** @param optional whether the call may do without a mesh */
export function withMesh(of: Command, optional = false): Command {
  const mesh = new Option('--mesh <file>', `the mesh: ${MESH_ENDINGS.join(', ')}`)
  return withPreparation(of.addOption(optional ? mesh : mesh.makeOptionMandatory())).addOption(cacheOption())
}
export const withPreparation = (of: Command): Command =>
  of
    .option('--preparation <file>', 'how the mesh is prepared: units, groups, part sets, geometry maps')
    .option('--keys <file>', 'the key table of the project (keys.json of a delivery): other exports keep their draws')

/** What commands take that bake pictures. */
export interface BakingOptions extends MeshOptions {
  seed: number
  threads: number
}
export const withBaking = (of: Command): Command => withMesh(of).addOption(seedOption()).addOption(threadsOption())

/** What commands take that bake pictures as files. */
export interface PictureOptions extends BakingOptions {
  size: (typeof BAKE_SIZES)[number]
  samples: 1 | 2 | 4
  dilation: number
  dither?: true
}
export const withPictures = (of: Command): Command =>
  withBaking(of)
    .option('--size <number>', `pixels along a side: ${BAKE_SIZES.join(', ')}`, oneOf('size', BAKE_SIZES), 1024)
    .option('--samples <number>', 'along each side of a pixel: 1, 2 or 4', oneOf('samples', [1, 2, 4]), 1)
    .option('--dilation <number>', 'pixels that colors reach beyond their islands', wholeNumber('dilation', 0, 64), 8)
    .option('--dither', 'spreads what 8 bits cannot hold')

export const threadsOption = (): Option =>
  new Option('--threads <number>', 'how many threads work')
    .argParser(wholeNumber('threads', 0, 256))
    .default(availableParallelism(), 'as many as there are cores')

/** These options as settings of a delivery. */
export const pictureSettings = ({ size, samples, dilation, dither, seed }: PictureOptions) => ({
  size,
  samples,
  dilation,
  dither: dither ?? false,
  seeds: [seed],
})

/** The seed that all draws of a look are moved by; 0 leaves them. */
export const seedOption = (): Option =>
  new Option('--seed <number>', 'moves all draws; 0 is the look as it is')
    .argParser(wholeNumber('seed', 0, 1_000_000))
    .default(0)

const cacheOption = (): Option =>
  new Option('--cache <folder>', 'where finished maps and pictures are kept')
    .env('UBBLET_CACHE')
    .default(
      join(process.env.XDG_CACHE_HOME ?? join(homedir(), '.cache'), 'ubblet'),
      "ubblet in the user's cache folder",
    )
