<script setup lang="ts">
import { titleOf } from '#core/graph/check'
import { ECHO } from '#core/graph/echo'
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
    <ChoiceField
      :value="value"
      :label="label"
      :choices="ports"
      none="Choose an output"
      :gone="`${value} (gone)`"
      @change="emit('change', $event)"
    />
  </label>
</template>
