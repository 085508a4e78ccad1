<script setup lang="ts">
import { Handle, Position } from '@vue-flow/core'
import { titleOf } from '#core/graph/check'
import type { LookNode } from '#core/graph/look'
import { inputType, outputType } from '#core/graph/ports'
import { PORT_LETTERS } from '#core/graph/types'
import { kindOf } from '#core/nodes'
import { SWATCH_HEIGHT, SWATCH_WIDTH } from '#core/evaluate/analysis'

const props = defineProps<{ id: string, data: LookNode, selected: boolean }>()
const { analysis } = useAnalysis()
const project = useProject()
const kind = computed(() => kindOf(props.data.kind))
const inputs = computed(() => Object.entries(kind.value?.inputs ?? {}).map(([name, d]) => ({ name, title: d.title, letter: PORT_LETTERS[inputType(props.data, d)] })))
const outputs = computed(() => Object.entries(kind.value?.outputs ?? {}).map(([name, d]) => ({ name, title: d.title, letter: PORT_LETTERS[outputType(props.data, d)] })))
const findings = computed(() => project.findings.filter(f => f.node === props.id))
const wired = computed(() => new Set(project.look.wires.filter(w => w.to.node === props.id).map(w => w.to.port)))

const canvas = useTemplateRef('canvas')
watch([canvas, () => analysis.value?.swatches[props.id]], ([target, pixels]) => {
  const context = target?.getContext('2d')
  if (!context) return
  if (pixels) context.putImageData(new ImageData(new Uint8ClampedArray(pixels), SWATCH_WIDTH, SWATCH_HEIGHT), 0, 0)
  else context.clearRect(0, 0, SWATCH_WIDTH, SWATCH_HEIGHT)
}, { flush: 'post' })
</script>

<template>
  <div class="card" :class="{ selected, unknown: !kind }" :data-node="id">
    <p class="name">
      <span>{{ titleOf(data) }}</span>
      <UIcon v-if="findings.length" name="i-lucide-triangle-alert" class="warn" :title="findings.map(f => f.message).join('\n')" :aria-label="findings.map(f => f.message).join(' ')" role="img" />
    </p>
    <canvas ref="canvas" :width="SWATCH_WIDTH" :height="SWATCH_HEIGHT" aria-hidden="true" />
    <div class="ports">
      <ul>
        <li v-for="p in inputs" :key="p.name" :class="{ wired: wired.has(p.name) }">
          <Handle :id="p.name" type="target" :position="Position.Left" :data-port="`${id}/in/${p.name}`" :aria-label="`Input ${p.title}`">{{ p.letter }}</Handle>
          <span>{{ p.title }}</span>
        </li>
      </ul>
      <ul class="out">
        <li v-for="p in outputs" :key="p.name">
          <span>{{ p.title }}</span>
          <Handle :id="p.name" type="source" :position="Position.Right" :data-port="`${id}/out/${p.name}`" :aria-label="`Output ${p.title}`">{{ p.letter }}</Handle>
        </li>
      </ul>
    </div>
  </div>
</template>

<style scoped>
.card { width: 162px; background: var(--ub-card); border: 1px solid var(--ub-line); font-size: 12.5px; }
.card.selected { border-color: var(--ub-accent); box-shadow: 0 0 0 1px var(--ub-accent); }
.card.unknown { border-style: dashed; }
.name { display: flex; justify-content: space-between; align-items: center; gap: 6px; padding: 4px 8px 3px; font-weight: 500; }
.name span:first-child { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.warn { color: var(--ub-warn); flex: none; }
canvas { display: block; width: 160px; height: 90px; background: var(--ub-canvas); }
.ports { display: flex; justify-content: space-between; padding: 4px 0 6px; gap: 4px; }
ul { min-width: 0; }
li { position: relative; display: flex; align-items: center; gap: 5px; height: 20px; color: var(--ub-quiet); }
li span { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
li.wired { color: var(--ub-text); }
.out li { justify-content: flex-end; }
.card :deep(.vue-flow__handle) {
  position: static; transform: none; width: 22px; height: 16px; min-width: 0; border: 1px solid var(--ub-line-strong); border-radius: 0; background: var(--ub-panel);
  color: var(--ub-text); font: 500 10px/14px var(--font-mono); text-align: center; flex: none; pointer-events: all; cursor: crosshair;
}
.card :deep(.vue-flow__handle-left) { margin-left: -1px; border-left-width: 3px; border-radius: 0 8px 8px 0; }
.card :deep(.vue-flow__handle-right) { margin-right: -1px; border-right-width: 3px; border-radius: 8px 0 0 8px; }
.card :deep(.vue-flow__handle:hover), .card :deep(.vue-flow__handle.connecting) { border-color: var(--ub-accent); background: var(--ub-accent-soft); }
</style>
