<script setup lang="ts">
/** Lets files be chosen, from whatever button opens it; it is never seen. Files that are dropped the page takes. */
defineProps<{ accept: string; label: string; multiple?: boolean }>()
const emit = defineEmits<{ choose: [files: File[]] }>()
const field = useTemplateRef<{ inputRef?: HTMLInputElement }>('field')
const chosen = ref<File[] | File | null>(null)

watch(chosen, now => {
  if (!now) return
  // The same file can be chosen again.
  chosen.value = null
  emit('choose', [now].flat())
})
defineExpose({ open: () => field.value?.inputRef?.click() })
</script>

<template>
  <UFileUpload
    ref="field"
    v-model="chosen"
    class="chooser"
    :accept="accept"
    :multiple="multiple"
    :dropzone="false"
    :aria-label="label"
    @cancel.stop
  >
    <span />
  </UFileUpload>
</template>

<style scoped>
.chooser {
  position: absolute;
}
</style>
