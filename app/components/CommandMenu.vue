<script setup lang="ts">
import { findCommands, type Command } from '../keys'

const props = withDefaults(
  defineProps<{ commands: readonly Command[]; title?: string; ask?: string; none?: string }>(),
  { title: 'Find an action', ask: 'What do you want to do?', none: 'Nothing is called that. Try another word.' },
)
const open = defineModel<boolean>('open', { required: true })
const text = ref('')
const at = ref(0)
const list = useTemplateRef('list')
const found = computed(() =>
  !open.value
    ? []
    : findCommands(
        props.commands.filter(c => !c.can || c.can()),
        text.value,
      ).slice(0, 60),
)
watch(open, () => {
  text.value = ''
  at.value = 0
})
watch(found, () => {
  at.value = 0
})
watch(at, () => list.value?.children[at.value]?.scrollIntoView({ block: 'nearest' }), { flush: 'post' })
function take(command: Command | undefined): void {
  if (!command) return
  open.value = false
  // After the menu has given the focus back.
  setTimeout(() => command.run(), 60)
}
function key(e: KeyboardEvent): void {
  const n = found.value.length
  if (e.key === 'Enter') take(found.value[at.value])
  else if (e.key === 'ArrowDown' || e.key === 'ArrowUp')
    at.value = n ? (at.value + (e.key === 'ArrowDown' ? 1 : n - 1)) % n : 0
  else return
  e.preventDefault()
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
      <input
        v-model="text"
        class="ask"
        :placeholder="ask"
        :aria-label="title"
        role="combobox"
        aria-expanded="true"
        aria-controls="command-list"
        spellcheck="false"
        :aria-activedescendant="found[at] ? `command-${at}` : undefined"
        autofocus
        @keydown="key"
      />
      <ul id="command-list" ref="list" role="listbox" aria-label="Actions">
        <li
          v-for="(c, i) in found"
          :id="`command-${i}`"
          :key="c.group + c.title"
          role="option"
          :aria-selected="i === at"
          :class="{ on: i === at }"
          @click="take(c)"
          @pointermove="at = i"
        >
          <span
            >{{ c.title }} <small>{{ c.group }}</small></span
          ><kbd v-if="c.keys" class="num">{{ c.keys.join(', ').replaceAll('+', ' ') }}</kbd>
        </li>
        <li v-if="!found.length" role="option" aria-disabled="true" aria-selected="false">{{ none }}</li>
      </ul>
    </template>
  </UModal>
</template>

<style scoped>
.ask {
  width: 100%;
  height: 42px;
  padding: 0 16px;
  background: none;
  border: 0;
  border-bottom: 1px solid var(--ub-line);
  font-size: 15px;
}
.ask:focus {
  outline: none;
  border-bottom-color: var(--ub-accent);
}
ul {
  max-height: 380px;
  overflow-y: auto;
  scrollbar-width: thin;
  padding: 4px 0;
}
li {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  padding: 4px 16px;
  cursor: pointer;
  border-left: 3px solid transparent;
}
li.on {
  background: var(--ub-accent-soft);
  border-left-color: var(--ub-accent);
}
small {
  color: var(--ub-quiet);
  margin-left: 8px;
  font-size: 11px;
}
kbd {
  font-size: 11px;
  color: var(--ub-quiet);
}
</style>
