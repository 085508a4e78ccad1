import { defineNode } from './declare'

export default defineNode({
  kind: 'color',
  title: 'Color',
  family: 'Color',
  help: 'One plain color.',
  words: ['constant', 'rgb', 'tint', 'paint', 'swatch'],
  inputs: {},
  params: {
    color: { type: 'color', title: 'Color', default: [0.2, 0.2, 0.2], help: 'The color, kept as linear light.' },
  },
  outputs: { color: { type: 'color', title: 'Color' } },
  lower: ({ colorParam }) => ({ color: { type: 'color', value: colorParam('color') } }),
})
