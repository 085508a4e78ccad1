import { CHANNEL_NAMES, CHANNELS, type Channel } from '../graph/types'
import type { Program } from './lower'
import { UNIFORM, type Ref } from './ops'

/** What the stage shows of a port: one number, three, or the finish as if it were the result. */
export type Probed = 'value' | 'color' | 'finish'

/**
 * A program whose result is what runs through a port (`node/port`): a number takes the place of the height, three
 * numbers that of the emission, for neither is held within limits. Undefined where the program has no such port.
 */
export function probe(program: Program, port: string): { program: Program; shows: Probed } | undefined {
  const found = program.outputs.get(port)
  if (!found) return undefined
  if (found.type === 'value')
    return { program: { ...program, result: { ...program.result, height: [found.value] } }, shows: 'value' }
  if (found.type !== 'finish')
    return { program: { ...program, result: { ...program.result, emission: found.value } }, shows: 'color' }
  const code = [...program.code]
  const domains = [...program.domains]
  const constant = (value: number): Ref => {
    domains.push(UNIFORM)
    return code.push({ op: 'constant', value }) - 1
  }
  const result = Object.fromEntries(
    CHANNEL_NAMES.map(name => [name, found.value[name] ?? CHANNELS[name].fallback.map(constant)]),
  ) as Record<Channel, Ref[]>
  return {
    program: { ...program, code, domains, result, sets: new Set(CHANNEL_NAMES.filter(name => found.value[name])) },
    shows: 'finish',
  }
}
