import { titleOf } from '../../graph/check'
import { kindFor, paramOf } from '../../graph/kinds'
import type { LookNode } from '../../graph/look'
import { triangleAreas } from '../../mesh/mesh'
import type { MeshTables } from '../tables'
import type { Checked, ValueCheck } from './declare'

const WORDS = ['no', 'one', 'two', 'three', 'four']
const inMillimeters = (meters: number): string => `${(meters * 1000).toFixed(1)} mm`

function tooFine(checked: Checked, node: LookNode, needed: number, least: number): void {
  const { texels } = checked
  const count = `${WORDS[needed] ?? needed} texels`
  checked.warn(
    node,
    `${titleOf(node)} is finer than ${count} (${inMillimeters(least)}) at ${texels} x ${texels}, so a texture cannot hold it. Make it larger, or deliver more texels.`,
    { fixes: [{ label: `Make it as large as ${count}`, set: { size: Number((least * 100).toPrecision(3)) } }] },
  )
}

/** Each layer of detail is half as large as the one before. */
function detailTooFine(checked: Checked, node: LookNode, size: number, across: number): void {
  const { texels } = checked
  const detail = Number(paramOf(node, 'detail'))
  const strength = Number(paramOf(node, 'strength'))
  const most = Math.floor(Math.log2(size / (2 * across))) + 1
  // Layers so weak that nobody sees them do not matter.
  const strong = 1 + Math.floor(Math.log(0.06) / Math.log(Math.min(0.999, strength)))
  const seen = strength > 0 ? Math.min(detail, strong) : 1
  if (seen <= most) return
  checked.warn(
    node,
    `The finest detail of ${titleOf(node)} is smaller than two texels (${inMillimeters(across * 2)}) at ${texels} x ${texels}, so a texture turns it into grain.`,
    { fixes: [{ label: `Keep ${most} ${most === 1 ? 'layer' : 'layers'} of detail`, set: { detail: most } }] },
  )
}

/**
 * About how long a texel is on the surface, in meters, at a number of texels along each side; undefined without UVs.
 */
function texelSize({ mesh }: MeshTables, texels: number): number | undefined {
  const { uvs, indices } = mesh
  if (!uvs) return undefined
  let inUvs = 0
  for (let t = 0; t < indices.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map(k => indices[t + k]! * 2) as [number, number, number]
    inUvs +=
      Math.abs((uvs[b]! - uvs[a]!) * (uvs[c + 1]! - uvs[a + 1]!) - (uvs[c]! - uvs[a]!) * (uvs[b + 1]! - uvs[a + 1]!)) /
      2
  }
  const area = triangleAreas(mesh).reduce((s, a) => s + a, 0)
  return inUvs > 0 ? Math.sqrt(area / inUvs) / texels : undefined
}

export default {
  about: 'detail finer than a texel',
  run(checked) {
    const across = texelSize(checked.tables, checked.texels)
    if (!across) return
    for (const n of checked.nodes) {
      const kind = kindFor(n)
      const needed = kind?.texels
      if (!kind || !needed || kind.onUvs?.values.includes(String(paramOf(n, kind.onUvs.param)))) continue
      const size = Number(paramOf(n, 'size')) / 100
      const least = across * needed
      if (size < least) tooFine(checked, n, needed, least)
      else if (kind.params.detail && kind.params.strength) detailTooFine(checked, n, size, across)
    }
  },
} satisfies ValueCheck
