<script setup lang="ts">
import { Handle, Position } from '@vue-flow/core'
import { titleOf } from '#core/graph/check'
import { PORT_LETTERS } from '#core/graph/types'
import { ECHO, splitPort } from '#core/graph/echo'
import { nodeOf } from '#core/graph/find'
import { inputType, kindFor, outputType } from '#core/graph/kinds'
import { SWATCH_HEIGHT, SWATCH_WIDTH } from '#core/evaluate/analysis'
import { useInView } from './inView'
import { paintSwatch } from './swatch'
import { usePageIndex } from './usePageIndex'

const props = defineProps<{ id: string; selected: boolean }>()
const { analysis } = useAnalysis()
const looking = useLooking()
const project = useProject()
// All of these come out as text that stays equal while parameters are dragged, so the card is not drawn again.
const page = usePageIndex()
const node = computed(() => nodeOf(project.page, props.id))
const kind = computed(() => node.value && kindFor(node.value))
/** An echo goes by what it stands for. */
const title = computed(() => {
  const n = node.value
  const source = n?.kind === ECHO && !n.name ? nodeOf(project.page, splitPort(String(n.params.of ?? ''))[0]) : undefined
  if (source) return `↷ ${titleOf(source)}`
  return n ? titleOf(n) : ''
})
const letters = computed(() =>
  !node.value || !kind.value
    ? ''
    : [
        ...Object.values(kind.value.inputs).map(d => PORT_LETTERS[inputType(node.value!, d)]),
        ...Object.values(kind.value.outputs).map(d => PORT_LETTERS[outputType(node.value!, d)]),
      ].join(),
)
const ports = computed(() => {
  const list = letters.value.split(',')
  const inputs = Object.entries(kind.value?.inputs ?? {})
  const outputs = Object.entries(kind.value?.outputs ?? {})
  return {
    inputs: inputs.map(([name, d], i) => ({ name, title: d.title, letter: list[i]! })),
    outputs: outputs.map(([name, d], i) => ({ name, title: d.title, letter: list[inputs.length + i]! })),
  }
})
const findings = computed(() => page.findings.value.get(props.id) ?? '')
const wiredPorts = computed(() => page.wired.value.get(props.id)?.join() ?? '')
const wired = computed(() => new Set(wiredPorts.value.split(',')))

const probed = (port: string): boolean => looking.probe?.node === props.id && looking.probe.port === port

const canvas = useTemplateRef('canvas')
const inView = useInView(canvas)
watch(
  [canvas, inView, () => analysis.value?.swatches[props.id]],
  ([target, seen, pixels]) => {
    const context = seen && target?.getContext('2d')
    if (context) paintSwatch(context, pixels)
  },
  { flush: 'post' },
)
</script>

<template>
  <div class="card" :class="{ selected, unknown: !kind, off: node?.off }" :data-node="id">
    <p class="name">
      <span>{{ title }}</span>
      <small v-if="node?.off">off</small>
      <UIcon
        v-if="findings"
        name="i-lucide-triangle-alert"
        class="warn"
        :title="findings"
        :aria-label="findings"
        role="img"
      />
    </p>
    <canvas ref="canvas" :width="SWATCH_WIDTH" :height="SWATCH_HEIGHT" aria-hidden="true" />
    <div class="ports">
      <ul>
        <li
          v-for="(p, i) in ports.inputs"
          :key="p.name"
          :class="{ wired: wired.has(p.name), wide: i >= ports.outputs.length }"
          :style="{ gridRow: i + 1 }"
        >
          <Handle
            :id="p.name"
            type="target"
            :position="Position.Left"
            :data-port="`${id}/in/${p.name}`"
            :aria-label="`Input ${p.title}`"
            >{{ p.letter }}</Handle
          >
          <span>{{ p.title }}</span>
        </li>
      </ul>
      <ul class="out">
        <li v-for="(p, i) in ports.outputs" :key="p.name" :style="{ gridRow: i + 1 }">
          <!-- Plain: one for each output of each card. 500 of them are there in 0.22 s, as UButton in 0.85 s. -->
          <button
            type="button"
            class="look nodrag"
            :class="{ on: probed(p.name) }"
            :aria-pressed="probed(p.name)"
            :aria-label="`Show ${p.title} on the stage`"
            title="Show it on the stage (P)"
            @click.stop="looking.look(id, p.name)"
          >
            <UIcon name="i-lucide-eye" />
          </button>
          <span>{{ p.title }}</span>
          <Handle
            :id="p.name"
            type="source"
            :position="Position.Right"
            :data-port="`${id}/out/${p.name}`"
            :aria-label="`Output ${p.title}`"
            >{{ p.letter }}</Handle
          >
        </li>
      </ul>
    </div>
  </div>
</template>

<style scoped>
.card {
  position: relative;
  width: 162px;
  background: var(--ub-card);
  border: 1px solid var(--ub-line);
  font-size: 12.5px;
}
.card.selected {
  border-color: var(--ub-accent);
  box-shadow: 0 0 0 1px var(--ub-accent);
}
.card.unknown {
  border-style: dashed;
}
.card.off {
  opacity: 0.72;
}
.card.off canvas {
  opacity: 0.4;
}
.name small {
  color: var(--ub-quiet);
  font-size: 10.5px;
}
.look {
  position: absolute;
  right: 100%;
  width: 18px;
  height: 18px;
  background: var(--ub-card);
  display: grid;
  place-items: center;
  color: var(--ub-quiet);
  opacity: 0;
  font-size: 12px;
  flex: none;
}
.card:hover .look,
.card.selected .look,
.look:focus-visible,
.look.on {
  opacity: 1;
}
.look.on {
  color: var(--ub-accent);
}
.look:hover {
  color: var(--ub-accent);
}
.name {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 6px;
  padding: 4px 8px 3px;
  font-weight: 500;
}
.name span:first-child {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.warn {
  color: var(--ub-warn);
  flex: none;
}
canvas {
  display: block;
  width: 160px;
  height: 90px;
  background: var(--ub-canvas);
}
/* Inputs and outputs side by side; an input beside which there is no output has the whole row. */
.ports {
  display: grid;
  grid-template-columns: minmax(30px, 1fr) minmax(0, auto);
  padding: 4px 0 6px;
  column-gap: 4px;
}
ul {
  display: contents;
}
li {
  grid-column: 1;
  position: relative;
  min-width: 0;
  display: flex;
  align-items: center;
  gap: 5px;
  height: 20px;
  color: var(--ub-quiet);
}
li span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
li.wired {
  color: var(--ub-text);
}
li.wide {
  grid-column: 1 / -1;
}
.out li {
  grid-column: 2;
  justify-self: end;
  max-width: 100%;
}
.card :deep(.vue-flow__handle) {
  position: static;
  transform: none;
  width: 22px;
  height: 16px;
  min-width: 0;
  border: 1px solid var(--ub-line-strong);
  border-radius: 0;
  background: var(--ub-panel);
  color: var(--ub-text);
  font: 500 10px/14px var(--font-mono);
  text-align: center;
  flex: none;
  pointer-events: all;
  cursor: crosshair;
}
.card :deep(.vue-flow__handle-left) {
  margin-left: -1px;
  border-left-width: 3px;
  border-radius: 0 8px 8px 0;
}
.card :deep(.vue-flow__handle-right) {
  margin-right: -1px;
  border-right-width: 3px;
  border-radius: 8px 0 0 8px;
}
.card :deep(.vue-flow__handle:hover),
.card :deep(.vue-flow__handle.connecting) {
  border-color: var(--ub-accent);
  background: var(--ub-accent-soft);
}
/*
 * Seen from afar only the title and the swatch can be read, so they have all the room. The card stays as large as it
 * is, and its ports where they are.
 */
:global(.graph.far .card .name span:first-child) {
  position: absolute;
  left: 0;
  right: 0;
  top: 0;
  z-index: 1;
  padding: 3px 8px 5px;
  font-size: 23px;
  line-height: 1.1;
  white-space: normal;
  background: var(--ub-card);
}
:global(.graph.far .card li > span),
:global(.graph.far .card .look) {
  visibility: hidden;
}
:global(.graph.far .card .name) {
  min-height: 26px;
}
</style>
