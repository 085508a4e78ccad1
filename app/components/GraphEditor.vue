<script setup lang="ts">
import { ConnectionLineType, ConnectionMode, useVueFlow, VueFlow, type Connection, type Edge, type Node } from '@vue-flow/core'
import '@vue-flow/core/dist/style.css'
import { addNode, connect, connectThrough, disconnect, duplicateNodes, moveNodes, removeNodes } from '#core/graph/edit'
import { titleOf } from '#core/graph/check'
import type { Look, Wire } from '#core/graph/look'
import type { MapSettings } from '#core/geometry/settings'
import { converts, nodeOf, refusal, type Port, type Refusal } from '#core/graph/ports'
import { inputType, kindFor, outputType } from '#core/graph/kinds'
import { kindOf } from '#core/nodes'
import { typeOf, type NodeKind } from '#core/nodes/declare'
import NodeCard from './NodeCard.vue'
import NoteCard from './NoteCard.vue'
import WireEdge from './WireEdge.vue'
import { addNote, CARD_HEIGHT, changeNote, frameNodes, onFrame, removeNotes } from '#core/graph/notes'
import { changePage, pageOf } from '#core/graph/scope'
import { addRecipe, echoWire, foldNodes, unfoldNode } from '#core/graph/recipe'
import { fillMaps } from '#core/recipes/fillMaps'

const project = useProject()
const flow = useVueFlow('graph')
const holder = useTemplateRef('holder')

// What the flow is given: as long as no node moves, comes or goes, the same array, so that dragging a parameter costs it
// nothing; each card follows its own node.
const nodes = computed<Node[]>((old) => {
  const before = new Map(old?.map(c => [c.id, c]))
  const cards = project.page.nodes.map((n) => {
    const card = before.get(n.id)
    return card?.position.x === n.at[0] && card.position.y === n.at[1]
      ? card
      : { id: n.id, type: 'card', position: { x: n.at[0], y: n.at[1] }, ariaLabel: titleOf(n) }
  })
  // Frames lie under the cards.
  for (const n of project.page.notes ?? []) {
    const id = `note:${n.id}`, card = before.get(id)
    cards.push(card?.position.x === n.at[0] && card.position.y === n.at[1] ? card : { id, type: 'note', position: { x: n.at[0], y: n.at[1] }, zIndex: n.frame ? -2 : -1, connectable: false, ariaLabel: n.title || (n.frame ? 'Frame' : 'Note') })
  }
  return old?.length === cards.length && cards.every((c, i) => c === old[i]) ? old : cards
})
const isNote = (id: string): boolean => id.startsWith('note:')
const selectedNotes = ref<string[]>([])
const wireId = (w: Wire) => `${w.from.node}/${w.from.port}>${w.to.node}/${w.to.port}`
const wires = computed(() => project.page.wires)
const edges = computed<Edge[]>(() => wires.value.map(w => ({
  id: wireId(w), type: 'wire', source: w.from.node, sourceHandle: w.from.port, target: w.to.node, targetHandle: w.to.port,
  ariaLabel: `Wire from ${w.from.node} to ${w.to.node}`,
})))

// Selection goes both ways.
let selecting = false
flow.onNodesChange((changes) => {
  if (!selecting && changes.some(c => c.type === 'select')) {
    nextTick(() => {
      if (selecting) return
      const all = flow.getSelectedNodes.value.map(n => n.id), ids = all.filter(id => !isNote(id))
      selectedNotes.value = all.filter(isNote).map(id => id.slice(5))
      if (ids.join() !== project.selected.join()) project.selected = ids
    })
  }
})
watch(() => project.selected, async (ids) => {
  // What was just added is not among the cards yet.
  if (ids.some(id => !flow.findNode(id))) await nextTick()
  if (ids !== project.selected) return
  if (ids.join() === flow.getSelectedNodes.value.map(n => n.id).filter(id => !isNote(id)).join()) return
  selecting = true
  flow.removeSelectedNodes(flow.getSelectedNodes.value)
  flow.addSelectedNodes(flow.getNodes.value.filter(n => ids.includes(n.id)))
  await nextTick()
  await nextTick()
  selecting = false
})

// A frame takes along what lies on it.
let carried: { from: readonly [number, number], with: Map<string, readonly [number, number]> } | undefined
flow.onNodeDragStart(({ node, nodes: moving }) => {
  const frame = isNote(node.id) ? project.page.notes?.find(n => n.id === node.id.slice(5) && n.frame) : undefined
  if (!frame) return
  const { nodes: on, notes } = onFrame(project.page, frame.id), known = new Set(moving.map(n => n.id))
  carried = { from: frame.at, with: new Map([...on, ...notes.map(id => `note:${id}`)].filter(id => !known.has(id)).map(id => [id, Object.values(flow.findNode(id)!.position) as [number, number]])) }
})
flow.onNodeDrag(({ node }) => {
  for (const [id, at] of carried?.with ?? []) flow.updateNode(id, { position: { x: at[0] + node.position.x - carried!.from[0], y: at[1] + node.position.y - carried!.from[1] } })
})
flow.onNodeDragStop(({ nodes: dragged }) => {
  const moved = [...dragged, ...[...carried?.with.keys() ?? []].map(id => flow.findNode(id)!)]
  carried = undefined
  place(moved.length > 1 ? 'Move nodes' : 'Move node', moved.map(n => [n.id, n.position]))
})
/** Writes where cards and notes are now. */
function place(label: string, moved: [string, { x: number, y: number }][], merge?: string): void {
  const at = new Map(moved.map(([id, p]) => [id, [Math.round(p.x), Math.round(p.y)] as [number, number]]))
  project.editPage(label, look => [...at].filter(([id]) => isNote(id)).reduce((l, [id, p]) => changeNote(l, id.slice(5), { at: p }), moveNodes(look, at)), merge)
}
// The arrow keys move selected cards, too; steps in a row are one move to undo.
flow.onNodesChange((changes) => {
  const ids = changes.flatMap(c => c.type === 'position' && !c.dragging && c.position ? [c.id] : [])
  if (!ids.length) return
  nextTick(() => {
    place('Move by keys', ids.flatMap((id) => {
      const at = flow.findNode(id)?.position
      return at ? [[id, at] as [string, { x: number, y: number }]] : []
    }), 'move by keys')
  })
})

// These hold plain objects that end up in the look, so they must not turn into proxies: shallow refs.
// Connecting: the reason for a refusal shows beside the pointer while the wire is drawn.
const drawing = shallowRef<{ node: string, port: string, source: boolean } | null>(null)
const refused = shallowRef<(Refusal & { from: Port, to: Port }) | null>(null)
const offer = shallowRef<(Refusal & { from: Port, to: Port, x: number, y: number }) | null>(null)
const pointer = ref({ x: 0, y: 0 })
const ends = (c: Connection): [Port, Port] => [{ node: c.source, port: c.sourceHandle! }, { node: c.target, port: c.targetHandle! }]
function valid(c: Connection): boolean {
  const [from, to] = ends(c), why = refusal(project.page, from, to)
  refused.value = why && { ...why, from, to }
  return !why
}
let made = false
flow.onConnectStart(({ nodeId, handleId, handleType }) => {
  drawing.value = { node: nodeId!, port: handleId!, source: handleType === 'source' }
  refused.value = null
  offer.value = null
  made = false
})
flow.onConnect((c) => {
  made = true
  project.editPage('Connect', look => connect(look, ...ends(c)))
})
flow.onConnectEnd((event) => {
  const start = drawing.value
  drawing.value = null
  const target = event && 'clientX' in event ? document.elementFromPoint(event.clientX, event.clientY) : null
  if (!made && refused.value?.bridge && target?.closest('.vue-flow__handle')) offer.value = { ...refused.value, ...pointer.value }
  else if (!made && start && event && target?.classList.contains('vue-flow__pane')) openMenu(event as MouseEvent, start)
  refused.value = null
})
function takeOffer(): void {
  const { from, to } = offer.value!
  project.editPage('Connect through a new node', look => connectThrough(look, from, to))
  offer.value = null
}
function follow(e: PointerEvent): void {
  const box = holder.value!.getBoundingClientRect()
  pointer.value = { x: e.clientX - box.left, y: e.clientY - box.top }
  // Away from every port there is nothing to refuse.
  if (refused.value && !(e.target as Element).closest?.('.vue-flow__handle')) refused.value = null
}

// Adding.
const menu = shallowRef<{ x: number, y: number, at: [number, number], from?: { node: string, port: string, source: boolean } } | null>(null)
function openMenu(e?: { clientX: number, clientY: number }, from?: { node: string, port: string, source: boolean }): void {
  const box = holder.value!.getBoundingClientRect()
  const client = e ?? { clientX: box.left + box.width / 2 - 100, clientY: box.top + box.height / 3 }
  const at = flow.screenToFlowCoordinate({ x: client.clientX, y: client.clientY })
  menu.value = {
    x: Math.max(4, Math.min(client.clientX - box.left, box.width - 304)), y: Math.max(4, Math.min(client.clientY - box.top, box.height - 370)), at: [Math.round(at.x), Math.round(at.y)],
    ...(from && { from }),
  }
}
/** The first port of a kind that would take the wire being drawn. */
function fittingPort(kind: NodeKind, from: { node: string, port: string, source: boolean }): string | undefined {
  const node = nodeOf(project.page, from.node), own = node && kindFor(node)
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
function add(key: string): void {
  const { at, from } = menu.value!, known = recipes.value.find(r => `recipe:${r.key}` === key)
  menu.value = null
  const kind = known?.kind ?? kindOf(key)!
  let id = ''
  project.editDocument(`Add ${kind.title}`, ({ look: before, preparation }) => {
    let maps: MapSettings[] = []
    const look = changePage(before, project.scope, (page) => {
      const added = addTo(page, preparation.maps, key, at)
      maps = added.maps
      return added.look
    })
    return { look, preparation: maps.length ? { ...preparation, maps: [...preparation.maps, ...maps] } : preparation }
  })
  project.selected = [id]
  holder.value?.focus()

  /** The node, connected to the wire that was drawn, and the geometry maps that a recipe asks for. */
  function addTo(look: Look, maps: readonly MapSettings[], name: string, at: [number, number]): { look: Look, maps: MapSettings[] } {
    const filled = known && fillMaps(known.recipe, maps, project.mapNames, project.diagonal)
    const added = filled ? addRecipe(look, filled.recipe, at) : addNode(look, name, at)
    id = added.id
    return { look: joined(added.look), maps: filled?.missing ?? [] }
  }
  function joined(look: Look): Look {
    const port = from && fittingPort(kind, from)
    if (!from || !port) return look
    return from.source ? connect(look, from, { node: id, port }) : connect(look, { node: id, port }, from)
  }
}
function doubleClick(e: MouseEvent): void {
  if ((e.target as Element).classList.contains('vue-flow__pane')) openMenu(e)
}

function removeSelected(): void {
  const gone = flow.getSelectedEdges.value.map(e => e.id), ids = [...project.selected]
  const wires = project.page.wires.filter(w => gone.includes(wireId(w)))
  project.editPage(ids.length || selectedNotes.value.length ? 'Remove' : 'Remove wire', look => removeNotes(removeNodes(disconnect(look, wires), ids), selectedNotes.value))
}

// Order: recipes, echoes, notes, frames.
const selectedRecipes = computed(() => project.selected.filter(id => nodeOf(project.page, id)?.recipe))
const foldable = computed(() => project.selected.some(id => nodeOf(project.page, id) && nodeOf(project.page, id)!.kind !== 'result'))
function fold(): void {
  let id: string | undefined
  project.editPage('Fold into a recipe', (look) => {
    const folded = foldNodes(look, project.selected, 'Recipe')
    id = folded.id
    return folded.look
  })
  if (id) nextTick(() => { project.selected = [id!] })
}
function unfold(): void {
  const ids: string[] = []
  project.editPage('Unfold', look => selectedRecipes.value.reduce((l, id) => {
    const open = unfoldNode(l, id)
    ids.push(...open.ids)
    return open.look
  }, look))
  if (ids.length) nextTick(() => { project.selected = ids })
}
/** Names of the pages from the look to the one that is open. */
const path = computed(() => [project.look.name || 'Look', ...project.scope.map((_, i) => pageOf(project.look, project.scope.slice(0, i + 1)).name)])
function open(): void {
  if (selectedRecipes.value.length !== 1) return
  project.enter([...project.scope, selectedRecipes.value[0]!])
  nextTick(() => setTimeout(fit, 60))
}
function close(): void {
  const last = project.scope.at(-1)
  project.enter(project.scope.slice(0, -1))
  if (last) nextTick(() => { project.selected = [last] })
  nextTick(() => setTimeout(fit, 60))
}
function echo(): void {
  const chosen = flow.getSelectedEdges.value.map(e => e.id)
  project.editPage('Echo', look => look.wires.filter(w => chosen.includes(wireId(w))).reduce(echoWire, look))
}
const middle = (): [number, number] => {
  const box = holder.value!.getBoundingClientRect(), at = flow.screenToFlowCoordinate({ x: box.left + box.width / 3, y: box.top + box.height / 3 })
  return [Math.round(at.x), Math.round(at.y)]
}
const write = (): void => project.scope.length ? undefined : project.editPage('Add a note', look => addNote(look, middle()).look)
const frame = (): void => project.scope.length ? undefined : project.editPage('Add a frame', look => frameNodes(look, project.selected, middle(), id => flow.findNode(id)?.dimensions.height ?? CARD_HEIGHT).look)
const someWires = computed(() => flow.getSelectedEdges.value.length > 0)
function duplicate(): void {
  let copies: string[] = []
  project.editPage('Duplicate', (look) => {
    const done = duplicateNodes(look, project.selected)
    copies = done.ids
    return done.look
  })
  if (copies.length) nextTick(() => { project.selected = copies })
}
const fit = (): void => void flow.fitView({ padding: 0.08, duration: 0, maxZoom: 1.1 })

// A whole graph comes into view when it is opened, not when it changes.
watch(() => project.meta?.id, () => nextTick(() => setTimeout(fit, 60)))
flow.onNodesInitialized(() => { if (!shownOnce) { shownOnce = true; fit() } })
let shownOnce = false
defineExpose({ openMenu, removeSelected, duplicate, fit, fold, unfold, open, close, echo, write, frame })
</script>

<template>
  <section ref="holder" class="graph" aria-label="Graph" tabindex="-1" @dblclick="doubleClick" @pointermove="follow">
    <VueFlow
      id="graph" :nodes="nodes" :edges="edges" :connection-mode="ConnectionMode.Strict" :connection-line-type="ConnectionLineType.SmoothStep" :is-valid-connection="valid"
      :connection-radius="14" :delete-key-code="null" :zoom-on-double-click="false" :min-zoom="0.15" :max-zoom="2" :pan-on-drag="[0, 1, 2]" selection-key-code="Shift" multi-selection-key-code="Control"
      :node-drag-threshold="2" :nodes-focusable="true" :edges-focusable="true" :elevate-edges-on-select="true"
    >
      <template #node-card="p"><NodeCard :id="p.id" :selected="p.selected" /></template>
      <template #node-note="p"><NoteCard :id="p.id" :selected="p.selected" :zoom="flow.viewport.value.zoom" /></template>
      <template #edge-wire="p"><WireEdge v-bind="p" /></template>
    </VueFlow>

    <p v-if="refused" class="refusal" role="status" :style="{ left: `${pointer.x + 14}px`, top: `${pointer.y + 14}px` }">{{ refused.reason }}</p>
    <div v-if="offer" class="refusal offer" role="alertdialog" aria-label="Refused wire" :style="{ left: `${Math.min(offer.x, 420)}px`, top: `${offer.y + 10}px` }">
      {{ offer.reason }}
      <span><button type="button" @click="takeOffer">Put a {{ kindOf(offer.bridge!.kind)!.title }} between</button><button type="button" @click="offer = null">Leave it</button></span>
    </div>
    <NodeMenu
      v-if="menu" :x="menu.x" :y="menu.y" v-bind="menu.from ? { only: (k: NodeKind) => fittingPort(k, menu!.from!) !== undefined, hint: 'Nodes that take this wire' } : {}"
      @pick="add" @close="menu = null"
    />
    <nav v-if="project.scope.length" class="path" aria-label="Open recipes">
      <template v-for="(step, i) in path" :key="i">
        <button v-if="i < path.length - 1" type="button" class="ub-link" @click="project.enter(project.scope.slice(0, i))">{{ step }}</button>
        <b v-else>{{ step }}</b>
        <span v-if="i < path.length - 1" aria-hidden="true">›</span>
      </template>
      <button type="button" class="ub-link" title="Escape" @click="close">Close</button>
    </nav>
    <div class="tools">
      <button type="button" title="Add a node (A)" @click="openMenu()"><UIcon name="i-lucide-plus" /> Add node</button>
      <button type="button" title="Show the whole graph (G)" @click="fit">Fit</button>
      <button v-if="!project.scope.length" type="button" title="Words on the page (N)" @click="write">Note</button>
      <button v-if="!project.scope.length" type="button" title="A frame around the selected nodes (Shift N)" @click="frame">Frame</button>
      <button v-if="foldable" type="button" title="Fold the selected nodes into one (R)" @click="fold">Fold</button>
      <button v-if="selectedRecipes.length === 1" type="button" title="Work inside it (Enter)" @click="open">Open</button>
      <button v-if="selectedRecipes.length" type="button" title="Put what is inside back onto the page (Shift R)" @click="unfold">Unfold</button>
      <button v-if="someWires" type="button" title="Replace the wire by a stand-in for its source (E)" @click="echo">Echo</button>
    </div>
  </section>
</template>

<style scoped>
.graph { position: relative; min-height: 0; background: var(--ub-canvas); }
.graph:focus { outline: none; }
.path { position: absolute; left: 12px; top: 10px; display: flex; gap: 10px; padding: 4px 10px; background: var(--ub-panel); border: 1px solid var(--ub-line); }
.path b { font-weight: 600; }
.tools { position: absolute; left: 12px; bottom: 10px; display: flex; gap: 14px; padding: 4px 10px; background: var(--ub-panel); border: 1px solid var(--ub-line); }
.tools button { display: flex; align-items: center; gap: 4px; color: var(--ub-quiet); }
.tools button:hover { color: var(--ub-accent); }
.refusal { position: absolute; z-index: 20; max-width: 280px; padding: 5px 9px; background: var(--ub-text); color: var(--ub-panel); pointer-events: none; font-size: 12px; }
.offer { pointer-events: auto; display: grid; gap: 6px; }
.offer span { display: flex; gap: 14px; }
.offer button { text-decoration: underline; text-underline-offset: 3px; }
.graph :deep(.vue-flow__connection-path) { stroke: var(--ub-accent); stroke-width: 2.5; }
.graph :deep(.vue-flow__node:focus-visible) { outline: 2px solid var(--ub-accent); outline-offset: 3px; }
.graph :deep(.vue-flow__selection), .graph :deep(.vue-flow__nodesselection-rect) { background: color-mix(in srgb, var(--ub-accent) 8%, transparent); border: 1px dashed var(--ub-accent); }
</style>
