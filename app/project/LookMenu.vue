<script setup lang="ts">
import { addressOf } from '../shared/request'
import { useLooks } from './useLooks'
import type { LookEntry } from './entries'

/** The looks of the project: which one is open, and all that can be done with them. */
const project = useProject()
const { shown, removed, problem, show, addEmpty, duplicate, move, remove, bringBack } = useLooks()
const open = ref(false)
const renaming = ref(false)
const current = computed(() => shown.value.find(l => l.id === project.lookId))
const may = computed(() => !project.readOnly)
const picture = (l: LookEntry): string =>
  addressOf(`/api/projects/${project.meta?.id}/thumbnail?look=${l.id}&v=${l.thumbnail?.slice(0, 8)}`)

function rename(name: string): void {
  if (name.trim()) project.edit('Rename the look', look => ({ ...look, name: name.trim() }))
  project.settle()
}
async function choose(look: LookEntry): Promise<void> {
  open.value = false
  await show(look.id)
}
/** The look whose name is to be written over, once its menu has closed and let go of the keys. */
let toRename: LookEntry | undefined
async function afterMenu(e: Event): Promise<void> {
  const look = toRename
  toRename = undefined
  if (!look) return
  e.preventDefault()
  if (look.id !== project.lookId) await show(look.id)
  renaming.value = true
}
const actions = (look: LookEntry, at: number) => [
  [
    {
      label: 'Rename',
      onSelect: () => {
        toRename = look
      },
    },
    { label: 'Duplicate', onSelect: () => void duplicate(look) },
    { label: 'Move up', disabled: at === 0, onSelect: () => void move(look, -1) },
    { label: 'Move down', disabled: at === shown.value.length - 1, onSelect: () => void move(look, 1) },
    { label: 'Remove', disabled: shown.value.length < 2, onSelect: () => void remove(look) },
  ],
]
</script>

<template>
  <UPopover v-model:open="open" :content="{ side: 'bottom', align: 'start' }">
    <UButton
      variant="bare"
      class="current"
      :aria-label="`Looks; open: ${current?.name ?? 'none'}`"
      :title="`${shown.length} ${shown.length === 1 ? 'look' : 'looks'} on this mesh`"
    >
      <span class="name">{{ current?.name }}</span>
      <UIcon name="i-lucide-chevrons-up-down" aria-hidden="true" />
    </UButton>
    <template #content>
      <section class="looks" aria-label="Looks of this project">
        <p v-if="problem" class="ub-warn" role="alert">{{ problem }}</p>
        <ol aria-label="Looks">
          <li v-for="(l, i) in shown" :key="l.id" :class="{ on: l.id === project.lookId }">
            <img v-if="l.thumbnail" :src="picture(l)" alt="" width="64" height="40" loading="lazy" />
            <span v-else class="blank" aria-hidden="true" />
            <TextField
              v-if="renaming && l.id === project.lookId"
              begins
              class="field"
              :value="l.name"
              label="Name of the look"
              :limit="120"
              @change="rename"
              @leave="renaming = false"
            />
            <UButton
              v-else
              variant="bare"
              class="title"
              :aria-current="l.id === project.lookId ? 'true' : undefined"
              @click="choose(l)"
              >{{ l.name }}</UButton
            >
            <UDropdownMenu v-if="may" :items="actions(l, i)" :content="{ onCloseAutoFocus: afterMenu }"
              ><UButton
                color="neutral"
                variant="ghost"
                size="xs"
                icon="i-lucide-ellipsis"
                :aria-label="`More for ${l.name}`"
            /></UDropdownMenu>
          </li>
        </ol>
        <p v-if="may" class="more">
          <UButton variant="link" @click="addEmpty">New look</UButton>
          <UButton v-if="current" variant="link" @click="duplicate(current)">Duplicate this one</UButton>
        </p>
        <FoldOut v-if="may && removed.length" class="gone" :label="`Removed (${removed.length}), kept for 30 days`">
          <ul aria-label="Removed looks">
            <li v-for="l in removed" :key="l.id">
              <span class="title">{{ l.name }}</span>
              <UButton variant="link" :aria-label="`Bring back ${l.name}`" @click="bringBack(l)">Bring back</UButton>
            </li>
          </ul>
        </FoldOut>
      </section>
    </template>
  </UPopover>
</template>

<style scoped>
.current {
  display: flex;
  align-items: center;
  gap: 6px;
  max-width: 190px;
  padding: 0 8px;
  border-left: 1px solid var(--ub-line);
}
.current:hover {
  background: var(--ub-accent-soft);
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.looks {
  width: 330px;
  padding: 6px 0 10px;
  font-size: 13px;
}
[role='alert'] {
  padding: 2px 14px;
}
ol {
  max-height: 420px;
  overflow-y: auto;
  scrollbar-width: thin;
}
li {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 4px 8px 4px 11px;
  border-left: 3px solid transparent;
}
li.on {
  border-left-color: var(--ub-accent);
  font-weight: 500;
}
ol li:hover {
  background: var(--ub-accent-soft);
}
img,
.blank {
  width: 64px;
  height: 40px;
  object-fit: cover;
  background: var(--ub-canvas);
  flex: none;
}
.title,
.field {
  flex: 1;
  min-width: 0;
  text-align: left;
}
.title {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.more {
  display: flex;
  gap: 14px;
  padding: 6px 14px 2px;
}
.gone {
  padding: 4px 14px 0;
}
.gone li {
  padding: 2px 0;
}
</style>
