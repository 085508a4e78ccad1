<script setup lang="ts">
import { useEventListener, useResizeObserver } from '@vueuse/core'
import { ConnectionLineType, ConnectionMode, useVueFlow, VueFlow, type Connection } from '@vue-flow/core'
import '@vue-flow/core/dist/style.css'
import { MiniMap } from '@vue-flow/minimap'
import '@vue-flow/minimap/dist/style.css'
import { addNode, connect, connectThrough, disconnect, duplicateNodes, moveNodes, removeNodes } from '#core/graph/edit'
import { clipOf, parseClip, paste as pasteClip } from '#core/graph/clip'
import { aligned, distributed, putInto, swapKind, type Edge as Side } from '#core/graph/handwork'
import { switchNodes } from '#core/graph/pass'
import { roomFor } from '#core/graph/room'
import { tidied } from '#core/graph/tidy'
import type { Look, Wire } from '#core/graph/look'
import type { MapSettings } from '#core/geometry/maps'
import { converts, nodeOf, refusal, type Port, type Refusal } from '#core/graph/ports'
import { inputType, kindFor, outputType } from '#core/graph/kinds'
import { kindOf } from '#core/nodes'
import { typeOf, type NodeKind } from '#core/nodes/declare'
import { followPage, isNote, noteId, noteOf, wireId } from './useCards'
import NodeCard from './NodeCard.vue'
import NoteCard from './NoteCard.vue'
import WireEdge from './WireEdge.vue'
import { addNote, CARD_HEIGHT, CARD_WIDTH, changeNote, frameNodes, onFrame, removeNotes } from '#core/graph/notes'
import { changePage, pageOf } from '#core/graph/scope'
import { addRecipe, echoWire, foldNodes, unfoldNode } from '#core/graph/recipe'
import { fillMaps } from '#core/recipes/fillMaps'
import { useRightClick } from '../shared/rightClick'

/** So small that port names cannot be read. */
const FAR = 0.62
/** Room around a graph that is fitted: below it the tools stand. */
const AROUND = { top: '24px', right: '28px', bottom: '56px', left: '28px' } as const
const project = useProject()
const looking = useLooking()
const flow = useVueFlow('graph')
const far = computed(() => flow.viewport.value.zoom < FAR)
const holder = useTemplateRef('holder')

followPage(flow, () => project.page)
const selectedNotes = ref<string[]>([])
const wires = computed(() => project.page.wires)

// Selection goes both ways.
let selecting = false
flow.onNodesChange(changes => {
  if (!selecting && changes.some(c => c.type === 'select')) {
    nextTick(() => {
      if (selecting) return
      const all = flow.getSelectedNodes.value.map(n => n.id)
      const ids = all.filter(id => !isNote(id))
      selectedNotes.value = all.filter(isNote).map(noteOf)
      if (ids.join() !== project.selected.join()) project.selected = ids
    })
  }
})
watch(
  () => project.selected,
  async ids => {
    // What was just added is not among the cards yet.
    if (ids.some(id => !flow.findNode(id))) await nextTick()
    if (ids !== project.selected) return
    if (
      ids.join() ===
      flow.getSelectedNodes.value
        .map(n => n.id)
        .filter(id => !isNote(id))
        .join()
    )
      return
    selecting = true
    flow.removeSelectedNodes(flow.getSelectedNodes.value)
    flow.addSelectedNodes(flow.getNodes.value.filter(n => ids.includes(n.id)))
    await nextTick()
    await nextTick()
    selecting = false
  },
)

// A frame takes along what lies on it.
let carried: { from: readonly [number, number]; with: Map<string, readonly [number, number]> } | undefined
flow.onNodeDragStart(({ node, nodes: moving }) => {
  const frame = isNote(node.id) ? project.page.notes?.find(n => n.id === noteOf(node.id) && n.frame) : undefined
  if (!frame) return
  const { nodes: on, notes } = onFrame(project.page, frame.id)
  const known = new Set(moving.map(n => n.id))
  carried = {
    from: frame.at,
    with: new Map(
      [...on, ...notes.map(noteId)]
        .filter(id => !known.has(id))
        .map(id => [id, Object.values(flow.findNode(id)!.position) as [number, number]]),
    ),
  }
})
/** The wire that a dragged node would be put into: a node without wires of its own, held over one that it fits. */
const over = shallowRef<Wire | null>(null)
function wireAt(x: number, y: number): Wire | undefined {
  const ids = document.elementsFromPoint(x, y).flatMap(e => e.closest('.vue-flow__edge')?.getAttribute('data-id') ?? [])
  return wires.value.find(w => ids.includes(wireId(w)))
}
flow.onNodeDrag(({ node, event, nodes: moving }) => {
  const loose =
    moving.length === 1 && !isNote(node.id) && !wires.value.some(w => w.from.node === node.id || w.to.node === node.id)
  const found = loose && 'clientX' in event ? wireAt(event.clientX, event.clientY) : undefined
  over.value = found && putInto(project.page, node.id, found) !== project.page ? found : null
  for (const [id, at] of carried?.with ?? [])
    flow.updateNode(id, {
      position: { x: at[0] + node.position.x - carried!.from[0], y: at[1] + node.position.y - carried!.from[1] },
    })
})
flow.onNodeDragStop(({ nodes: dragged }) => {
  const moved = [...dragged, ...[...(carried?.with.keys() ?? [])].map(id => flow.findNode(id)!)]
  carried = undefined
  if (over.value && dragged.length === 1) {
    const wire = over.value
    const { id, position } = dragged[0]!
    over.value = null
    project.editPage('Put into a wire', look =>
      putInto(moveNodes(look, new Map([[id, [Math.round(position.x), Math.round(position.y)]]])), id, wire),
    )
    return
  }
  place(
    moved.length > 1 ? 'Move nodes' : 'Move node',
    moved.map(n => [n.id, n.position]),
  )
})
/** Writes where cards and notes are now. */
function place(label: string, moved: [string, { x: number; y: number }][], merge?: string): void {
  const at = new Map(moved.map(([id, p]) => [id, [Math.round(p.x), Math.round(p.y)] as [number, number]]))
  project.editPage(
    label,
    look =>
      [...at]
        .filter(([id]) => isNote(id))
        .reduce((l, [id, p]) => changeNote(l, noteOf(id), { at: p }), moveNodes(look, at)),
    merge,
  )
}
// The arrow keys move selected cards, too; steps in a row are one move to undo.
flow.onNodesChange(changes => {
  const ids = changes.flatMap(c => (c.type === 'position' && !c.dragging && c.position ? [c.id] : []))
  if (!ids.length) return
  nextTick(() => {
    place(
      'Move by keys',
      ids.flatMap(id => {
        const at = flow.findNode(id)?.position
        return at ? [[id, at] as [string, { x: number; y: number }]] : []
      }),
      'move by keys',
    )
  })
})

// These hold plain objects that end up in the look, so they must not turn into proxies: shallow refs.
// Connecting: the reason for a refusal shows beside the pointer while the wire is drawn.
const drawing = shallowRef<{ node: string; port: string; source: boolean } | null>(null)
const refused = shallowRef<(Refusal & { from: Port; to: Port }) | null>(null)
const offer = shallowRef<(Refusal & { from: Port; to: Port; x: number; y: number }) | null>(null)
const pointer = ref({ x: 0, y: 0 })
const ends = (c: Connection): [Port, Port] => [
  { node: c.source, port: c.sourceHandle! },
  { node: c.target, port: c.targetHandle! },
]
function valid(c: Connection): boolean {
  // Wires of the look are asked for, too; what is wrong with one of them the checks say.
  if (!drawing.value) return true
  const [from, to] = ends(c)
  const why = refusal(project.page, from, to)
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
flow.onConnect(c => {
  made = true
  project.editPage('Connect', look => connect(look, ...ends(c)))
})
flow.onConnectEnd(event => {
  const start = drawing.value
  drawing.value = null
  const target = event && 'clientX' in event ? document.elementFromPoint(event.clientX, event.clientY) : null
  if (!made && refused.value?.bridge && target?.closest('.vue-flow__handle'))
    offer.value = { ...refused.value, ...pointer.value }
  else if (!made && start && event && target?.classList.contains('vue-flow__pane'))
    openMenu(event as MouseEvent, { from: start })
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

// Adding, putting into a wire, and making nodes another kind.
interface MenuFor {
  from?: { node: string; port: string; source: boolean }
  into?: Wire
  swap?: readonly string[]
}
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
function fittingPort(kind: NodeKind, from: { node: string; port: string; source: boolean }): string | undefined {
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
function doubleClick(e: MouseEvent): void {
  const target = e.target as Element
  const wire = target.closest('.vue-flow__edge') ? wireAt(e.clientX, e.clientY) : undefined
  if (wire) openMenu(e, { into: wire })
  else if (target.classList.contains('vue-flow__pane')) openMenu(e)
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

// Cutting: a line drawn with Alt held takes away every wire that it crosses.
const cut = shallowRef<{ from: [number, number]; to: [number, number]; wires: Wire[] } | null>(null)
function startCut(e: PointerEvent): void {
  if (!e.altKey || e.button !== 0 || !(e.target as Element).closest('.vue-flow__pane, .vue-flow__edge')) return
  e.stopPropagation()
  e.preventDefault()
  ;(e.currentTarget as HTMLElement).setPointerCapture(e.pointerId)
  follow(e)
  cut.value = { from: [pointer.value.x, pointer.value.y], to: [pointer.value.x, pointer.value.y], wires: [] }
}
function moveCut(e: PointerEvent): void {
  const c = cut.value
  if (!c) return
  const box = holder.value!.getBoundingClientRect()
  const to: [number, number] = [e.clientX - box.left, e.clientY - box.top]
  const found = new Set(c.wires)
  const steps = Math.ceil(Math.hypot(to[0] - c.to[0], to[1] - c.to[1]) / 4)
  for (let i = 1; i <= steps; i++) {
    const wire = wireAt(
      box.left + c.to[0] + ((to[0] - c.to[0]) * i) / steps,
      box.top + c.to[1] + ((to[1] - c.to[1]) * i) / steps,
    )
    if (wire) found.add(wire)
  }
  cut.value = { ...c, to, wires: [...found] }
}
function endCut(): void {
  const gone = cut.value?.wires ?? []
  cut.value = null
  if (gone.length) project.editPage(gone.length === 1 ? 'Remove wire' : 'Remove wires', look => disconnect(look, gone))
}

function removeSelected(): void {
  const gone = flow.getSelectedEdges.value.map(e => e.id)
  const ids = [...project.selected]
  const wires = project.page.wires.filter(w => gone.includes(wireId(w)))
  project.editPage(ids.length || selectedNotes.value.length ? 'Remove' : 'Remove wire', look =>
    removeNotes(removeNodes(disconnect(look, wires), ids), selectedNotes.value),
  )
}

// The clipboard, as text: also to other looks and projects.
const clip = (): string => JSON.stringify(clipOf(project.page, project.selected, selectedNotes.value))
const copyable = computed(
  () => project.selected.some(id => nodeOf(project.page, id)?.kind !== 'result') || selectedNotes.value.length > 0,
)
/** Adds nodes from text. Answers with a sentence where there are none. */
function paste(text: string): string | null {
  try {
    const clip = parseClip(text)
    let ids: string[] = []
    project.editPage('Paste', look => {
      const done = pasteClip(look, clip, middle())
      ids = done.ids
      return project.scope.length ? { ...done.look, notes: look.notes } : done.look
    })
    if (ids.length)
      nextTick(() => {
        project.selected = ids
      })
    return null
  } catch (error) {
    return (error as Error).message
  }
}

// Arranging.
const sizes = (id: string) => ({
  width: flow.findNode(id)?.dimensions.width || CARD_WIDTH,
  height: flow.findNode(id)?.dimensions.height || CARD_HEIGHT,
})
const chosen = computed(() => project.page.nodes.filter(n => project.selected.includes(n.id)))
/** Lays the selected nodes out, or all of them. */
function tidy(): void {
  const ids = chosen.value.length > 1 ? project.selected : project.page.nodes.map(n => n.id)
  project.editPage('Tidy', look => moveNodes(look, tidied(look, ids, sizes)))
  if (chosen.value.length < 2) nextTick(() => setTimeout(fit, 60))
}
const align = (side: Side): void =>
  project.editPage('Line up', look => moveNodes(look, aligned(chosen.value, side, sizes)))
const distribute = (axis: 0 | 1): void =>
  project.editPage('Spread evenly', look => moveNodes(look, distributed(chosen.value, axis, sizes)))
const selectAll = (): void => {
  project.selected = project.page.nodes.map(n => n.id)
}
const fitSelection = (): void =>
  void (project.selected.length
    ? flow.fitView({ nodes: project.selected, padding: 0.3, duration: 0, maxZoom: 1.3 })
    : fit())
function toggle(): void {
  const off = chosen.value.some(n => !n.off && n.kind !== 'result')
  project.editPage(off ? 'Switch off' : 'Switch on', look => switchNodes(look, project.selected, off))
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
const minimap = ref(false)

// Order: recipes, echoes, notes, frames.
const selectedRecipes = computed(() => project.selected.filter(id => nodeOf(project.page, id)?.recipe))
const foldable = computed(() =>
  project.selected.some(id => nodeOf(project.page, id) && nodeOf(project.page, id)!.kind !== 'result'),
)
function fold(): void {
  let id: string | undefined
  project.editPage('Fold into a recipe', look => {
    const folded = foldNodes(look, project.selected, 'Recipe')
    id = folded.id
    return folded.look
  })
  if (id)
    nextTick(() => {
      project.selected = [id!]
    })
}
function unfold(): void {
  const ids: string[] = []
  project.editPage('Unfold', look =>
    selectedRecipes.value.reduce((l, id) => {
      const open = unfoldNode(l, id)
      ids.push(...open.ids)
      return open.look
    }, look),
  )
  if (ids.length)
    nextTick(() => {
      project.selected = ids
    })
}
/** Names of the pages from the look to the one that is open. */
const path = computed(() => [
  project.look.name || 'Look',
  ...project.scope.map((_, i) => pageOf(project.look, project.scope.slice(0, i + 1)).name),
])
const crumbs = computed(() => path.value.map(label => ({ label })))
function open(): void {
  if (selectedRecipes.value.length !== 1) return
  project.enter([...project.scope, selectedRecipes.value[0]!])
  nextTick(() => setTimeout(fit, 60))
}
function close(): void {
  const last = project.scope.at(-1)
  project.enter(project.scope.slice(0, -1))
  if (last)
    nextTick(() => {
      project.selected = [last]
    })
  nextTick(() => setTimeout(fit, 60))
}
function echo(): void {
  const chosen = flow.getSelectedEdges.value.map(e => e.id)
  project.editPage('Echo', look => look.wires.filter(w => chosen.includes(wireId(w))).reduce(echoWire, look))
}
const middle = (): [number, number] => {
  const box = holder.value!.getBoundingClientRect()
  const at = flow.screenToFlowCoordinate({ x: box.left + box.width / 3, y: box.top + box.height / 3 })
  return [Math.round(at.x), Math.round(at.y)]
}
const write = (): void =>
  project.scope.length ? undefined : project.editPage('Add a note', look => addNote(look, middle()).look)
const frame = (): void =>
  project.scope.length
    ? undefined
    : project.editPage(
        'Add a frame',
        look =>
          frameNodes(look, project.selected, middle(), id => flow.findNode(id)?.dimensions.height ?? CARD_HEIGHT).look,
      )
const someWires = computed(() => flow.getSelectedEdges.value.length > 0)
function duplicate(): void {
  let copies: string[] = []
  project.editPage('Duplicate', look => {
    const done = duplicateNodes(look, project.selected)
    copies = done.ids
    return done.look
  })
  if (copies.length)
    nextTick(() => {
      project.selected = copies
    })
}
function fit(): void {
  // Cards that have no size yet are left out: all is brought into view once they have.
  toFit ||= !flow.areNodesInitialized.value
  void flow.fitView({ padding: AROUND, duration: 0, maxZoom: 1.1 })
}

/**
 * A whole graph comes into view when it is opened, and again while the screen around it still arranges itself; not any
 * more once hands are on it.
 */
let toFit = true
function fitOpened(): void {
  if (toFit && project.meta) fit()
}
useResizeObserver(holder, fitOpened)
watch(
  () => project.lookId,
  () => {
    toFit = true
    void nextTick(() => setTimeout(fitOpened, 60))
  },
)
flow.onNodesInitialized(fitOpened)
/** After it has become another graph: it comes into view as when it is opened. */
function fitAnew(): void {
  toFit = true
  setTimeout(fitOpened, 60)
}
useEventListener(
  window,
  ['pointerdown', 'keydown', 'wheel'],
  () => {
    toFit = false
  },
  { capture: true, passive: true },
)
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
  const wire = wireAt(pointed.clientX, pointed.clientY)
  if (wire) openMenu(pointed, { into: wire })
}

defineExpose({
  openInWire,
  openMenu,
  removeSelected,
  duplicate,
  fit,
  fitAnew,
  fold,
  unfold,
  open,
  close,
  echo,
  write,
  frame,
  clip,
  copyable,
  paste,
  tidy,
  align,
  distribute,
  selectAll,
  fitSelection,
  toggle,
  exchange,
  probe,
  minimap,
  chosen,
  foldable,
  selectedRecipes,
  someWires,
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
      id="graph"
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
