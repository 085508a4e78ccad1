<script setup lang="ts">
/**
 * Lets files be chosen, from whatever button opens it. The browser's own field is the only way to its dialog; it is
 * never seen.
 */
defineProps<{ accept: string; label: string; multiple?: boolean }>()
const emit = defineEmits<{ choose: [files: File[]] }>()
const field = useTemplateRef('field')

function chosen(e: Event): void {
  const input = e.target as HTMLInputElement
  const files = [...(input.files ?? [])]
  // The same file can be chosen again.
  input.value = ''
  if (files.length) emit('choose', files)
}
defineExpose({ open: () => field.value?.click() })
</script>

<template>
  <input
    ref="field"
    type="file"
    :accept="accept"
    :multiple="multiple"
    hidden
    :aria-label="label"
    @change="chosen"
    @cancel.stop
  />
</template>
