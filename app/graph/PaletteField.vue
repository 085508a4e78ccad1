<script setup lang="ts">
import { toHex, type Triple } from '#core/color/convert'
import type { Stop } from '#core/graph/types'
import PasteColors from './PasteColors.vue'

/** Colors with weights: a stop's `at` is its weight, from 0 to 1. */
const props = defineProps<{ label: string; value: readonly Stop[]; help?: string }>()
const emit = defineEmits<{ change: [value: Stop[]]; settle: [] }>()

const MOST = 24
const {
  chosen,
  entry,
  replace,
  add: append,
  remove,
} = useEntries<Stop>(
  () => props.value,
  { least: 1, most: MOST },
  { change: v => emit('change', v), settle: () => emit('settle') },
)
const total = computed(() => props.value.reduce((s, e) => s + e.at, 0) || 1)
const share = (e: Stop): string => `${((e.at / total.value) * 100).toFixed(e.at / total.value < 0.1 ? 1 : 0)} %`
function paste(colors: Triple[]): void {
  emit(
    'change',
    colors.slice(0, MOST).map(color => ({ at: 1, color })),
  )
  emit('settle')
}
const add = (): void => append({ ...entry.value })
</script>

<template>
  <div class="palette" role="group" :aria-label="label">
    <div class="head">
      <span :title="help">{{ label }}</span>
      <span class="tools">
        <UButton variant="link" :disabled="value.length >= MOST" @click="add">Add color</UButton>
        <UButton variant="link" :disabled="value.length < 2" @click="remove">Remove color</UButton>
      </span>
    </div>
    <div class="bar">
      <UButton
        variant="bare"
        v-for="(e, i) in value"
        :key="i"
        :style="{ flexGrow: Math.max(0.02, e.at / total), background: toHex(e.color) }"
        :class="{ on: i === chosen }"
        :aria-pressed="i === chosen"
        :aria-label="`Color ${i + 1}, ${share(e)}`"
        @click="chosen = i"
      />
    </div>
    <div class="shares num">
      <span v-for="(e, i) in value" :key="i" :style="{ flexGrow: Math.max(0.02, e.at / total) }">{{ share(e) }}</span>
    </div>
    <PasteColors @colors="paste" />
    <NumberField
      label="Weight"
      context="Color"
      :value="entry.at"
      :shape="{ min: 0, max: 1, step: 0.01 }"
      @change="replace({ at: $event })"
      @settle="emit('settle')"
    />
    <ColorField
      label="Its color"
      :value="entry.color as Triple"
      @change="replace({ color: $event })"
      @settle="emit('settle')"
    />
  </div>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  padding-right: 26px;
  min-height: 24px;
  align-items: center;
  color: var(--ub-quiet);
}
.tools {
  display: flex;
  gap: 12px;
}
.bar {
  display: flex;
  height: 30px;
  margin-right: 26px;
  gap: 2px;
}
.bar button {
  flex-basis: 0;
  min-width: 8px;
  border: 0;
}
.bar button.on {
  outline: 2px solid var(--ub-accent);
  outline-offset: 1px;
  z-index: 1;
}
.shares {
  display: flex;
  gap: 2px;
  margin-right: 26px;
  font-size: 10px;
  color: var(--ub-quiet);
  padding: 2px 0 4px;
}
.shares span {
  flex-basis: 0;
  min-width: 8px;
  overflow: hidden;
  text-align: center;
  white-space: nowrap;
}
</style>
