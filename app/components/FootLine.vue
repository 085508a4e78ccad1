<script setup lang="ts">
import { toHex } from '#core/color/convert'
import type { Picked } from '../workers/evaluate.worker'

defineProps<{ picked: Picked | null, job: string }>()
const project = useProject()
const SAVE_WORDS = {
  saved: 'All saved', waiting: 'Not saved yet', saving: 'Saving', offline: 'The server does not answer; trying again. Your work is kept here.',
  stale: 'Saved in another window', refused: 'The server refused to save',
}
const number = (x: number | undefined) => (x ?? 0).toFixed(2)
</script>

<template>
  <footer aria-label="Status">
    <span v-if="picked" class="picked">
      {{ picked.name }}
      <i :style="{ background: toHex(picked.channels.baseColor) }" aria-hidden="true" /><b class="num">{{ toHex(picked.channels.baseColor) }}</b>
      metal <b class="num">{{ number(picked.channels.metalness[0]) }}</b> rough <b class="num">{{ number(picked.channels.roughness[0]) }}</b>
      <template v-if="picked.channels.height[0]">height <b class="num">{{ number(picked.channels.height[0]) }} mm</b></template>
      <template v-if="picked.channels.emission.some(x => x)">glows <b class="num">{{ picked.channels.emission.map(number).join(' ') }}</b></template>
      <template v-if="picked.channels.opacity[0] !== 1">opacity <b class="num">{{ number(picked.channels.opacity[0]) }}</b></template>
      <template v-if="picked.channels.translucency[0]">through <b class="num">{{ number(picked.channels.translucency[0]) }}</b></template>
    </span>
    <span v-else-if="project.tables" class="quiet">{{ project.tables.parts.parts.length }} parts, {{ (project.tables.mesh.indices.length / 3).toLocaleString('en-US') }} triangles</span>
    <span class="grow" />
    <span v-if="job || project.busy" role="status">{{ job || project.busy }} …</span>
    <span :class="{ alarm: ['offline', 'stale', 'refused'].includes(project.saveState) }" role="status" data-test="save-state">{{ SAVE_WORDS[project.saveState] }}</span>
  </footer>
</template>

<style scoped>
footer { display: flex; align-items: center; gap: 20px; height: 26px; padding: 0 14px; border-top: 1px solid var(--ub-line); color: var(--ub-quiet); font-size: 12px; }
.picked { color: var(--ub-text); display: flex; gap: 7px; align-items: center; white-space: nowrap; }
.picked i { width: 14px; height: 14px; border: 1px solid var(--ub-line); }
.picked b { font-weight: 400; margin-right: 4px; }
.grow { flex: 1; }
.alarm { color: var(--ub-warn); font-weight: 500; }
</style>
