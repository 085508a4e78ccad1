import type { ParamValue } from '../nodes/declare'
import { setParam } from './edit'
import { kindFor, paramOf } from './kinds'
import type { Look, LookNode } from './look'
import { nodeOf } from './find'

/** A kept setting of seeds, palettes and exposed values. A value that is null stands for the kind's default. */
export type Variant = NonNullable<Look['variants']>[number]
export type Exposed = NonNullable<Look['exposed']>[number]

/** Settings of a node that can be exposed: its parameters, and its inputs while nothing is wired into them. */
export function exposable(look: Look, node: LookNode): { param: string; title: string }[] {
  const kind = kindFor(node)
  const wired = new Set(look.wires.filter(w => w.to.node === node.id).map(w => w.to.port))
  return [
    ...Object.entries(kind?.params ?? {}),
    ...Object.entries(kind?.inputs ?? {}).filter(([name, d]) => !wired.has(name) && d.type !== 'finish'),
  ].map(([param, d]) => ({ param, title: d.title }))
}

/** Those exposed settings whose node and parameter are there. */
export const exposedIn = (look: Look): Exposed[] =>
  (look.exposed ?? []).filter(({ node, param }) => {
    const kind = nodeOf(look, node) && kindFor(nodeOf(look, node)!)
    return Boolean(kind && (kind.params[param] ?? kind.inputs[param]))
  })
export const isExposed = (look: Look, node: string, param: string): boolean =>
  (look.exposed ?? []).some(e => e.node === node && e.param === param)

export function expose(look: Look, node: string, param: string, on: boolean): Look {
  if (on === isExposed(look, node, param)) return look
  return {
    ...look,
    exposed: on
      ? [...exposedIn(look), { node, param }]
      : look.exposed!.filter(e => e.node !== node || e.param !== param),
  }
}

/** All that a variant of this look keeps: seeds and palettes wherever they are, and what is exposed. */
function kept(look: Look): Exposed[] {
  const own = look.nodes.flatMap(n =>
    Object.entries(kindFor(n)?.params ?? {})
      .filter(([, d]) => d.type === 'seed' || d.type === 'palette')
      .map(([param]) => ({ node: n.id, param })),
  )
  return [...own, ...exposedIn(look).filter(e => !own.some(o => o.node === e.node && o.param === e.param))]
}

/** The look as it is now, under a name. */
export function variantOf(look: Look, name: string): Variant {
  return {
    name,
    values: kept(look).map(({ node, param }) => ({ node, param, value: nodeOf(look, node)!.params[param] ?? null })),
  }
}

/** A look set as a variant says. What the variant names and is not there any more is passed over. */
export const withVariant = (look: Look, { values }: Variant): Look =>
  values.reduce(
    (l, { node, param, value }) => setParam(l, node, param, (value ?? undefined) as ParamValue | undefined),
    look,
  )

/** Keeps the look as it is now as a variant; one of the same name is replaced. */
export const keepVariant = (look: Look, name: string): Look => {
  const variants = look.variants ?? []
  const next = variantOf(look, name)
  return {
    ...look,
    variants: variants.some(v => v.name === name)
      ? variants.map(v => (v.name === name ? next : v))
      : [...variants, next],
  }
}
export const removeVariant = (look: Look, name: string): Look => ({
  ...look,
  variants: (look.variants ?? []).filter(v => v.name !== name),
})
export const renameVariant = (look: Look, from: string, to: string): Look =>
  look.variants?.some(v => v.name === to)
    ? look
    : { ...look, variants: (look.variants ?? []).map(v => (v.name === from ? { ...v, name: to } : v)) }

/** Whether the look is set as a variant says. */
export const isSetAs = (look: Look, { values }: Variant): boolean =>
  values.every(({ node, param, value }) => {
    const own = nodeOf(look, node)
    if (!own || !kindFor(own)) return true
    return JSON.stringify(paramOf(own, param)) === JSON.stringify(value ?? paramOf({ ...own, params: {} }, param))
  })
