import type { Ref, Ref3 } from '../program/ops'
import { defineNode } from './declare'

const side = (title: string, value: number) => ({
  type: 'number' as const,
  title,
  default: value,
  min: -1,
  max: 1,
  step: 0.01,
  help: 'Of the direction; its length does not matter.',
})

export default defineNode({
  kind: 'facing',
  title: 'Facing',
  family: 'From the mesh',
  help: 'How far a surface turns toward a direction: 1 faces it, 0.5 stands across, 0 faces away. At first, upward.',
  words: ['normal', 'slope', 'upward', 'top', 'dust', 'snow', 'direction', 'angle', 'weather side'],
  inputs: {},
  params: { x: side('X', 0), y: side('Y', 1), z: side('Z', 0) },
  outputs: { value: { type: 'value', title: 'Value' } },
  lower({ b, number }) {
    const n: Ref3 = [b.surface('normalX'), b.surface('normalY'), b.surface('normalZ')]
    const d: Ref3 = [number('x'), number('y'), number('z')]
    const dot = (p: Ref3, q: Ref3): Ref => p.map((x, k) => b.mul(x, q[k]!)).reduce((s, x) => b.add(s, x))
    const cosine = b.div(dot(n, d), b.op('sqrt', [b.mul(dot(n, n), dot(d, d))]))
    return { value: { type: 'value', value: b.clamp01(b.add(b.constant(0.5), b.mul(cosine, b.constant(0.5)))) } }
  },
})
