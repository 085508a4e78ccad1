import type { Command } from './keys'
import { conditionsOf, type Bench } from './commands/bench'
import { nodeCommands, recipeCommands, stepCommands } from './commands/graph'
import { layoutCommands } from './commands/layout'
import { partCommands, viewCommands } from './commands/stage'
import { workCommands } from './commands/work'

/** What the context menus of the graph and the stage offer, by the titles of commands. */
export const MENUS = {
  node: [
    ['Show on the stage what the node gives out', 'Switch off or on', 'Connect the selected node'],
    ['Another kind for the selected node', 'Open the recipe', 'Fold into a recipe', 'Unfold'],
    ['Line up at the left', 'Line up in a row', 'Spread evenly across', 'Spread evenly down'],
    ['Duplicate', 'Copy', 'Cut', 'Remove what is selected'],
  ],
  wire: [['Put a node into the wire', 'Replace the wire by an echo', 'Remove what is selected']],
  canvas: [
    ['Add a node', 'Paste', 'Add a note', 'Add a frame'],
    ['Lay out in order', 'Show the whole graph', 'Overview of the graph', 'Select all nodes', 'Close the recipe'],
  ],
  part: [
    ['Fit the selected parts, or the whole mesh', 'Isolate the selected parts', 'Hide the selected parts'],
    ['Select alike by material', 'Select alike by size', 'Select alike by name', 'Grow to neighbors'],
    ['Show all parts', 'Let go of the selected parts', 'Keep this state, or forget it'],
  ],
} as const

/**
 * Everything that can be done on the page of a project: menus, the list of keys and the keys themselves are made of it.
 */
export function commandsOf(bench: Bench): Command[] {
  const is = conditionsOf(bench)
  return [workCommands, nodeCommands, layoutCommands, recipeCommands, viewCommands, partCommands, stepCommands].flatMap(
    make => make(bench, is),
  )
}
