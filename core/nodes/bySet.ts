import { CHANNEL_NAMES, CHANNELS } from '../graph/types'
import { defineNode, type FinishRefs, type InputDeclaration, type ParamDeclaration } from './declare'

const PLACES = ['a', 'b', 'c', 'd'] as const

export default defineNode({
  kind: 'bySet',
  title: 'By part set',
  family: 'Finishes',
  help: 'Gives each part set a finish of its own. The first set that holds a part decides; parts in none, and channels that a finish leaves alone, fall through to the rest.',
  words: ['assign', 'material id', 'per object', 'multi material', 'areas'],
  inputs: {
    rest: {
      type: 'finish',
      title: 'Rest',
      missing: 'A plain gray finish.',
      needed: true,
      help: 'The finish of all other parts.',
    },
    ...Object.fromEntries(
      PLACES.map((p): [string, InputDeclaration] => [
        p,
        {
          type: 'finish',
          title: p.toUpperCase(),
          missing: 'These parts keep the rest.',
          help: `The finish of set ${p.toUpperCase()}.`,
        },
      ]),
    ),
  },
  params: Object.fromEntries(
    PLACES.map((p): [string, ParamDeclaration] => [
      `set${p.toUpperCase()}`,
      {
        type: 'set',
        title: `Set ${p.toUpperCase()}`,
        default: '',
        optional: true,
        help: 'Which part set of the project.',
      },
    ]),
  ),
  outputs: { finish: { type: 'finish', title: 'Finish' } },
  lower({ b, finish, choice }) {
    const rest = finish('rest')
    const out: FinishRefs = { ...rest }
    // From the last to the first, so that the first is laid on top.
    for (const p of [...PLACES].reverse()) {
      const own = finish(p)
      const inside = b.set(choice(`set${p.toUpperCase()}`))
      for (const name of CHANNEL_NAMES) {
        const over = own[name]
        if (!over) continue
        out[name] = over.map((x, k) =>
          b.op('select', [inside, x, out[name]?.[k] ?? b.constant(CHANNELS[name].fallback[k]!)]),
        )
      }
    }
    return { finish: { type: 'finish', value: out } }
  },
})
