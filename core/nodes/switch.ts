import type { PortType } from '../graph/types'
import type { Ref } from '../program/ops'
import { defineNode, UNIT_SHAPE, type ParamValues } from './declare'

const typeOf = (p: ParamValues): PortType => (p.what === 'value' ? 'value' : 'color')
const NAMES = ['a', 'b', 'c', 'd'] as const
const GRAYS = [0.1, 0.35, 0.6, 0.85]

export default defineNode({
  kind: 'switch',
  title: 'Switch',
  family: 'Shaping',
  help: 'Picks one of several inputs by a value: the range from 0 to 1 is divided evenly among them. A draw per part picks for each part.',
  words: ['choose', 'pick', 'select', 'alternate', 'variants', 'if'],
  inputs: {
    by: { type: 'value', title: 'By', default: 0, shape: UNIT_SHAPE, help: 'What picks.' },
    ...Object.fromEntries(
      NAMES.map((n, i) => [
        n,
        {
          type: typeOf,
          title: n.toUpperCase(),
          default: [GRAYS[i]!, GRAYS[i]!, GRAYS[i]!] as [number, number, number],
          help: i < 2 ? 'One of the choices.' : `One of the choices, from ${i + 1} on.`,
        },
      ]),
    ),
  },
  params: {
    what: {
      type: 'choice',
      title: 'Of',
      default: 'color',
      help: 'What is picked.',
      options: [
        { value: 'color', title: 'Colors' },
        { value: 'value', title: 'Values' },
      ],
    },
    count: {
      type: 'choice',
      title: 'Choices',
      default: '2',
      help: 'How many inputs there are to pick from.',
      options: ['2', '3', '4'].map(value => ({ value, title: value })),
    },
  },
  outputs: { out: { type: typeOf, title: 'Picked' } },
  lower({ b, choice, color, value }) {
    const count = Number(choice('count'))
    const by = value('by')
    /** 1 from the place where choice `i` begins. */
    const from = (i: number) => b.sub(b.constant(1), b.op('less', [by, b.constant(i / count)]))
    const pick = (of: (name: string) => Ref): Ref =>
      NAMES.slice(1, count).reduce((held, name, i) => b.op('select', [from(i + 1), of(name), held]), of('a'))
    if (choice('what') === 'value') return { out: { type: 'value', value: pick(value) } }
    return { out: { type: 'color', value: [pick(n => color(n)[0]), pick(n => color(n)[1]), pick(n => color(n)[2])] } }
  },
})
