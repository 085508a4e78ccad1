<script setup lang="ts" generic="T extends string | number">
import { useTemplateRef } from 'vue'

/** Many choices are searched rather than looked through. */
const SEARCHED = 12
/** So many are not all in the page at once. */
const VIRTUAL = 200
/** What stands for the empty text, which the component below does not take for a value. */
const NOTHING = '\u0000'

interface Choice {
  value: T
  title: string
}

/** One of several values; a long list of them can be searched. */
const props = defineProps<{
  value: T
  choices: readonly Choice[]
  label: string
  /** What the empty text means, where it can be chosen. */
  none?: string
  /** What to say of a value that is not among the choices. */
  gone?: string
  disabled?: boolean
}>()
const emit = defineEmits<{ change: [value: T] }>()
defineOptions({ inheritAttrs: false })

const items = computed(() => {
  const list: { label: string; value: string | number }[] = props.choices.map(c => ({
    label: c.title,
    value: c.value === '' ? NOTHING : c.value,
  }))
  if (props.none !== undefined) list.unshift({ label: props.none, value: NOTHING })
  const known = list.some(item => item.value === (props.value === '' ? NOTHING : props.value))
  if (!known) list.push({ label: props.gone ?? String(props.value), value: props.value === '' ? NOTHING : props.value })
  return list
})
const shown = computed((): string | number => (props.value === '' ? NOTHING : props.value))
const take = (value: string | number): void => emit('change', (value === NOTHING ? '' : value) as T)
const searched = computed(() => props.choices.length > SEARCHED)
const field = useTemplateRef<{ triggerRef: HTMLElement | null }>('field')
defineExpose({ focus: () => field.value?.triggerRef?.focus() })
</script>

<template>
  <USelectMenu
    v-if="searched"
    ref="field"
    v-bind="$attrs"
    role="combobox"
    :model-value="shown"
    :items="items"
    value-key="value"
    :virtualize="choices.length > VIRTUAL"
    :search-input="{ placeholder: `Search ${label.toLowerCase()}` }"
    :aria-label="label"
    :disabled="disabled"
    @update:model-value="take($event as string | number)"
    @keydown.stop
  />
  <USelect
    v-else
    ref="field"
    v-bind="$attrs"
    :model-value="shown"
    :items="items"
    :aria-label="label"
    :disabled="disabled"
    @update:model-value="take($event as string | number)"
    @keydown.stop
  />
</template>
