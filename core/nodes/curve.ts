import { defineNode, UNIT_SHAPE } from './declare'

export default defineNode({
  kind: 'curve',
  title: 'Curve',
  family: 'Shaping',
  help: 'Bends a value by a curve through points. Between them it never overshoots; beyond the first and the last it stays level.',
  words: ['tone curve', 'transfer', 'graph', 'gamma', 'contrast', 'profile', 'spline', 'falloff'],
  inputs: {
    value: { type: 'value', title: 'Value', default: 0.5, shape: UNIT_SHAPE, needed: true, help: 'The value to bend.' },
  },
  params: {
    points: {
      type: 'curve',
      title: 'Curve',
      default: [
        { x: 0, y: 0 },
        { x: 1, y: 1 },
      ],
      help: 'What goes in is across, what comes out is up.',
    },
  },
  outputs: { value: { type: 'value', title: 'Value' } },
  /**
   * Piecewise cubic with the slopes of Fritsch and Butland, "A method for constructing local monotone piecewise cubic
   * interpolants" (1984).
   */
  lower({ b, value, curve }) {
    const x = value('value')
    const points = curve('points')
    const two = b.constant(2)
    const three = b.constant(3)
    const widths = points.slice(1).map((p, k) => b.sub(p.x, points[k]!.x))
    const slopes = widths.map((h, k) => b.div(b.sub(points[k + 1]!.y, points[k]!.y), h))
    const tangents = points.map((_, k) => {
      const before = slopes[k - 1] ?? slopes[0]!
      const after = slopes[k] ?? slopes.at(-1)!
      const product = b.mul(before, after)
      return b.op('select', [
        b.op('less', [b.constant(0), product]),
        b.div(b.mul(two, product), b.add(before, after)),
        b.constant(0),
      ])
    })
    let out = points[0]!.y
    widths.forEach((h, k) => {
      // Each stretch adds its rise: 0 before it begins, all of it after its end.
      const t = b.clamp01(b.div(b.sub(x, points[k]!.x), h))
      const rise = b.sub(points[k + 1]!.y, points[k]!.y)
      const m0 = b.mul(tangents[k]!, h)
      const m1 = b.mul(tangents[k + 1]!, h)
      const cubic = b.sub(b.add(m0, m1), b.mul(two, rise))
      const square = b.sub(b.mul(three, rise), b.add(b.mul(two, m0), m1))
      out = b.add(out, b.mul(t, b.add(m0, b.mul(t, b.add(square, b.mul(t, cubic))))))
    })
    return { value: { type: 'value', value: out } }
  },
})
