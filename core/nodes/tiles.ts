import { defineNode } from './declare'
import type { Ref } from '../program/ops'
import { BENDING, ownDraw, PLACING, PLANES, threeSides, turned } from './placing'

const TILED = { ...PLANES, UV: ['u', 'v'] } as const

export default defineNode({
  kind: 'tiles',
  title: 'Tiles',
  family: 'Patterns',
  help: 'Rows of rectangles with gaps, such as bricks, boards or plates, seen along one direction or on the UVs.',
  words: ['bricks', 'planks', 'boards', 'plates', 'grid', 'checker', 'masonry', 'panels'],
  onUvs: { param: 'plane', values: ['UV'], instead: 'XY' },
  inputs: { bend: BENDING.input },
  params: {
    plane: {
      type: 'choice',
      title: 'Across',
      default: 'XY',
      help: 'The two directions that the rows and columns follow.',
      options: [
        { value: 'XY', title: 'X and Y: from the front' },
        { value: 'ZY', title: 'Z and Y: from the side' },
        { value: 'XZ', title: 'X and Z: from above' },
        { value: 'UV', title: 'The UVs' },
        { value: 'three', title: 'Each side by itself: from three sides, blended' },
      ],
    },
    blending: { ...PLACING.blending, when: value => value('plane') === 'three' },
    own: {
      type: 'choice',
      title: 'Begins',
      default: 'space',
      help: 'Whether the rows run on from part to part.',
      options: [
        { value: 'space', title: 'Once for all' },
        { value: 'part', title: 'In each part: shifted by its key' },
      ],
    },
    width: {
      type: 'number',
      title: 'Width',
      default: 20,
      min: 0.01,
      max: 10000,
      step: 0.5,
      unit: 'cm',
      help: 'Of a tile with its gap. On UVs, 100 cm are one side of the tile.',
    },
    height: {
      type: 'number',
      title: 'Height',
      default: 10,
      min: 0.01,
      max: 10000,
      step: 0.5,
      unit: 'cm',
      help: 'Of a row with its gap.',
    },
    turn: {
      type: 'number',
      title: 'Turn',
      default: 0,
      min: -360,
      max: 360,
      step: 1,
      unit: '°',
      help: 'Turns rows and columns in their plane.',
    },
    bending: BENDING.param,
    offset: {
      type: 'number',
      title: 'Offset',
      default: 0.5,
      min: 0,
      max: 1,
      step: 0.01,
      help: 'How far every row is moved next to the one below.',
    },
    gap: {
      type: 'number',
      title: 'Gap',
      default: 5,
      min: 0,
      max: 10000,
      step: 0.5,
      unit: 'mm',
      help: 'Between two tiles.',
    },
    seed: { type: 'seed', title: 'Seed', default: 1, help: 'Another seed, another value for each tile.' },
  },
  outputs: {
    value: { type: 'value', title: 'Per tile' },
    inside: { type: 'value', title: 'Tile, not gap' },
    edge: { type: 'value', title: 'From the edge' },
  },
  lower(c) {
    const { b, number, choice, value } = c
    const bend = b.mul(b.mul(b.sub(value('bend'), b.constant(0.5)), b.constant(2)), number('bending'))
    const angle = b.mul(number('turn'), b.constant(Math.PI / 180))
    const width = number('width')
    const height = number('height')
    const shift = (k: number): Ref => (choice('own') === 'part' ? b.mul(ownDraw(c, k), b.constant(64)) : b.constant(0))
    const tiled = (plane: keyof typeof TILED): [Ref, Ref, Ref] => {
      const [across, up] = turned(
        b,
        ...(TILED[plane].map((x, k) =>
          b.add(b.mul(b.surface(x), b.constant(100)), b.mul(bend, b.constant(k ? -0.7 : 1))),
        ) as [Ref, Ref]),
        angle,
      )
      const rows = b.add(b.div(up, height), shift(1))
      const row = b.op('floor', [rows])
      const columns = b.add(b.add(b.div(across, width), b.mul(row, number('offset'))), shift(0))
      // The way to the nearest edge of the cell, in centimeters; half of the gap belongs to each side.
      const near = (t: number, size: number) =>
        b.mul(b.sub(b.constant(0.5), b.op('abs', [b.sub(b.op('fract', [t]), b.constant(0.5))])), size)
      const way = b.sub(b.min(near(columns, width), near(rows, height)), b.mul(number('gap'), b.constant(0.05)))
      return [
        b.op('cell3', [columns, row, number('seed')]),
        b.op('less', [b.constant(0), way]),
        b.clamp01(b.div(way, b.mul(b.min(width, height), b.constant(0.5)))),
      ]
    }
    const plane = choice('plane')
    const [own, inside, edge] = plane === 'three' ? threeSides(c, tiled) : tiled(plane as keyof typeof TILED)
    return {
      value: { type: 'value', value: own },
      inside: { type: 'value', value: inside },
      edge: { type: 'value', value: edge },
    }
  },
})
