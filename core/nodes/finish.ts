import { CHANNEL_NAMES, type Channel } from '../graph/types'
import { defineNode, UNIT_SHAPE, type FinishRefs, type InputDeclaration } from './declare'

/** Shown and used where the channel is set: an open input of another channel has no effect. */
const of = (channel: Channel): Pick<InputDeclaration, 'when'> => ({
  when: value => (value('sets') as string[]).includes(channel),
})

export default defineNode({
  kind: 'finish',
  title: 'Finish',
  family: 'Finishes',
  help: 'A material: a setting or a wire for each channel that it sets. A channel that it does not set is left alone; a wire sets its channel.',
  words: [
    'material',
    'surface',
    'shader',
    'albedo',
    'diffuse',
    'metal',
    'roughness',
    'gloss',
    'pbr',
    'bump',
    'displacement',
    'glow',
    'light',
    'transparent',
    'alpha',
    'subsurface',
    'transmission',
  ],
  inputs: {
    baseColor: {
      type: 'color',
      title: 'Base color',
      default: [0.5, 0.5, 0.5],
      help: 'The color the surface reflects; for a metal, its reflectance.',
      ...of('baseColor'),
    },
    metalness: {
      type: 'value',
      title: 'Metalness',
      default: 0,
      shape: UNIT_SHAPE,
      help: '0 is a dielectric such as glass or paint, 1 a bare metal.',
      ...of('metalness'),
    },
    roughness: {
      type: 'value',
      title: 'Roughness',
      default: 0.5,
      shape: UNIT_SHAPE,
      help: '0 mirrors, 1 is matte.',
      ...of('roughness'),
    },
    height: {
      type: 'value',
      title: 'Height',
      default: 0,
      shape: { min: -1000, max: 1000, step: 0.1, unit: 'mm' },
      help: 'How far the surface stands out, in millimeters once it is multiplied by the height scale. It tilts the normal.',
      ...of('height'),
    },
    emission: {
      type: 'color',
      title: 'Emission',
      default: [1, 1, 1],
      help: 'The color of the light that the surface gives off.',
      ...of('emission'),
    },
    intensity: {
      type: 'value',
      title: 'Intensity',
      default: 1,
      shape: { min: 0, max: 10000, step: 0.1 },
      help: 'Multiplies the emission.',
      ...of('emission'),
    },
    opacity: {
      type: 'value',
      title: 'Opacity',
      default: 1,
      shape: UNIT_SHAPE,
      help: '0 is not there, 1 is solid.',
      ...of('opacity'),
    },
    translucency: {
      type: 'value',
      title: 'Translucency',
      default: 0.5,
      shape: UNIT_SHAPE,
      help: 'The share of diffuse light that passes through, as through paper or a leaf.',
      ...of('translucency'),
    },
    throughColor: {
      type: 'color',
      title: 'Light through',
      default: [1, 1, 1],
      help: 'The color that light takes on its way through.',
      ...of('translucency'),
    },
  },
  params: {
    sets: {
      type: 'channels',
      title: 'Sets',
      default: ['baseColor', 'metalness', 'roughness'],
      help: 'The channels that this finish sets. The others are left alone: what lies below shows there.',
    },
    heightScale: {
      type: 'number',
      title: 'Height scale',
      default: 1,
      min: -1000,
      max: 1000,
      step: 0.1,
      unit: 'mm',
      help: 'Millimeters for a height of 1.',
      when: (value, wired) => wired('height') || (value('sets') as string[]).includes('height'),
    },
  },
  outputs: { finish: { type: 'finish', title: 'Finish' } },
  lower({ b, color, value, number, channels, wired }) {
    const sets = new Set<string>(channels('sets'))
    const out: FinishRefs = {}
    const unit = (input: string) => b.clamp01(value(input))
    const make: Record<Channel, () => number[]> = {
      baseColor: () => b.map3(x => b.clamp01(x!), color('baseColor')),
      metalness: () => [unit('metalness')],
      roughness: () => [unit('roughness')],
      height: () => [b.mul(value('height'), number('heightScale'))],
      emission: () =>
        b.map3(x => b.mul(b.max(x!, b.constant(0)), b.max(value('intensity'), b.constant(0))), color('emission')),
      opacity: () => [unit('opacity')],
      translucency: () => [unit('translucency'), ...b.map3(x => b.clamp01(x!), color('throughColor'))],
    }
    /** Other inputs that belong to a channel. */
    const also: Partial<Record<Channel, string>> = { emission: 'intensity', translucency: 'throughColor' }
    for (const name of CHANNEL_NAMES) {
      if (sets.has(name) || wired(name) || (also[name] && wired(also[name]))) out[name] = make[name]()
    }
    return { finish: { type: 'finish', value: out } }
  },
})
