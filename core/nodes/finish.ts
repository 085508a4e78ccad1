import { defineNode, UNIT_SHAPE } from './declare'

export default defineNode({
  kind: 'finish',
  title: 'Finish',
  family: 'Finishes',
  help: 'A material: its base color, how metallic and how rough it is. Each channel is a setting or a wire.',
  words: ['material', 'surface', 'shader', 'albedo', 'diffuse', 'metal', 'roughness', 'gloss', 'pbr'],
  inputs: {
    baseColor: { type: 'color', title: 'Base color', default: [0.5, 0.5, 0.5], help: 'The color the surface reflects; for a metal, its reflectance.' },
    metalness: { type: 'value', title: 'Metalness', default: 0, shape: UNIT_SHAPE, help: '0 is a dielectric such as glass or paint, 1 a bare metal.' },
    roughness: { type: 'value', title: 'Roughness', default: 0.5, shape: UNIT_SHAPE, help: '0 mirrors, 1 is matte.' },
  },
  params: {},
  outputs: { finish: { type: 'finish', title: 'Finish' } },
  lower: ({ b, color, value }) => ({
    finish: {
      type: 'finish',
      value: {
        baseColor: b.map3(x => b.clamp01(x!), color('baseColor')),
        metalness: [b.clamp01(value('metalness'))],
        roughness: [b.clamp01(value('roughness'))],
      },
    },
  }),
})
