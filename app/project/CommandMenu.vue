<script setup lang="ts">
import { findCommands, type Command } from './keys'

const props = withDefaults(
  defineProps<{ commands: readonly Command[]; title?: string; ask?: string; none?: string }>(),
  { title: 'Find an action', ask: 'What do you want to do?', none: 'Nothing is called that. Try another word.' },
)
const open = defineModel<boolean>('open', { required: true })
const text = ref('')
watch(open, () => {
  text.value = ''
})
const MOST = 60
const groups = computed(() => {
  const can = open.value ? props.commands.filter(c => !c.can || c.can()) : []
  const items = findCommands(can, text.value)
    .slice(0, MOST)
    .map(c => ({
      label: c.title,
      suffix: c.group,
      kbds: c.keys?.map(k => k.replaceAll('+', ' ')),
      onSelect: () => take(c),
    }))
  return [{ id: 'actions', ignoreFilter: true, items }]
})
function take(command: Command): void {
  open.value = false
  // After the menu has given the focus back.
  setTimeout(() => command.run(), 60)
}
</script>

<template>
  <UModal
    v-model:open="open"
    :title="title"
    description="Type, choose with the arrow keys, and press Enter."
    :ui="{ header: 'sr-only', body: 'p-0 sm:p-0' }"
    :close="false"
  >
    <template #body>
      <SearchList v-model:text="text" :groups="groups" :label="title" list="Actions" :placeholder="ask" :height="380">
        <template #empty>{{ none }}</template>
      </SearchList>
    </template>
  </UModal>
</template>
