import type { ShallowRef } from 'vue'
import type { VueFlowStore } from '@vue-flow/core'
import { addNode, connect } from '#core/graph/edit'
import { putInto, swapKind } from '#core/graph/handwork'
import { inputType, kindFor, outputType } from '#core/graph/kinds'
import type { Look, Wire } from '#core/graph/look'
import { CARD_HEIGHT, CARD_WIDTH } from '#core/graph/notes'
import { nodeOf } from '#core/graph/find'
import { converts } from '#core/graph/ports'
import { addRecipe } from '#core/graph/recipe'
import { roomFor } from '#core/graph/room'
import { changePage } from '#core/graph/scope'
import type { MapSettings } from '#core/geometry/maps'
import { kindOf } from '#core/nodes'
import { typeOf, type NodeKind } from '#core/nodes/declare'
import { fillMaps } from '#core/recipes/fillMaps'
import type { Drawn } from './useWiring'

/** What is to be done with the kind that is chosen: a wire's end, a place in a wire, or another kind for nodes. */
interface MenuFor {
  from?: Drawn
  into?: Wire
  swap?: readonly string[]
}

/**
 * The menu of node kinds and recipes, and what is done with the one that is taken.
 * @param sizes the size of a card on the canvas
 */
export function useAddMenu(
  flow: VueFlowStore,
  holder: Readonly<ShallowRef<HTMLElement | null>>,
  sizes: (id: string) => { width: number; height: number },
) {
  const project = useProject()

  // Adding, putting into a wire, and making nodes another kind.
  const menu = shallowRef<({ x: number; y: number; at: [number, number] } & MenuFor) | null>(null)
  function openMenu(e?: { clientX: number; clientY: number }, what: MenuFor = {}): void {
    const box = holder.value!.getBoundingClientRect()
    const client = e ?? { clientX: box.left + box.width / 2 - 100, clientY: box.top + box.height / 3 }
    const wish = flow.screenToFlowCoordinate({ x: client.clientX, y: client.clientY })
    // Where nobody points to, a card finds itself a place.
    const [x, y] = e
      ? [wish.x, wish.y]
      : roomFor(project.page, [wish.x, wish.y], { width: CARD_WIDTH, height: CARD_HEIGHT }, sizes)
    menu.value = {
      x: Math.max(4, Math.min(client.clientX - box.left, box.width - 304)),
      y: Math.max(4, Math.min(client.clientY - box.top, box.height - 370)),
      at: [Math.round(x), Math.round(y)],
      ...what,
    }
  }
  /** The first port of a kind that would take the wire being drawn. */
  function fittingPort(kind: NodeKind, from: Drawn): string | undefined {
    const node = nodeOf(project.page, from.node)
    const own = node && kindFor(node)
    if (!node || !own) return undefined
    if (from.source) {
      const have = outputType(node, own.outputs[from.port]!)
      return Object.keys(kind.inputs).find(name => converts(have, typeOf(kind.inputs[name]!, {})))
    }
    const want = inputType(node, own.inputs[from.port]!)
    return Object.keys(kind.outputs).find(name => converts(typeOf(kind.outputs[name]!, {}), want))
  }
  // The library is there before the menu is opened.
  const { all: recipes, load: loadRecipes } = useRecipes()
  onMounted(loadRecipes)
  /** Would a new node of a kind go into a wire? */
  function fitsInto(kind: NodeKind, wire: Wire): boolean {
    const trial = kind.kind === 'recipe' ? undefined : addNode(project.page, kind.kind, [0, 0])
    return trial !== undefined && putInto(trial.look, trial.id, wire) !== trial.look
  }
  function swap(ids: readonly string[], key: string): void {
    menu.value = null
    const kind = kindOf(key)
    if (kind) project.editPage(`Make it ${kind.title}`, look => ids.reduce((l, id) => swapKind(l, id, key), look))
    holder.value?.focus()
  }
  function add(key: string): void {
    if (menu.value!.swap) return swap(menu.value!.swap, key)
    const { at, from, into } = menu.value!
    const known = recipes.value.find(r => `recipe:${r.key}` === key)
    menu.value = null
    const kind = known?.kind ?? kindOf(key)!
    let id = ''
    project.editDocument(`Add ${kind.title}`, ({ look: before, preparation }) => {
      let maps: MapSettings[] = []
      const look = changePage(before, project.scope, page => {
        const added = addTo(page, preparation.maps, key, at)
        maps = added.maps
        return added.look
      })
      return { look, preparation: maps.length ? { ...preparation, maps: [...preparation.maps, ...maps] } : preparation }
    })
    project.selected = [id]
    holder.value?.focus()

    /** The node, connected to the wire that was drawn, and the geometry maps that a recipe asks for. */
    function addTo(
      look: Look,
      maps: readonly MapSettings[],
      name: string,
      at: [number, number],
    ): { look: Look; maps: MapSettings[] } {
      const filled = known && fillMaps(known.recipe, maps, project.mapNames, project.diagonal)
      const added = filled ? addRecipe(look, filled.recipe, at) : addNode(look, name, at)
      id = added.id
      return { look: into ? putInto(added.look, id, into) : joined(added.look), maps: filled?.missing ?? [] }
    }
    function joined(look: Look): Look {
      const port = from && fittingPort(kind, from)
      if (!from || !port) return look
      return from.source ? connect(look, from, { node: id, port }) : connect(look, { node: id, port }, from)
    }
  }

  const menuFor = computed(() => {
    const m = menu.value
    if (m?.swap)
      return {
        only: (k: NodeKind) => k.kind !== 'recipe' && k.kind !== 'echo',
        hint: 'Settings and wires that fit stay',
        title: 'Another kind',
      }
    if (m?.into) return { only: (k: NodeKind) => fitsInto(k, m.into!), hint: 'Nodes that go into this wire' }
    return m?.from
      ? { only: (k: NodeKind) => fittingPort(k, m.from!) !== undefined, hint: 'Nodes that take this wire' }
      : {}
  })

  return { menu, menuFor, openMenu, add }
}
