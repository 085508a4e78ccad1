<script setup lang="ts">
import type { CommandPaletteGroup } from '@nuxt/ui'

/** A field to type in over a list of what is found, chosen by the arrow keys and Enter or by a click. */
const props = defineProps<{
  groups: CommandPaletteGroup[]
  /** What the field is called. */
  label: string
  /** What the list is called. */
  list: string
  placeholder: string
  /** How tall the list may become, in pixels. */
  height: number
}>()
const text = defineModel<string>('text', { required: true })
const id = useId()
const root = useTemplateRef('root')
const count = computed(() => props.groups.reduce((n, g) => n + (g.items?.length ?? 0), 0))
const field = computed(() => ({
  variant: 'none' as const,
  role: 'combobox',
  'aria-label': props.label,
  'aria-expanded': true,
  'aria-controls': id,
  spellcheck: false,
}))
// The component below gives its list no name, and no way for the field to point to it.
onMounted(() => {
  const found = root.value?.querySelector('[role=listbox]')
  found?.setAttribute('id', id)
  found?.setAttribute('aria-label', props.list)
  // At once: what is typed next must not go astray.
  root.value?.querySelector('input')?.focus()
})

/** Who types fast presses Enter before the list marks its first entry: that one is meant then. */
function enter(e: KeyboardEvent): void {
  if (root.value?.querySelector('[data-highlighted]')) return
  root.value?.querySelector<HTMLElement>('[role=option]')?.click()
  e.stopPropagation()
}
</script>

<template>
  <div ref="root" @keydown.enter.capture="enter">
    <UCommandPalette
      v-model:search-term="text"
      :groups="groups"
      :fuse="{ resultLimit: count }"
      :placeholder="placeholder"
      :input="field"
      :autofocus="false"
      :style="{ '--ub-list': `${height}px` }"
      :ui="{ viewport: 'max-h-(--ub-list)' }"
    >
      <template v-if="$slots.footer" #footer><slot name="footer" /></template>
      <template #empty><slot name="empty" /></template>
    </UCommandPalette>
  </div>
</template>
