import { titleOf } from '../../graph/check'
import { paramOf } from '../../graph/kinds'
import type { LookNode } from '../../graph/look'
import type { Stop } from '../../graph/types'
import { samplePartPoints } from '../../mesh/sample'
import { alikePairs } from '../pick'
import { MOST_PARTS, percent, type Checked, type ValueCheck } from './declare'

function sharesOf(checked: Checked, node: LookNode): void {
  const { tables, program } = checked
  const { mesh, parts } = tables
  const entries = paramOf(node, 'colors') as Stop[]
  const weights = entries.map(e => Math.max(0, e.at))
  const all = weights.reduce((a, b) => a + b, 0)
  const areas = parts.parts.map(p => p.area)
  const surface = areas.reduce((a, b) => a + b, 0)
  const largest = areas.reduce((best, a, i) => (a > areas[best]! ? i : best), 0)
  const least = Math.min(...weights.filter(w => w > 0)) / (all || 1)
  if (paramOf(node, 'by') === 'area' && parts.parts.length > 1 && areas[largest]! / surface > least)
    checked.warn(
      node,
      `${titleOf(node)} divides by area, and the largest part alone has ${percent(areas[largest]! / surface)} of it, more than the ${percent(least)} of a color: the shares cannot be exact.`,
      {
        parts: [parts.parts[largest]!.key],
        fixes: [{ label: 'Divide the number of parts', set: { by: 'count' } }],
      },
    )
  const differ = Number(paramOf(node, 'differ'))
  const which = program.outputs.get(`${node.id}/value`)
  if (!(differ > 0) || which?.type !== 'value' || !tables.touching || parts.parts.length > MOST_PARTS) return
  const { pairs } = tables.touching()
  const [drawn] = checked.valuesAt([which.value], samplePartPoints(mesh, parts, 1))
  const numbers = drawn!.map(x => Math.round(x * Math.max(1, entries.length - 1)))
  const list = entries.flatMap(e => [e.at, ...e.color])
  const alike = alikePairs(numbers, list, differ, pairs)
  if (!alike.length) return
  checked.warn(
    node,
    `${alike.length / 2} of ${pairs.length / 2} pairs of touching parts differ by less than the ${differ} that ${titleOf(node)} is asked for. More colors that are far apart, or more even shares, would part them.`,
    { parts: [...new Set(alike)].map(p => parts.parts[p]!.key) },
  )
}

export default {
  about: 'what a palette was asked for and could not be given',
  run(checked) {
    for (const node of checked.ofKind('palette')) sharesOf(checked, node)
  },
} satisfies ValueCheck
