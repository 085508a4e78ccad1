import * as z from 'zod'
import { drawOf } from './hash'
import { materialsOf } from './materials'
import type { Mesh } from './mesh'
import type { Measures } from './measures'
import type { Part, Parts } from './parts'

export const MEASURES = [
  'area',
  'volume',
  'length',
  'width',
  'thickness',
  'flatness',
  'triangles',
  'height',
  'neighbors',
] as const
export type MeasureName = (typeof MEASURES)[number]

const text = z.string().max(200)
/** One rule of a part set. Lengths in meters, areas in square meters. */
export const ruleSchema = z.discriminatedUnion('by', [
  z.strictObject({
    by: z.enum(['name', 'object', 'material', 'group']),
    is: z.enum(['begins', 'contains', 'ends', 'exactly']),
    text,
  }),
  z.strictObject({
    by: z.literal('measure'),
    measure: z.enum(MEASURES),
    is: z.enum(['above', 'below']),
    value: z.number(),
  }),
  z.strictObject({
    by: z.literal('random'),
    share: z.number().min(0).max(1),
    seed: z
      .number()
      .int()
      .min(0)
      .max(2 ** 24),
  }),
  z.strictObject({ by: z.literal('all') }),
])
export type Rule = z.infer<typeof ruleSchema>

const key = z.string().regex(/^[0-9a-f]{16}$/)
/** A named choice of parts: rules, plus and minus single parts. A set without rules holds what was picked by hand. */
export const partSetSchema = z.strictObject({
  id: z.string().min(1).max(40),
  name: z.string().trim().min(1).max(80),
  match: z.enum(['all', 'any']),
  rules: z.array(ruleSchema).max(20),
  plus: z.array(key).max(200_000),
  minus: z.array(key).max(200_000),
})
export type PartSet = z.infer<typeof partSetSchema>

/**
 * Which parts are in a set: 1 or 0 for each. Depends on keys, names and measures only, so it survives a new export.
 * @param measures needed for rules by measure; without them such a rule holds for no part
 */
export function membersOf(set: PartSet, mesh: Mesh, parts: Parts, measures?: Measures): Uint8Array {
  const { parts: list, groups } = parts
  const plus = new Set(set.plus)
  const minus = new Set(set.minus)
  const materials = set.rules.some(r => r.by === 'material') ? materialsOf(mesh, parts) : []
  const textOf = (p: Part, i: number, by: 'name' | 'object' | 'material' | 'group'): string => {
    if (by === 'name') return p.name
    if (by === 'object') return mesh.objects[p.object]!.name
    return by === 'material' ? materials[i]! : groups[p.group]!.name
  }
  const holds = (rule: Rule, i: number): boolean => {
    const p = list[i]!
    if (rule.by === 'all') return true
    if (rule.by === 'random') return drawOf(p.key, rule.seed) < rule.share
    if (rule.by === 'measure') {
      const value = measures?.[rule.measure][i]
      return value !== undefined && (rule.is === 'above' ? value > rule.value : value < rule.value)
    }
    const text = textOf(p, i, rule.by).toLowerCase()
    const wanted = rule.text.toLowerCase()
    switch (rule.is) {
      case 'begins':
        return text.startsWith(wanted)
      case 'ends':
        return text.endsWith(wanted)
      case 'contains':
        return text.includes(wanted)
      case 'exactly':
        return text === wanted
    }
  }
  return Uint8Array.from(list, (p, i) => {
    if (minus.has(p.key)) return 0
    if (plus.has(p.key)) return 1
    if (!set.rules.length) return 0
    return Number(set.match === 'all' ? set.rules.every(r => holds(r, i)) : set.rules.some(r => holds(r, i)))
  })
}
