<script setup lang="ts">
import { titleOf } from '#core/graph/check'
import { kindFor } from '#core/graph/kinds'
import { outputType } from '#core/graph/ports'
import { PORT_LETTERS } from '#core/graph/types'

defineProps<{ label: string, value: string, node: string, help?: string }>()
const emit = defineEmits<{ change: [value: string] }>()
const project = useProject()
const ports = computed(() => project.page.nodes.filter(n => n.kind !== 'echo').flatMap(n => Object.entries(kindFor(n)?.outputs ?? {}).map(([port, d]) => (
  { value: `${n.id}/${port}`, title: `${titleOf(n)}: ${d.title} (${PORT_LETTERS[outputType(n, d)]})` }))).sort((a, b) => a.title.localeCompare(b.title)))
</script>

<template>
  <label class="row">
    <span :title="help">{{ label }}</span>
    <select :value="value" @change="emit('change', ($event.target as HTMLSelectElement).value)" @keydown.stop>
      <option value="">Choose an output</option>
      <option v-if="value && !ports.some(p => p.value === value)" :value="value">{{ value }} (gone)</option>
      <option v-for="p in ports" :key="p.value" :value="p.value">{{ p.title }}</option>
    </select>
  </label>
</template>

<style scoped>
.row { display: grid; grid-template-columns: 112px 1fr 20px; gap: 6px; align-items: center; min-height: 26px; }
.row > span:first-child { color: var(--ub-quiet); }
select { height: 22px; padding: 0 6px; background: var(--ub-canvas); border: 0; width: 100%; }
</style>
