<script setup lang="ts">
import { fromHex, fromLch, toHex, toLch, type Triple } from '#core/color/convert'

const props = defineProps<{ label: string, value: Triple, help?: string }>()
const emit = defineEmits<{ change: [value: Triple], settle: [] }>()

const hex = computed(() => toHex(props.value))
/** Hue and chroma are kept while a color passes through gray or black, where they cannot be read back. */
const kept = ref<Triple>(toLch(props.value))
watch(() => props.value, (value) => {
  if (toHex(fromLch(kept.value)) !== toHex(value)) kept.value = toLch(value)
})
function setLch(k: 0 | 1 | 2, x: number): void {
  const next = [...kept.value] as Triple
  next[k] = x
  kept.value = next
  emit('change', fromLch(next))
}
function setHex(text: string): void {
  const color = fromHex(text)
  if (color) {
    emit('change', color)
    emit('settle')
  }
}
const FIELDS = [
  { k: 0, title: 'Lightness', min: 0, max: 1, step: 0.01 }, { k: 1, title: 'Chroma', min: 0, max: 0.37, step: 0.005 },
  { k: 2, title: 'Hue', min: 0, max: 360, step: 1, unit: '°' },
] as const
</script>

<template>
  <fieldset>
    <div class="head">
      <legend :title="help">{{ label }}</legend>
      <span class="chip" :style="{ background: hex }" aria-hidden="true" />
      <input class="num" :value="hex" :aria-label="`${label}, hex code`" maxlength="7" spellcheck="false" @change="setHex(($event.target as HTMLInputElement).value)" @keydown.stop>
    </div>
    <NumberField
      v-for="f in FIELDS" :key="f.k" :label="f.title" :context="label" :value="kept[f.k]" :shape="f"
      @change="setLch(f.k, $event)" @settle="emit('settle')"
    />
  </fieldset>
</template>

<style scoped>
.head { display: grid; grid-template-columns: 112px 1fr 88px 20px; align-items: center; gap: 6px; min-height: 28px; }
legend { color: var(--ub-quiet); float: left; }
.chip { height: 22px; border: 1px solid var(--ub-line); }
input { height: 22px; padding: 0 8px; font-size: 12px; background: var(--ub-canvas); border: 0; width: 100%; }
</style>
