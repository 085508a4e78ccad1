import type { Mesh } from '../../core/mesh/mesh'
import type { SurfacePoints } from '../../core/mesh/sample'
import type { Evaluator } from '../../core/evaluate/evaluator'
import { LAB_TO_LMS, LMS_TO_RGB } from '../../core/program/color'
import { PART, SURFACE, UNIFORM, VERTEX, type OpName, type Ref } from '../../core/program/ops'
import { cell3, fractal3, perlin3, worley3 } from '../reference/noise'

const smooth = (a: number, b: number, x: number): number => {
  if (a === b) return x >= b ? 1 : 0
  const t = Math.min(1, Math.max(0, (x - a) / (b - a)))
  return t * t * (3 - 2 * t)
}
const fitChroma = (L: number, a: number, b: number): number => {
  const inside = (k: number): boolean => {
    const lms = LAB_TO_LMS.map(r => (r[0] * L + r[1] * a * k + r[2] * b * k) ** 3)
    return LMS_TO_RGB.every(r => {
      const x = r[0] * lms[0]! + r[1] * lms[1]! + r[2] * lms[2]!
      return x >= -1e-4 && x <= 1.0001
    })
  }
  if (inside(1)) return 1
  let low = 0
  let high = 1
  for (let i = 0; i < 12; i++) {
    const middle = (low + high) / 2
    if (inside(middle)) low = middle
    else high = middle
  }
  return low
}

/** Each primitive as a JavaScript expression. */
const JS: Record<Exclude<OpName, 'draw' | 'row3'>, (...x: string[]) => string> = {
  neg: x => `-${x}`,
  abs: x => `Math.abs(${x})`,
  floor: x => `Math.floor(${x})`,
  fract: x => `(${x} - Math.floor(${x}))`,
  sqrt: x => `Math.sqrt(Math.max(0, ${x}))`,
  cbrt: x => `Math.cbrt(${x})`,
  sin: x => `Math.sin(${x})`,
  cos: x => `Math.cos(${x})`,
  exp2: x => `2 ** ${x}`,
  log2: x => `Math.log2(${x})`,
  add: (x, y) => `${x} + ${y}`,
  sub: (x, y) => `${x} - ${y}`,
  mul: (x, y) => `${x} * ${y}`,
  div: (x, y) => `(${y} === 0 ? 0 : ${x} / ${y})`,
  min: (x, y) => `Math.min(${x}, ${y})`,
  max: (x, y) => `Math.max(${x}, ${y})`,
  pow: (x, y) => `(${x} <= 0 ? (${y} === 0 ? 1 : 0) : ${x} ** ${y})`,
  less: (x, y) => `(${x} < ${y} ? 1 : 0)`,
  mix: (x, y, z) => `${x} + (${y} - ${x}) * ${z}`,
  clamp: (x, y, z) => `Math.min(Math.max(${x}, ${y}), ${z})`,
  select: (x, y, z) => `(${x} > 0.5 ? ${y} : ${z})`,
  smoothstep: (x, y, z) => `smooth(${x}, ${y}, ${z})`,
  noise3: (x, y, z) => `perlin3(${x}, ${y}, ${z})`,
  fitChroma: (x, y, z) => `fitChroma(${x}, ${y}, ${z})`,
  fractal3: (...a) => `fractal3(${a.join(', ')})`,
  cell3: (x, y, z) => `cell3(${x}, ${y}, ${z})`,
  worley3: (...a) => `worley3(${a.join(', ')})[0]`,
  worley3second: (...a) => `worley3(${a.join(', ')})[1]`,
  worley3cell: (...a) => `worley3(${a.join(', ')})[2]`,
}

/**
 * The surface stage of a plan as plain JavaScript: one function of straight-line code with doubles, called once for
 * each point, as somebody would write it by hand. Uniform, part and vertex values are those of the evaluator.
 */
export function plainLook(
  evaluator: Evaluator,
  mesh: Mesh,
): (points: SurfacePoints, out: readonly Float32Array[]) => void {
  const { plan, uniforms, partColumns, vertexColumns, tables } = evaluator
  const { program, stages } = plan
  const slot = (domain: number, ref: Ref) => stages[domain]!.out.indexOf(ref)
  const corner = (array: string, stride: number, offset: number) =>
    `(${array}[a * ${stride} + ${offset}] + (${array}[b * ${stride} + ${offset}] - ${array}[a * ${stride} + ${offset}]) * p + (${array}[c * ${stride} + ${offset}] - ${array}[a * ${stride} + ${offset}]) * q)`
  const value = (ref: Ref): string => {
    const domain = program.domains[ref]!
    if (domain === SURFACE) return `v${ref}`
    if (domain === UNIFORM) return `uniforms[${slot(UNIFORM, ref)}]`
    return domain === PART ? `parts[${slot(PART, ref)}][part]` : corner(`vertices[${slot(VERTEX, ref)}]`, 1, 0)
  }
  const lines = stages[SURFACE].order.map(ref => {
    const i = program.code[ref]!
    if (i.op === 'surface') {
      const k = ['x', 'y', 'z'].indexOf(i.input)
      const n = ['normalX', 'normalY', 'normalZ'].indexOf(i.input)
      const rest = n >= 0 ? corner('normals', 3, n) : corner('uvs', 2, i.input === 'u' ? 0 : 1)
      return `const v${ref} = ${k >= 0 ? corner('positions', 3, k) : rest};`
    }
    if (!('args' in i)) throw new Error(`${i.op} is not of the surface`)
    const args = i.args.map(value)
    return `const v${ref} = ${i.op === 'row3' ? args.map((a, k) => `${a} * ${i.constants![k]}`).join(' + ') : JS[i.op as keyof typeof JS](...args)};`
  })
  const body = `const { positions, normals, uvs, indices } = mesh, { triangle, u, v, count } = points;
for (let i = 0; i < count; i++) {
const t = triangle[i], a = indices[t * 3], b = indices[t * 3 + 1], c = indices[t * 3 + 2], p = u[i], q = v[i], part = partOf[t];
${lines.join('\n')}
${plan.roots.map((ref, k) => `out[${k}][i] = ${value(ref)};`).join('\n')}
}`
  const run = new Function(
    'points',
    'out',
    'mesh',
    'uniforms',
    'parts',
    'vertices',
    'partOf',
    'smooth',
    'fitChroma',
    'perlin3',
    'fractal3',
    'cell3',
    'worley3',
    body,
  ) as (...a: unknown[]) => void
  return (points, out) =>
    run(
      points,
      out,
      mesh,
      uniforms,
      partColumns,
      vertexColumns,
      tables.parts.partOfTriangle,
      smooth,
      fitChroma,
      perlin3,
      fractal3,
      cell3,
      worley3,
    )
}
