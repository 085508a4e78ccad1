<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { decodeSrgb, fromHex, fromLch, toHex, toLch, type Triple } from '#core/color/convert'

const props = defineProps<{ label: string; value: Triple; help?: string }>()
const emit = defineEmits<{ change: [value: Triple]; settle: [] }>()

const looking = useLooking()
const hex = computed(() => toHex(props.value))
/** Hue and chroma are kept while a color passes through gray or black, where they cannot be read back. */
const kept = ref<Triple>(toLch(props.value))
watch(
  () => props.value,
  value => {
    if (toHex(fromLch(kept.value)) !== toHex(value)) kept.value = toLch(value)
  },
)
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
/** In which numbers colors are set; the same for all fields. */
const space = useLocalStorage<'oklch' | 'srgb'>('ubblet color numbers', 'oklch')
const bytes = computed(() => [1, 3, 5].map(k => parseInt(hex.value.slice(k, k + 2), 16)))
function setByte(k: number, x: number): void {
  emit('change', props.value.map((v, i) => (i === k ? decodeSrgb(x / 255) : v)) as Triple)
}
function pick(): void {
  looking.dropper =
    looking.dropper?.label === props.label
      ? null
      : {
          label: props.label,
          take: color => {
            emit('change', color)
            emit('settle')
          },
        }
}
const FIELDS = [
  { k: 0, title: 'Lightness', min: 0, max: 1, step: 0.01 },
  { k: 1, title: 'Chroma', min: 0, max: 0.37, step: 0.005 },
  { k: 2, title: 'Hue', min: 0, max: 360, step: 1, unit: '°' },
] as const
</script>

<template>
  <fieldset>
    <div class="head">
      <legend :title="help">{{ label }}</legend>
      <span class="chip" :style="{ background: hex }" aria-hidden="true" />
      <TextField class="num" :value="hex" :label="`${label}, hex code`" :limit="7" @change="setHex" />
      <UButton
        variant="bare"
        class="pick"
        :aria-label="`Pick ${label.toLowerCase()} from the stage or a picture`"
        title="Pick it from the stage or a picture"
        :aria-pressed="looking.dropper?.label === label"
        @click="pick"
      >
        <UIcon name="i-lucide-pipette" />
      </UButton>
    </div>
    <template v-if="space === 'srgb'">
      <NumberField
        v-for="(n, k) in ['Red', 'Green', 'Blue']"
        :key="n"
        :label="n"
        :context="label"
        :value="bytes[k]!"
        :shape="{ min: 0, max: 255, step: 1 }"
        whole
        @change="setByte(k, $event)"
        @settle="emit('settle')"
      />
    </template>
    <NumberField
      v-for="f in space === 'oklch' ? FIELDS : []"
      :key="f.k"
      :label="f.title"
      :context="label"
      :value="kept[f.k]"
      :shape="f"
      @change="setLch(f.k, $event)"
      @settle="emit('settle')"
    />
    <UButton variant="link" class="space" @click="space = space === 'oklch' ? 'srgb' : 'oklch'">
      {{ space === 'oklch' ? 'In sRGB' : 'In OKLCH' }}
    </UButton>
  </fieldset>
</template>

<style scoped>
.head {
  display: grid;
  grid-template-columns: 112px 1fr 88px 20px;
  align-items: center;
  gap: 6px;
  min-height: 28px;
}
legend {
  color: var(--ub-quiet);
  float: left;
}
.chip {
  height: 22px;
  border: 1px solid var(--ub-line);
}
.pick {
  width: 20px;
  height: 20px;
  display: grid;
  place-items: center;
  color: var(--ub-quiet);
}
.pick:hover,
.pick[aria-pressed='true'] {
  color: var(--ub-accent);
}
.space {
  font-size: 11px;
  margin-left: 118px;
}
</style>
