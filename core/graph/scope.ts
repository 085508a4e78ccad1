import { settledNodes } from './flatten'
import type { Look, LookNode, Recipe } from './look'
import { nodeOf } from './find'

/**
 * The inside of a recipe as a page of its own, with the settings that it has outside. `scope` names recipes from the
 * outermost on; none is the look itself.
 */
export function pageOf(look: Look, scope: readonly string[]): Look {
  if (!scope.length) return look
  const node = nodeOf(look, scope[0]!)
  const recipe = node?.recipe
  if (!node || !recipe) return { ...look, nodes: [], wires: [], notes: [] }
  return pageOf(
    { ...look, name: recipe.title, nodes: settledNodes(recipe, node.params), wires: recipe.wires, notes: [] },
    scope.slice(1),
  )
}

/** Does the scope still lead somewhere? */
export function leads(look: Look, scope: readonly string[]): boolean {
  return (
    !scope.length ||
    (Boolean(nodeOf(look, scope[0]!)?.recipe) && leads(pageOf(look, scope.slice(0, 1)), scope.slice(1)))
  )
}

/**
 * Changes a page. What a recipe shows outside follows: inputs, settings and outputs whose nodes are gone go, and an
 * input that has a wire inside now is no longer fed from outside. A recipe is never left empty or without its outputs'
 * nodes: such a change is not made.
 */
export function changePage(look: Look, scope: readonly string[], change: (page: Look) => Look): Look {
  if (!scope.length) return change(look)
  const [id, ...rest] = scope as [string, ...string[]]
  const node = nodeOf(look, id)
  if (!node?.recipe) return look
  const page = pageOf(look, [id])
  const next = changePage(page, rest, change)
  if (next === page || !next.nodes.length) return look
  const recipe = kept(node.recipe, next.nodes, next.wires)
  if (recipe.outputs.length < node.recipe.outputs.length) return look
  // The page has the settings of outside in it already.
  const told = new Set([...node.recipe.settings, ...node.recipe.inputs].map(x => x.name))
  const params = Object.fromEntries(Object.entries(node.params).filter(([name]) => !told.has(name)))
  return withWires({ ...look, nodes: look.nodes.map(n => (n === node ? { ...n, params, recipe } : n)) }, node, recipe)
}

function kept(recipe: Recipe, nodes: LookNode[], wires: Recipe['wires']): Recipe {
  const ids = new Set(nodes.map(n => n.id))
  const wired = new Set(wires.map(w => `${w.to.node}/${w.to.port}`))
  return {
    ...recipe,
    nodes,
    wires,
    inputs: recipe.inputs
      .map(i => ({ ...i, to: i.to.filter(t => ids.has(t.node) && !wired.has(`${t.node}/${t.port}`)) }))
      .filter(i => i.to.length),
    settings: recipe.settings.filter(s => ids.has(s.node)),
    outputs: recipe.outputs.filter(o => ids.has(o.from.node)),
  }
}

/** Wires into inputs that a recipe no longer has go with them. */
function withWires(look: Look, node: LookNode, recipe: Recipe): Look {
  const inputs = new Set(recipe.inputs.map(i => i.name))
  return look.wires.every(w => w.to.node !== node.id || inputs.has(w.to.port))
    ? look
    : { ...look, wires: look.wires.filter(w => w.to.node !== node.id || inputs.has(w.to.port)) }
}
