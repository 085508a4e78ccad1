<script setup lang="ts">
import { CHANNEL_NAMES, CHANNELS, type Channel } from '#core/graph/types'

const props = defineProps<{ label: string; value: readonly Channel[]; help?: string }>()
const emit = defineEmits<{ change: [value: Channel[]] }>()
const toggle = (c: Channel): void =>
  emit(
    'change',
    CHANNEL_NAMES.filter(name => props.value.includes(name) !== (name === c)),
  )
</script>

<template>
  <div class="row" role="group" :aria-label="label">
    <span :title="help">{{ label }}</span>
    <span class="channels">
      <UCheckbox
        v-for="c in CHANNEL_NAMES"
        :key="c"
        :label="CHANNELS[c].title"
        :model-value="value.includes(c)"
        @update:model-value="toggle(c)"
        @keydown.stop
      />
    </span>
  </div>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: 112px 1fr 20px;
  gap: 6px;
  padding: 3px 0;
}
.row > span:first-child {
  color: var(--ub-quiet);
}
.channels {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
}
</style>
