<script setup lang="ts">
import { ConnectionLineType, ConnectionMode, useVueFlow, VueFlow, type Connection, type Edge, type Node } from '@vue-flow/core'
import '@vue-flow/core/dist/style.css'
import { addNode, connect, connectThrough, disconnect, duplicateNodes, moveNodes, removeNodes } from '#core/graph/edit'
import { titleOf } from '#core/graph/check'
import type { Wire } from '#core/graph/look'
import { converts, nodeOf, outputType, inputType, refusal, type Port, type Refusal } from '#core/graph/ports'
import { kindOf } from '#core/nodes'
import { typeOf, type NodeKind } from '#core/nodes/declare'
import NodeCard from './NodeCard.vue'
import WireEdge from './WireEdge.vue'

const project = useProject()
const flow = useVueFlow('graph')
const holder = useTemplateRef('holder')

// What the flow is given: as long as no node moves, comes or goes, the same array, so that dragging a parameter costs it
// nothing; each card follows its own node.
const nodes = computed<Node[]>((old) => {
  const before = new Map(old?.map(c => [c.id, c]))
  const cards = project.look.nodes.map((n) => {
    const card = before.get(n.id)
    return card?.position.x === n.at[0] && card.position.y === n.at[1]
      ? card
      : { id: n.id, type: 'card', position: { x: n.at[0], y: n.at[1] }, ariaLabel: titleOf(n) }
  })
  return old?.length === cards.length && cards.every((c, i) => c === old[i]) ? old : cards
})
const wireId = (w: Wire) => `${w.from.node}/${w.from.port}>${w.to.node}/${w.to.port}`
const wires = computed(() => project.look.wires)
const edges = computed<Edge[]>(() => wires.value.map(w => ({
  id: wireId(w), type: 'wire', source: w.from.node, sourceHandle: w.from.port, target: w.to.node, targetHandle: w.to.port,
  ariaLabel: `Wire from ${w.from.node} to ${w.to.node}`,
})))

// Selection goes both ways.
flow.onNodesChange((changes) => {
  if (changes.some(c => c.type === 'select')) {
    nextTick(() => {
      const ids = flow.getSelectedNodes.value.map(n => n.id)
      if (ids.join() !== project.selected.join()) project.selected = ids
    })
  }
})
watch(() => project.selected, (ids) => {
  if (ids.join() === flow.getSelectedNodes.value.map(n => n.id).join()) return
  flow.removeSelectedNodes(flow.getSelectedNodes.value)
  flow.addSelectedNodes(flow.getNodes.value.filter(n => ids.includes(n.id)))
})

flow.onNodeDragStop(({ nodes: moved }) => {
  const places = new Map(moved.map(n => [n.id, [Math.round(n.position.x), Math.round(n.position.y)] as const]))
  project.edit(moved.length > 1 ? 'Move nodes' : 'Move node', look => moveNodes(look, places))
})
// The arrow keys move selected cards, too; steps in a row are one move to undo.
flow.onNodesChange((changes) => {
  const ids = changes.flatMap(c => c.type === 'position' && !c.dragging && c.position ? [c.id] : [])
  if (!ids.length) return
  nextTick(() => {
    const places = new Map(ids.flatMap((id) => {
      const place = flow.findNode(id)?.position
      return place ? [[id, [Math.round(place.x), Math.round(place.y)] as const] as const] : []
    }))
    project.edit('Move by keys', look => moveNodes(look, places), 'move by keys')
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
  const [from, to] = ends(c), why = refusal(project.look, from, to)
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
  project.edit('Connect', look => connect(look, ...ends(c)))
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
  project.edit('Connect through a new node', look => connectThrough(look, from, to))
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
  const node = nodeOf(project.look, from.node), own = node && kindOf(node.kind)
  if (!node || !own) return undefined
  if (from.source) {
    const have = outputType(node, own.outputs[from.port]!)
    return Object.keys(kind.inputs).find(name => converts(have, typeOf(kind.inputs[name]!, {})))
  }
  const want = inputType(node, own.inputs[from.port]!)
  return Object.keys(kind.outputs).find(name => converts(typeOf(kind.outputs[name]!, {}), want))
}
function add(kindName: string): void {
  const { at, from } = menu.value!
  menu.value = null
  const kind = kindOf(kindName)!
  let id = ''
  project.edit(`Add ${kind.title}`, (look) => {
    const added = addNode(look, kindName, at)
    id = added.id
    const port = from && fittingPort(kind, from)
    if (!from || !port) return added.look
    return from.source ? connect(added.look, from, { node: id, port }) : connect(added.look, { node: id, port }, from)
  })
  project.selected = [id]
  holder.value?.focus()
}
function doubleClick(e: MouseEvent): void {
  if ((e.target as Element).classList.contains('vue-flow__pane')) openMenu(e)
}

function removeSelected(): void {
  const gone = flow.getSelectedEdges.value.map(e => e.id), ids = [...project.selected]
  const wires = project.look.wires.filter(w => gone.includes(wireId(w)))
  project.edit(ids.length ? 'Remove' : 'Remove wire', look => removeNodes(disconnect(look, wires), ids))
}
function duplicate(): void {
  let copies: string[] = []
  project.edit('Duplicate', (look) => {
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
defineExpose({ openMenu, removeSelected, duplicate, fit })
</script>

<template>
  <section ref="holder" class="graph" aria-label="Graph" tabindex="-1" @dblclick="doubleClick" @pointermove="follow">
    <VueFlow
      id="graph" :nodes="nodes" :edges="edges" :connection-mode="ConnectionMode.Strict" :connection-line-type="ConnectionLineType.SmoothStep" :is-valid-connection="valid"
      :connection-radius="14" :delete-key-code="null" :zoom-on-double-click="false" :min-zoom="0.15" :max-zoom="2" :pan-on-drag="[0, 1, 2]" selection-key-code="Shift" multi-selection-key-code="Control"
      :node-drag-threshold="2" :nodes-focusable="true" :edges-focusable="true" :elevate-edges-on-select="true"
    >
      <template #node-card="p"><NodeCard :id="p.id" :selected="p.selected" /></template>
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
    <div class="tools">
      <button type="button" title="Add a node (A)" @click="openMenu()"><UIcon name="i-lucide-plus" /> Add node</button>
      <button type="button" title="Show the whole graph (G)" @click="fit">Fit</button>
    </div>
  </section>
</template>

<style scoped>
.graph { position: relative; min-height: 0; background: var(--ub-canvas); }
.graph:focus { outline: none; }
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
