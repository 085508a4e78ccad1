<script setup lang="ts">
import { titleOf } from '#core/graph/check'
import { ECHO } from '#core/graph/flatten'
import { kindFor, outputType } from '#core/graph/kinds'
import { PORT_LETTERS } from '#core/graph/types'

defineProps<{ label: string; value: string; help?: string }>()
const emit = defineEmits<{ change: [value: string] }>()
const project = useProject()
const ports = computed(() =>
  project.page.nodes
    .filter(n => n.kind !== ECHO)
    .flatMap(n =>
      Object.entries(kindFor(n)?.outputs ?? {}).map(([port, d]) => ({
        value: `${n.id}/${port}`,
        title: `${titleOf(n)}: ${d.title} (${PORT_LETTERS[outputType(n, d)]})`,
      })),
    )
    .sort((a, b) => a.title.localeCompare(b.title)),
)
</script>

<template>
  <label class="ub-row">
    <span :title="help">{{ label }}</span>
    <select :value="value" @change="emit('change', ($event.target as HTMLSelectElement).value)" @keydown.stop>
      <option value="">Choose an output</option>
      <option v-if="value && !ports.some(p => p.value === value)" :value="value">{{ value }} (gone)</option>
      <option v-for="p in ports" :key="p.value" :value="p.value">{{ p.title }}</option>
    </select>
  </label>
</template>
