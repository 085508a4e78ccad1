import { titleOf } from '../../graph/check'
import { paramOf } from '../../graph/kinds'
import { samplePartPoints } from '../../mesh/sample'
import type { ValueCheck } from './declare'

export default {
  about: 'draws that are the same everywhere',
  run(checked) {
    const { program, tables } = checked
    const { mesh, parts } = tables
    if (parts.parts.length < 2) return
    for (const n of checked.ofKind('partRandom')) {
      const got = program.outputs.get(`${n.id}/value`)
      if (got?.type !== 'value') continue
      const [drawn] = checked.valuesAt([got.value], samplePartPoints(mesh, parts, 1))
      if (drawn!.some(x => x !== drawn![0])) continue
      const level = String(paramOf(n, 'level'))
      checked.warn(
        n,
        `${titleOf(n)} draws the same for all ${parts.parts.length} parts, so nothing varies${level === 'part' ? '' : `: they are one ${level}`}.`,
        level === 'part' ? {} : { fixes: [{ label: 'Draw for each part', set: { level: 'part' } }] },
      )
    }
  },
} satisfies ValueCheck
