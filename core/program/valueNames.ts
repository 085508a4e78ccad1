import { inOrder, titleOf } from '../graph/check'
import { flatten } from '../graph/flatten'
import { kindFor } from '../graph/kinds'
import type { Look } from '../graph/look'
import { CHANNELS, type Channel } from '../graph/types'
import type { Lowered } from '../nodes/declare'
import type { Program } from './lower'
import { isGathered, readsOf, type Instruction, type Ref } from './ops'

/** What a value is called after. */
export interface ValueName {
  /** The title of the first node, in the order of evaluation, that needs the value. */
  node: string
  /** The output of that node that the value is; it is a step on the way to one where there is none. */
  output?: string
  /** The id of the look's own recipe that the node is in. */
  recipe?: string
}

const LANES = ['red', 'green', 'blue']
/** The values that an output gives out, each with its name. */
function namedRefs(title: string, out: Lowered): [output: string, ref: Ref][] {
  if (out.type === 'value') return [[title, out.value]]
  if (out.type === 'finish')
    return Object.entries(out.value).flatMap(([channel, refs]) => {
      const called = CHANNELS[channel as Channel].title.toLowerCase()
      // Before the three of a color there may be a share of its own.
      const alone = refs.length % 3
      return refs.map((ref, i): [string, Ref] => [i < alone ? called : `${called} ${LANES[i - alone]}`, ref])
    })
  return out.value.map((ref, i): [string, Ref] => [`${title} ${LANES[i] ?? i}`, ref])
}

/** The values that an instruction reads. */
export const operandsOf = (i: Instruction): readonly Ref[] => {
  if ('args' in i) return i.args
  return isGathered(i) ? readsOf(i) : []
}

/** What each value of a look's program is called after, for people who read it as a document of nodes. */
export function valueNames(folded: Look, program: Program): ReadonlyMap<Ref, ValueName> {
  const names = new Map<Ref, ValueName>()
  for (const node of inOrder(flatten(folded))) {
    const title = titleOf(node)
    const within = node.id.includes('/') ? { recipe: node.id.split('/')[0]! } : {}
    const outputs = Object.entries(kindFor(node)?.outputs ?? {}).flatMap(([port, { title: called }]) => {
      const out = program.outputs.get(`${node.id}/${port}`)
      return out ? namedRefs(called, out) : []
    })
    for (const [output, ref] of outputs) if (!names.has(ref)) names.set(ref, { node: title, output, ...within })
    const steps = outputs.flatMap(([, ref]) => operandsOf(program.code[ref]!))
    for (let ref = steps.pop(); ref !== undefined; ref = steps.pop()) {
      if (names.has(ref)) continue
      names.set(ref, { node: title, ...within })
      steps.push(...operandsOf(program.code[ref]!))
    }
  }
  return names
}
