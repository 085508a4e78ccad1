import type { Look, LookNode, Wire } from './look'

/**
 * Where the entries of a list stand, by a text of each; the first where several have the same. Lists of a look are
 * replaced, not changed, so it is found once for each.
 */
function placesIn<T extends object>(text: (entry: T) => string): (list: readonly T[], wanted: string) => T | undefined {
  const known = new WeakMap<readonly T[], Map<string, number>>()
  return (list, wanted) => {
    let places = known.get(list)
    if (!places) {
      places = new Map()
      for (let i = list.length - 1; i >= 0; i--) places.set(text(list[i]!), i)
      known.set(list, places)
    }
    const found = list[places.get(wanted) ?? -1]
    // One that was changed after all is searched.
    return found && text(found) === wanted ? found : list.find(entry => text(entry) === wanted)
  }
}

const nodeIn = placesIn<LookNode>(n => n.id)
const wireIn = placesIn<Wire>(w => `${w.to.node} ${w.to.port}`)

/** The node of an id. */
export const nodeOf = (look: Pick<Look, 'nodes'>, id: string): LookNode | undefined => nodeIn(look.nodes, id)

/** Where an input's value comes from. */
export const sourceOf = (look: Pick<Look, 'wires'>, to: Wire['to']): Wire['from'] | undefined =>
  wireIn(look.wires, `${to.node} ${to.port}`)?.from
