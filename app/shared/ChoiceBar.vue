<script setup lang="ts" generic="T extends string">
/** One of a few values, all of them seen as words in a row; the chosen one is underlined. */
interface Choice {
  value: string
  title: string
  disabled?: boolean
}
defineProps<{
  value: T | undefined
  choices: readonly { value: T; title: string; disabled?: boolean }[]
  label: string
}>()
const emit = defineEmits<{ change: [value: T] }>()
const UI = {
  fieldset: 'flex-row flex-nowrap gap-x-[14px] h-full',
  item: 'group/choice items-stretch has-focus-visible:outline-2 has-focus-visible:outline-(--ub-accent)',
  wrapper: 'ms-0 flex-row items-stretch',
  label: [
    'flex items-center whitespace-nowrap cursor-pointer border-b-2 border-transparent',
    'text-(--ub-quiet) hover:text-(--ub-text) group-has-data-[state=checked]/choice:text-(--ub-text)',
    'group-has-data-[state=checked]/choice:font-medium group-has-data-[state=checked]/choice:border-(--ub-accent)',
    'group-has-disabled/choice:opacity-50 group-has-disabled/choice:cursor-default',
  ].join(' '),
}
</script>

<template>
  <URadioGroup
    :model-value="value as string"
    :items="choices as readonly Choice[] as Choice[]"
    label-key="title"
    orientation="horizontal"
    indicator="hidden"
    :aria-label="label"
    :ui="UI"
    @update:model-value="emit('change', $event as T)"
  />
</template>
