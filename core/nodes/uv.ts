import { defineNode } from './declare'

export default defineNode({
  kind: 'uv',
  title: 'UV',
  family: 'From the mesh',
  help: 'The texture coordinates of the first UV set. V runs down, as in glTF. 0 where the mesh has no UVs.',
  words: ['texture coordinates', 'unwrap', 'st', 'tile'],
  inputs: {},
  params: {},
  outputs: { u: { type: 'value', title: 'U' }, v: { type: 'value', title: 'V' } },
  lower: ({ b }) => ({ u: { type: 'value', value: b.surface('u') }, v: { type: 'value', value: b.surface('v') } }),
})
