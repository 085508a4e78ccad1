import type { Beyond } from '../mesh/mesh'
import type { PictureReading, Ref, Ref3 } from '../program/ops'
import { defineNode, UNIT_SHAPE } from './declare'
import { PLACING, PLANES, threeSides, turned } from './placing'

const BEYOND = [
  { value: 'repeat', title: 'The picture again' },
  { value: 'mirror', title: 'Its mirror image' },
  { value: 'edge', title: 'Its outermost texels' },
]

export default defineNode({
  kind: 'picture',
  title: 'Picture',
  family: 'Patterns',
  help: 'A picture of the project, repeated: on the UVs, projected in one direction, or from three sides with soft blends. Each of its channels is an output. Where there is none, it is black and opaque.',
  words: ['image', 'texture', 'photo', 'bitmap', 'file', 'map', 'triplanar', 'projection', 'decal', 'scan'],
  onUvs: { param: 'sits', values: ['uv'], instead: 'threeWay' },
  inputs: {
    bend: {
      type: 'value',
      title: 'Bend by',
      default: 0.5,
      shape: UNIT_SHAPE,
      help: 'Moves the picture where it is not 0.5. A noise bends it.',
    },
  },
  params: {
    picture: { type: 'picture', title: 'Picture', default: '', help: 'Which picture of the project.' },
    space: {
      type: 'choice',
      title: 'Color space',
      default: 'srgb',
      help: 'What its numbers mean.',
      options: [
        { value: 'srgb', title: 'sRGB: colors as a screen shows them' },
        { value: 'linear', title: 'Linear: data, such as masks and heights' },
      ],
    },
    sits: {
      type: 'choice',
      title: 'Sits',
      default: 'uv',
      help: 'What the picture is laid on.',
      options: [
        { value: 'uv', title: 'On the UVs' },
        { value: 'planar', title: 'Projected in one direction' },
        { value: 'threeWay', title: 'Projected from three sides, blended' },
      ],
    },
    uvs: {
      type: 'map',
      title: 'UV set',
      default: '',
      optional: true,
      help: 'A vertex map of two numbers to be used as UVs; without one, the first UV set of the mesh.',
      when: value => value('sits') === 'uv',
    },
    plane: PLACING.plane,
    blending: PLACING.blending,
    width: {
      type: 'number',
      title: 'Width',
      default: 100,
      min: -100000,
      max: 100000,
      step: 1,
      unit: 'cm',
      help: 'Of one repeat. On UVs, 100 cm are one side of the tile. A negative one mirrors the picture.',
    },
    height: {
      type: 'number',
      title: 'Height',
      default: 100,
      min: -100000,
      max: 100000,
      step: 1,
      unit: 'cm',
      help: 'Of one repeat. A negative one turns the picture upside down.',
    },
    turn: {
      type: 'number',
      title: 'Turn',
      default: 0,
      min: -360,
      max: 360,
      step: 1,
      unit: '°',
      help: 'Turns the picture.',
    },
    moveX: {
      type: 'number',
      title: 'Move across',
      default: 0,
      min: -100,
      max: 100,
      step: 0.01,
      help: 'As a share of its width.',
    },
    moveY: {
      type: 'number',
      title: 'Move up',
      default: 0,
      min: -100,
      max: 100,
      step: 0.01,
      help: 'As a share of its height.',
    },
    beyondSides: {
      type: 'choice',
      title: 'Beyond its sides',
      default: 'repeat',
      help: 'What lies to the left and right of the picture.',
      options: BEYOND,
    },
    beyondEnds: {
      type: 'choice',
      title: 'Above and below',
      default: 'repeat',
      help: 'What lies above and below the picture.',
      options: BEYOND,
    },
    between: {
      type: 'choice',
      title: 'Between texels',
      default: 'smooth',
      help: 'Whether texels pass into one another.',
      options: [
        { value: 'smooth', title: 'Smooth, and their mean from afar' },
        { value: 'nearest', title: 'The nearest texel' },
      ],
    },
    bending: {
      type: 'number',
      title: 'Bend',
      default: 20,
      min: 0,
      max: 10000,
      step: 0.5,
      unit: 'cm',
      help: 'How far the picture is moved at 0 and 1.',
      when: (_, wired) => wired('bend'),
    },
  },
  outputs: {
    color: { type: 'color', title: 'Color' },
    red: { type: 'value', title: 'Red' },
    green: { type: 'value', title: 'Green' },
    blue: { type: 'value', title: 'Blue' },
    alpha: { type: 'value', title: 'Alpha' },
  },
  lower(c) {
    const { b, choice, number, value, mapComponents } = c
    const name = choice('picture')
    const reading: PictureReading = {
      linear: choice('space') === 'linear',
      across: choice('beyondSides') as Beyond,
      down: choice('beyondEnds') as Beyond,
      nearest: choice('between') === 'nearest',
    }
    const sits = choice('sits')
    const turn = b.mul(number('turn'), b.constant(Math.PI / 180))
    const bend = b.mul(b.sub(value('bend'), b.constant(0.5)), b.mul(b.constant(0.02), number('bending')))
    const meters = (size: string) => b.mul(number(size), b.constant(0.01))
    /** Red, green, blue and alpha at a place in meters. `down` is where v runs down already, as glTF's UVs do. */
    const over = sits === 'uv' ? b.surface('footprintUv') : b.surface('footprint')
    const wide = ['width', 'height'].map(side => b.div(over, meters(side))) as [Ref, Ref]
    const read = (x: Ref, y: Ref, down: boolean): [Ref, Ref, Ref, Ref] => {
      const [p, q] = turned(b, b.add(x, bend), b.sub(y, b.mul(bend, b.constant(0.7))), turn)
      const u = b.sub(b.div(p, meters('width')), number('moveX'))
      const along = b.div(q, meters('height'))
      const v = down ? b.add(along, number('moveY')) : b.sub(number('moveY'), along)
      return [0, 1, 2, 3].map(channel => b.picture(name, channel, reading, u, v, wide)) as [Ref, Ref, Ref, Ref]
    }
    const side = (plane: keyof typeof PLANES) => read(b.surface(PLANES[plane][0]), b.surface(PLANES[plane][1]), false)
    const sitting = () => {
      if (sits === 'planar') return side(choice('plane') as keyof typeof PLANES)
      if (sits === 'threeWay') return threeSides(c, side)
      const uvs = choice('uvs')
      if (!uvs) return read(b.surface('u'), b.surface('v'), true)
      const there = (mapComponents(uvs) ?? 0) > 1
      return read(there ? b.map(uvs, 0) : b.constant(0), there ? b.map(uvs, 1) : b.constant(0), true)
    }
    const out = sitting()
    const port = (ref: Ref) => ({ type: 'value', value: ref }) as const
    return {
      color: { type: 'color', value: out.slice(0, 3) as Ref3 },
      red: port(out[0]!),
      green: port(out[1]!),
      blue: port(out[2]!),
      alpha: port(out[3]!),
    }
  },
})
