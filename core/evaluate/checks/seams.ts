import { isExr } from '../pictures'
import { titleOf } from '../../graph/check'
import { kindFor, paramOf } from '../../graph/kinds'
import type { ValueCheck } from './declare'

export default {
  about: 'patterns over the seams of UVs',
  run(checked) {
    const { mesh, parts } = checked.tables
    const islands = parts.patches
    if (!mesh.uvs || islands < 2) return
    for (const n of checked.nodes) {
      const uv = kindFor(n)?.onUvs
      if (!uv?.values.includes(String(paramOf(n, uv.param)))) continue
      // Numbers that were taken from the mesh, texel by texel, meet across its seams.
      if (n.kind === 'picture' && isExr(String(paramOf(n, 'picture')))) continue
      checked.warn(
        n,
        `${titleOf(n)} follows the UVs, which are cut into ${islands} islands: it will not meet itself across their seams.`,
        {
          fixes: [
            { label: uv.instead === 'space' ? 'Lay it in space' : 'Lay it otherwise', set: { [uv.param]: uv.instead } },
          ],
        },
      )
    }
  },
} satisfies ValueCheck
