<script setup lang="ts">
import { UInput, UTextarea } from '#components'

/**
 * Text that is taken when the field is left or Enter is pressed. What is being typed stays, whatever happens around it.
 */
const props = defineProps<{
  value: string
  label: string
  placeholder?: string
  limit: number
  long?: boolean
  /** A text that can be written over, rather than a field. */
  plain?: boolean
  /** Begins at once, with all of it selected. */
  begins?: boolean
}>()
const emit = defineEmits<{ change: [text: string]; leave: [] }>()
const draft = ref<string | null>(null)
function take(): void {
  const text = draft.value
  draft.value = null
  if (text !== null && text !== props.value) emit('change', text)
}
function key(e: KeyboardEvent): void {
  e.stopPropagation()
  if (e.key === 'Escape') {
    draft.value = null
    emit('leave')
  } else if (e.key === 'Enter' && !props.long) leave()
}
function leave(): void {
  take()
  emit('leave')
}
const field = useTemplateRef<{ inputRef?: HTMLInputElement | null }>('field')
onMounted(() => {
  if (!props.begins) return
  field.value?.inputRef?.focus()
  field.value?.inputRef?.select()
})
// What the field belongs to may go away while it is typed in.
onBeforeUnmount(take)
const ui = computed(() => ({
  base: [
    props.plain &&
      'h-auto px-0 text-inherit text-[length:inherit] md:text-[length:inherit] font-[inherit] leading-[inherit]',
    props.long && 'h-full py-0',
  ]
    .filter(Boolean)
    .join(' '),
}))
</script>

<template>
  <component
    :is="long ? UTextarea : UInput"
    ref="field"
    :model-value="draft ?? value"
    :placeholder="placeholder"
    :aria-label="label"
    :maxlength="limit"
    :variant="plain ? 'none' : 'outline'"
    :ui="ui"
    spellcheck="false"
    @update:model-value="draft = String($event)"
    @blur="leave"
    @keydown="key"
  />
</template>
