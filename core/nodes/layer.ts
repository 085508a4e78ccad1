import { CHANNEL_NAMES, CHANNELS, type Channel } from '../graph/types'
import { defineNode, UNIT_SHAPE, type FinishRefs, type ParamDeclaration } from './declare'

const WAYS = [{ value: 'blend', title: 'Blended by the mask' }, { value: 'cover', title: 'Covered where the mask is above a half' }, { value: 'leave', title: 'Left as it is below' }]
const wayOf = (c: Channel): string => `${c}Way`

export default defineNode({
  kind: 'layer',
  title: 'Layer',
  family: 'Finishes',
  help: 'Lays a finish over another through a mask. Each channel is blended, covered or left alone.',
  words: ['stack', 'coat', 'paint over', 'dirt over', 'mask material', 'blend materials', 'overlay finish'],
  inputs: {
    below: { type: 'finish', title: 'Below', missing: 'A plain gray finish.', needed: true, help: 'The finish that shows where the mask is 0.' },
    above: { type: 'finish', title: 'Above', missing: 'Nothing is laid over.', needed: true, help: 'The finish that shows where the mask is 1.' },
    mask: { type: 'value', title: 'Mask', default: 1, shape: UNIT_SHAPE, help: 'Where the upper finish lies.' },
    amount: { type: 'value', title: 'Amount', default: 1, shape: UNIT_SHAPE, help: 'How much of it shows there.' },
  },
  params: Object.fromEntries(CHANNEL_NAMES.map(c => [wayOf(c), { type: 'choice', title: CHANNELS[c].title, default: 'blend', help: `What happens to the ${CHANNELS[c].title.toLowerCase()}.`, options: WAYS } satisfies ParamDeclaration])),
  outputs: { finish: { type: 'finish', title: 'Finish' } },
  lower({ b, finish, value, choice }) {
    const below = finish('below'), above = finish('above'), mask = b.clamp01(value('mask')), amount = b.clamp01(value('amount'))
    const soft = b.mul(mask, amount), hard = b.mul(b.op('less', [b.constant(0.5), mask]), amount), out: FinishRefs = { ...below }
    for (const name of CHANNEL_NAMES) {
      const over = above[name], way = choice(wayOf(name))
      if (!over || way === 'leave') continue
      out[name] = over.map((x, k) => b.mix(below[name]?.[k] ?? b.constant(CHANNELS[name].fallback[k]!), x, way === 'cover' ? hard : soft))
    }
    return { finish: { type: 'finish', value: out } }
  },
})
