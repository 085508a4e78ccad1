<script setup lang="ts">
import { ConnectionLineType, ConnectionMode, useVueFlow, VueFlow } from '@vue-flow/core'
import '@vue-flow/core/dist/style.css'
import { MiniMap } from '@vue-flow/minimap'
import '@vue-flow/minimap/dist/style.css'
import { kindFor } from '#core/graph/kinds'
import { CARD_HEIGHT, CARD_WIDTH } from '#core/graph/notes'
import { kindOf } from '#core/nodes'
import { useRightClick } from '../shared/rightClick'
import { followPage, isNote, wireId } from './useCards'
import NodeCard from './NodeCard.vue'
import NoteCard from './NoteCard.vue'
import WireEdge from './WireEdge.vue'
import { useAddMenu } from './useAddMenu'
import { useArranging } from './useArranging'
import { useCardMoves } from './useCardMoves'
import { useCardSelection } from './useCardSelection'
import { useCutting } from './useCutting'
import { useFitting } from './useFitting'
import { useNodeActions } from './useNodeActions'
import { useRecipePages } from './useRecipePages'
import { useWiring } from './useWiring'
import { wireAt } from './wireAt'

/** So small that port names cannot be read. */
const FAR = 0.62
const project = useProject()
const looking = useLooking()
// A name of its own: the canvas of the project that is left is there until this one is.
const canvasId = useId()
const flow = useVueFlow(canvasId)
const far = computed(() => flow.viewport.value.zoom < FAR)
const holder = useTemplateRef('holder')

const incomplete = followPage(flow, () => project.page)
const selectedNotes = useCardSelection(flow)
const over = useCardMoves(flow)
const sizes = (id: string) => ({
  width: flow.findNode(id)?.dimensions.width || CARD_WIDTH,
  height: flow.findNode(id)?.dimensions.height || CARD_HEIGHT,
})
const middle = (): [number, number] => {
  const box = holder.value!.getBoundingClientRect()
  const at = flow.screenToFlowCoordinate({ x: box.left + box.width / 3, y: box.top + box.height / 3 })
  return [Math.round(at.x), Math.round(at.y)]
}
const { menu, menuFor, openMenu, add } = useAddMenu(flow, holder, sizes)
const { refused, offer, pointer, valid, takeOffer, follow } = useWiring(flow, holder, (e, from) =>
  openMenu(e, { from }),
)
const { cut, startCut, moveCut, endCut } = useCutting(holder)
const actions = useNodeActions(flow, selectedNotes, middle)
const { chosen, selectedRecipes, foldable, someWires, fold, unfold, echo, write, frame } = actions
const { fit, fitAnew, fitSelection } = useFitting(flow, holder, incomplete)
const arranging = useArranging(chosen, sizes, fit)
const { tidy } = arranging
const { crumbs, open, close } = useRecipePages(selectedRecipes, fit)

function doubleClick(e: MouseEvent): void {
  const target = e.target as Element
  const wire = target.closest('.vue-flow__edge') ? wireAt(project.page.wires, e.clientX, e.clientY) : undefined
  if (wire) openMenu(e, { into: wire })
  else if (target.classList.contains('vue-flow__pane')) openMenu(e)
}
function exchange(): void {
  const ids = chosen.value.filter(n => n.kind !== 'result' && !n.recipe).map(n => n.id)
  if (ids.length) openMenu(undefined, { swap: ids })
}
/** Looks at the selected node's outputs, one after the other, then at the result again. */
function probe(): void {
  const [node] = chosen.value
  const ports = node ? Object.keys(kindFor(node)?.outputs ?? {}) : []
  const next = looking.probe?.node === node?.id ? ports[ports.indexOf(looking.probe!.port) + 1] : ports[0]
  looking.probe = node && next ? { node: node.id, port: next } : null
}
const selectAll = (): void => {
  project.selected = project.page.nodes.map(n => n.id)
}
const minimap = ref(false)

/** What the right button was clicked on, which is selected then. */
const emit = defineEmits<{ aim: [at: 'node' | 'wire' | 'canvas'] }>()
useRightClick(holder, e => {
  const target = e.target as Element
  const node = target.closest('.vue-flow__node')?.getAttribute('data-id')
  if (node) {
    const card = flow.findNode(node)
    if (card && !card.selected) {
      flow.removeSelectedElements()
      flow.addSelectedNodes([card])
      if (!isNote(node)) project.selected = [node]
    }
    return emit('aim', 'node')
  }
  const wire = target.closest('.vue-flow__edge')?.getAttribute('data-id')
  const edge = wire && flow.findEdge(wire)
  if (!edge) return emit('aim', 'canvas')
  flow.removeSelectedElements()
  flow.addSelectedEdges([edge])
  pointed = { clientX: e.clientX, clientY: e.clientY }
  emit('aim', 'wire')
})
let pointed = { clientX: 0, clientY: 0 }
/** Offers what fits into the wire that was pointed at. */
function openInWire(): void {
  const wire = wireAt(project.page.wires, pointed.clientX, pointed.clientY)
  if (wire) openMenu(pointed, { into: wire })
}

defineExpose({
  ...actions,
  ...arranging,
  ...{ fit, fitAnew, fitSelection, selectAll, minimap },
  ...{ openInWire, openMenu, exchange, probe, open, close },
})
</script>

<template>
  <section
    ref="holder"
    class="graph"
    :class="{ far }"
    aria-label="Graph"
    tabindex="-1"
    @dblclick="doubleClick"
    @pointermove="follow"
    @pointerdown.capture="startCut"
    @mousedown.capture="cut && $event.stopPropagation()"
    @pointermove.capture="moveCut"
    @pointerup="endCut"
  >
    <VueFlow
      :id="canvasId"
      :connection-mode="ConnectionMode.Strict"
      :connection-line-type="ConnectionLineType.SmoothStep"
      :is-valid-connection="valid"
      :connection-radius="14"
      :delete-key-code="null"
      :zoom-on-double-click="false"
      :min-zoom="0.15"
      :max-zoom="2"
      :pan-on-drag="[0, 1, 2]"
      selection-key-code="Shift"
      multi-selection-key-code="Control"
      :node-drag-threshold="2"
      :nodes-focusable="true"
      :edges-focusable="true"
      :elevate-edges-on-select="true"
    >
      <template #node-card="p"><NodeCard :id="p.id" :selected="p.selected" /></template>
      <template #node-note="p"
        ><NoteCard :id="p.id" :selected="p.selected" :zoom="flow.viewport.value.zoom"
      /></template>
      <template #edge-wire="p"><WireEdge v-bind="p" :over="over !== null && p.id === wireId(over)" /></template>
      <MiniMap
        v-if="minimap"
        pannable
        zoomable
        aria-label="Overview of the graph"
        :width="170"
        :height="110"
        node-color="var(--ub-line-strong)"
        mask-color="color-mix(in srgb, var(--ub-canvas) 72%, transparent)"
      />
    </VueFlow>
    <svg v-if="cut" class="cut" aria-hidden="true">
      <line :x1="cut.from[0]" :y1="cut.from[1]" :x2="cut.to[0]" :y2="cut.to[1]" />
    </svg>
    <p v-if="cut" class="refusal" role="status" :style="{ left: `${cut.to[0] + 14}px`, top: `${cut.to[1] + 14}px` }">
      {{ cut.wires.length === 1 ? 'Takes 1 wire away' : `Takes ${cut.wires.length} wires away` }}
    </p>

    <p
      v-if="refused"
      class="refusal"
      role="status"
      :style="{ left: `${pointer.x + 14}px`, top: `${pointer.y + 14}px` }"
    >
      {{ refused.reason }}
    </p>
    <div
      v-if="offer"
      class="refusal offer"
      role="alertdialog"
      aria-label="Refused wire"
      :style="{ left: `${Math.min(offer.x, 420)}px`, top: `${offer.y + 10}px` }"
    >
      {{ offer.reason }}
      <span
        ><UButton variant="bare" @click="takeOffer">Put a {{ kindOf(offer.bridge!.kind)!.title }} between</UButton
        ><UButton variant="bare" @click="offer = null">Leave it</UButton></span
      >
    </div>
    <NodeMenu v-if="menu" :x="menu.x" :y="menu.y" v-bind="menuFor" @pick="add" @close="menu = null" />
    <nav v-if="project.scope.length" class="path" aria-label="Open recipes">
      <UBreadcrumb as="div" :items="crumbs" :ui="{ list: 'gap-2', link: 'text-[13px] font-normal' }">
        <template #item="{ item, index }">
          <UButton
            v-if="index < project.scope.length"
            variant="link"
            @click="project.enter(project.scope.slice(0, index))"
          >
            {{ item.label }}
          </UButton>
          <b v-else>{{ item.label }}</b>
        </template>
      </UBreadcrumb>
      <UTooltip text="Close" :kbds="['Escape']"><UButton variant="link" @click="close">Close</UButton></UTooltip>
    </nav>
    <div class="tools">
      <UTooltip text="Add a node" :kbds="['A']"
        ><UButton variant="bare" @click="openMenu()"><UIcon name="i-lucide-plus" /> Add node</UButton></UTooltip
      >
      <UTooltip text="Show the whole graph" :kbds="['G']"
        ><UButton variant="bare" @click="fit">Fit graph</UButton></UTooltip
      >
      <UTooltip text="Lay the selected nodes out in order, or all of them" :kbds="['L']"
        ><UButton variant="bare" @click="tidy">Tidy</UButton></UTooltip
      >
      <UTooltip text="A small picture of the whole graph" :kbds="['M']"
        ><UButton variant="bare" :aria-pressed="minimap" @click="minimap = !minimap"> Overview </UButton></UTooltip
      >
      <UTooltip v-if="!project.scope.length" text="Words on the page" :kbds="['N']"
        ><UButton variant="bare" @click="write">Note</UButton></UTooltip
      >
      <UTooltip v-if="!project.scope.length" text="A frame around the selected nodes" :kbds="['Shift', 'N']"
        ><UButton variant="bare" @click="frame"> Frame </UButton></UTooltip
      >
      <UTooltip v-if="foldable" text="Fold the selected nodes into one" :kbds="['R']"
        ><UButton variant="bare" @click="fold">Fold</UButton></UTooltip
      >
      <UTooltip v-if="selectedRecipes.length === 1" text="Work inside it" :kbds="['Enter']"
        ><UButton variant="bare" @click="open"> Open </UButton></UTooltip
      >
      <UTooltip v-if="selectedRecipes.length" text="Put what is inside back onto the page" :kbds="['Shift', 'R']"
        ><UButton variant="bare" @click="unfold"> Unfold </UButton></UTooltip
      >
      <UTooltip v-if="someWires" text="Replace the wire by a stand-in for its source" :kbds="['E']"
        ><UButton variant="bare" @click="echo"> Echo </UButton></UTooltip
      >
    </div>
  </section>
</template>

<style scoped>
.graph {
  position: relative;
  min-height: 0;
  background: var(--ub-canvas);
}
.graph:focus {
  outline: none;
}
.path {
  position: absolute;
  left: 12px;
  top: 10px;
  display: flex;
  gap: 10px;
  padding: 4px 10px;
  background: var(--ub-panel);
  border: 1px solid var(--ub-line);
}
.path b {
  font-weight: 600;
}
.tools {
  position: absolute;
  left: 12px;
  bottom: 10px;
  display: flex;
  gap: 14px;
  padding: 4px 10px;
  background: var(--ub-panel);
  border: 1px solid var(--ub-line);
}
.tools button {
  display: flex;
  align-items: center;
  gap: 4px;
  color: var(--ub-quiet);
}
.tools button:hover {
  color: var(--ub-accent);
}
.refusal {
  position: absolute;
  z-index: 20;
  max-width: 280px;
  padding: 5px 9px;
  background: var(--ub-text);
  color: var(--ub-panel);
  pointer-events: none;
  font-size: 12px;
}
.offer {
  pointer-events: auto;
  display: grid;
  gap: 6px;
}
.offer span {
  display: flex;
  gap: 14px;
}
.offer button {
  text-decoration: underline;
  text-underline-offset: 3px;
}
.cut {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
  z-index: 19;
}
.cut line {
  stroke: var(--ub-warn);
  stroke-width: 2;
  stroke-dasharray: 6 4;
}
.graph :deep(.vue-flow__minimap) {
  background: var(--ub-panel);
  border: 1px solid var(--ub-line);
  margin: 10px;
}
.graph :deep(.vue-flow__connection-path) {
  stroke: var(--ub-accent);
  stroke-width: 2.5;
}
.graph :deep(.vue-flow__node:focus-visible) {
  outline: 2px solid var(--ub-accent);
  outline-offset: 3px;
}
.graph :deep(.vue-flow__selection),
.graph :deep(.vue-flow__nodesselection-rect) {
  background: color-mix(in srgb, var(--ub-accent) 8%, transparent);
  border: 1px dashed var(--ub-accent);
}
</style>
