import type { RecipeFace, RecipeSetting } from '../exchange/surfaceGraph'
import { plainName } from '../exchange/names'
import { titleOf } from '../graph/check'
import type { Look, Recipe } from '../graph/look'
import type { Program } from '../program/lower'
import type { Ref } from '../program/ops'

/** The node inside a recipe, or inside recipes in it, that a setting is of, and which parameter. */
function targetOf(recipe: Recipe, path: string, node: string, param: string): { node: string; param: string } {
  const inner = recipe.nodes.find(n => n.id === node)?.recipe
  const next = inner?.settings.find(s => s.name === param)
  return inner && next ? targetOf(inner, `${path}/${node}`, next.node, next.param) : { node: `${path}/${node}`, param }
}

/** The parameters of a program that are a number of a node's, or the three of a color of it. */
const refsOf = ({ code }: Program, node: string, param: string): Ref[] =>
  code
    .flatMap((i, ref) => {
      if (i.op !== 'param' || i.ref.node !== node || i.ref.param !== param) return []
      const { stop, listed, component } = i.ref
      return stop === undefined && !listed && typeof component !== 'string' ? [{ ref, at: component ?? 0 }] : []
    })
    .sort((a, b) => a.at - b.at)
    .map(r => r.ref)

/** The recipes of a look, with the settings that each shows which are numbers or colors. */
export function recipeFaces(look: Look, program: Program): RecipeFace[] {
  return look.nodes.flatMap(node => {
    const { recipe } = node
    if (!recipe || node.off) return []
    const settings = recipe.settings.flatMap((s): RecipeSetting[] => {
      const target = targetOf(recipe, node.id, s.node, s.param)
      const refs = refsOf(program, target.node, target.param)
      return refs.length === 1 || refs.length === 3 ? [{ name: plainName(s.name), title: s.title, refs }] : []
    })
    return [{ id: node.id, title: titleOf(node), settings }]
  })
}
