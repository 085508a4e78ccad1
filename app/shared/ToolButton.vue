<script setup lang="ts">
/** A picture to press. Under the pointer it says what it does, and by which key. */
const props = defineProps<{
  icon: string
  label: string
  /** What it says beyond its name, such as what exactly would be undone. */
  says?: string
  /** As commands write it: `Ctrl+D`. */
  keys?: string
  disabled?: boolean
  pressed?: boolean
}>()
const emit = defineEmits<{ press: [] }>()
const kbds = computed(() => props.keys?.split('+'))
</script>

<template>
  <UTooltip :text="says ?? label" :kbds="kbds">
    <UButton
      variant="bare"
      :icon="icon"
      :aria-label="label"
      :aria-pressed="pressed"
      :aria-keyshortcuts="keys?.replace('Ctrl', 'Control')"
      :disabled="disabled"
      class="w-[30px] self-stretch text-(--ub-quiet) aria-pressed:text-(--ub-accent) disabled:opacity-40"
      :ui="{ leadingIcon: 'size-4 align-middle' }"
      @click="emit('press')"
    />
  </UTooltip>
</template>
