<script setup lang="ts">
import { addressOf } from '../shared/request'
import LookMenu from './LookMenu.vue'
import { TABS, type Tab } from './commands/bench'

const ITEMS = TABS.map(({ key, title }) => ({ value: key, label: title }))
/** As tall as the line itself, with the mark of the one that is open on its lower edge. */
const LOOK = {
  root: 'h-full',
  list: 'h-full border-0 gap-1',
  indicator: '-bottom-px h-[2px] bg-(--ub-accent)',
  trigger:
    'h-full rounded-none px-3.5 py-0 text-[13px] font-normal text-(--ub-quiet) transition-none data-[state=active]:font-medium data-[state=active]:text-(--ub-text)',
}

/** The line across the top of a project's page. */
defineProps<{
  /** Who else is here, by name. */
  people: readonly string[]
}>()
const emit = defineEmits<{ rename: [name: string]; finding: []; find: []; keys: [] }>()
const tab = defineModel<Tab>('tab', { required: true })
const board = defineModel<boolean>('board', { required: true })
const project = useProject()
const colorMode = useColorMode()
const dark = computed(() => colorMode.value === 'dark')
const findings = computed(() => project.findings.length)
const checks = computed(() => {
  if (!findings.value) return 'Checks are clear'
  return findings.value === 1 ? '1 finding' : `${findings.value} findings`
})
</script>

<template>
  <header class="top">
    <NuxtLink to="/" class="home" aria-label="All projects"
      ><img :src="addressOf('/mark.svg')" alt="" width="20" height="20"
    /></NuxtLink>
    <TextField
      plain
      class="name"
      :value="project.meta?.name ?? ''"
      label="Name of the project"
      :limit="120"
      @change="emit('rename', $event)"
    />
    <LookMenu v-if="project.lookId" />
    <nav aria-label="Work">
      <UTabs v-model="tab" :items="ITEMS" :content="false" variant="link" color="neutral" :ui="LOOK" />
    </nav>
    <span class="grow" />
    <ToolButton
      icon="i-lucide-undo-2"
      label="Undo"
      :says="project.undoLabel ? `Undo: ${project.undoLabel}` : 'Nothing to undo'"
      keys="Ctrl+Z"
      :disabled="!project.undoLabel"
      @press="project.undo()"
    />
    <ToolButton
      icon="i-lucide-redo-2"
      label="Redo"
      :says="project.redoLabel ? `Redo: ${project.redoLabel}` : 'Nothing to redo'"
      keys="Ctrl+Shift+Z"
      :disabled="!project.redoLabel"
      @press="project.redo()"
    />
    <ToolButton
      v-if="tab === 'build'"
      icon="i-lucide-images"
      label="Reference pictures"
      keys="D"
      :pressed="board"
      @press="board = !board"
    />
    <span v-if="people.length" class="people" role="status" :title="`Also here: ${people.join(', ')}`"
      ><UIcon name="i-lucide-users" aria-hidden="true" /> {{ people.join(', ') }}</span
    >
    <HistoryList />
    <UTooltip :text="findings ? 'Go to the next finding' : checks" :kbds="findings ? ['V'] : undefined">
      <UButton variant="bare" class="checks" :class="{ some: findings }" :disabled="!findings" @click="emit('finding')">
        <UIcon :name="findings ? 'i-lucide-triangle-alert' : 'i-lucide-check'" />
        {{ checks }}
      </UButton>
    </UTooltip>
    <ToolButton icon="i-lucide-search" label="Find an action" keys="/" @press="emit('find')" />
    <ToolButton icon="i-lucide-keyboard" label="Keys" keys="?" @press="emit('keys')" />
    <ToolButton
      :icon="dark ? 'i-lucide-sun' : 'i-lucide-moon'"
      :label="dark ? 'Light theme' : 'Dark theme'"
      @press="colorMode.preference = dark ? 'light' : 'dark'"
    />
  </header>
</template>

<style scoped>
.top {
  display: flex;
  align-items: stretch;
  gap: 6px;
  height: 40px;
  padding: 0 12px;
  border-bottom: 1px solid var(--ub-line);
}
.home {
  display: grid;
  place-items: center;
  padding-right: 4px;
}
.name {
  width: 210px;
  background: none;
  border: 0;
  font-weight: 500;
  padding: 0 6px;
  text-overflow: ellipsis;
}
nav {
  display: flex;
  padding-left: 10px;
}
.grow {
  flex: 1;
}
.people {
  display: flex;
  align-items: center;
  gap: 5px;
  max-width: 180px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  color: var(--ub-quiet);
  font-size: 12px;
}
.checks {
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 0 10px;
  color: var(--ub-quiet);
}
.checks.some {
  color: var(--ub-warn);
}
</style>
