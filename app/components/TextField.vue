<script setup lang="ts">
/** Text that is taken when the field is left or Enter is pressed. What is being typed stays, whatever happens around it. */
const props = defineProps<{ value: string; label: string; placeholder?: string; limit: number; long?: boolean }>()
const emit = defineEmits<{ change: [text: string] }>()
const draft = ref<string | null>(null)
function take(): void {
  const text = draft.value
  draft.value = null
  if (text !== null && text !== props.value) emit('change', text)
}
function key(e: KeyboardEvent): void {
  e.stopPropagation()
  if (e.key === 'Escape') draft.value = null
  else if (e.key === 'Enter' && !props.long) take()
}
const type = (e: Event): void => {
  draft.value = (e.target as HTMLInputElement).value
}
// What the field belongs to may go away while it is typed in.
onBeforeUnmount(take)
</script>

<template>
  <component
    :is="long ? 'textarea' : 'input'"
    :value="draft ?? value"
    :placeholder="placeholder"
    :aria-label="label"
    :maxlength="limit"
    spellcheck="false"
    @input="type"
    @blur="take"
    @change="take"
    @keydown="key"
  />
</template>
