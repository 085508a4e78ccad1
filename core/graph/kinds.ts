import { kindOf } from '../nodes'
import {
  typeOf,
  type InputDeclaration,
  type NodeKind,
  type OutputDeclaration,
  type ParamDeclaration,
  type ParamValue,
} from '../nodes/declare'
import type { LookNode, Recipe } from './look'
import type { PortType } from './types'

const derived = new WeakMap<Recipe, NodeKind>()

/** The declaration that a node follows: that of its kind, or the one that its recipe makes. */
export function kindFor(node: LookNode): NodeKind | undefined {
  if (!node.recipe) return kindOf(node.kind)
  let kind = derived.get(node.recipe)
  if (!kind) derived.set(node.recipe, (kind = declarationOf(node.recipe)))
  return kind
}

/**
 * A parameter's stored value, or its declared default. Inputs keep the setting of an open port under their own name.
 */
export function paramOf(node: LookNode, name: string): ParamValue | undefined {
  const kind = kindFor(node)
  return node.params[name] ?? kind?.params[name]?.default ?? kind?.inputs[name]?.default
}

/** All parameters with defaults filled in: what the port types of a kind depend on. */
export function paramsOf(node: LookNode): Record<string, ParamValue | undefined> {
  const kind = kindFor(node)
  return Object.fromEntries(Object.keys(kind?.params ?? {}).map(name => [name, paramOf(node, name)]))
}

const portType = (node: LookNode, d: InputDeclaration | OutputDeclaration): PortType =>
  typeof d.type === 'string' ? d.type : typeOf(d, paramsOf(node))
export const inputType = (node: LookNode, d: InputDeclaration): PortType => portType(node, d)
export const outputType = (node: LookNode, d: OutputDeclaration): PortType => portType(node, d)

function declarationOf(recipe: Recipe): NodeKind {
  const inner = new Map(recipe.nodes.map(n => [n.id, n]))
  const inputs: [string, InputDeclaration][] = recipe.inputs.flatMap(({ name, title, to }) => {
    const node = inner.get(to[0]!.node)!
    const own = kindFor(node)?.inputs[to[0]!.port]
    if (!own) return []
    const { when: _, ...rest } = own
    const stored = node.params[to[0]!.port]
    return [
      [
        name,
        {
          ...rest,
          title,
          type: inputType(node, own),
          ...(typeof stored === 'number' || Array.isArray(stored) ? { default: stored as number } : {}),
        },
      ],
    ]
  })
  const params: [string, ParamDeclaration][] = recipe.settings.flatMap(
    ({ name, title, node: id, param }): [string, ParamDeclaration][] => {
      const node = inner.get(id)!
      const kind = kindFor(node)
      const own = kind?.params[param]
      const input = kind?.inputs[param]
      const stored = node.params[param]
      if (own) {
        const { when: _, ...rest } = own
        return [[name, { ...rest, title, default: stored ?? own.default } as ParamDeclaration]]
      }
      if (!input || input.default === undefined) return []
      const help = input.help
      const value = stored ?? input.default
      return [
        [
          name,
          Array.isArray(value)
            ? { type: 'color', title, help, default: value as [number, number, number] }
            : { type: 'number', title, help, default: value as number, min: 0, max: 1, step: 0.01, ...input.shape },
        ],
      ]
    },
  )
  const outputs = recipe.outputs.flatMap(({ name, title, from }) => {
    const node = inner.get(from.node)!
    const own = kindFor(node)?.outputs[from.port]
    return own ? [[name, { title, type: outputType(node, own) }] as const] : []
  })
  return {
    kind: 'recipe',
    title: recipe.title,
    family: 'Recipes',
    help: recipe.help || 'A part of a graph, folded.',
    words: [],
    inputs: Object.fromEntries(inputs),
    params: Object.fromEntries(params),
    outputs: Object.fromEntries(outputs),
    // A recipe is unfolded before a look is lowered.
    lower: () => ({}),
  }
}
