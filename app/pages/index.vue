<script setup lang="ts">
import { UNNAMED } from '#core/exchange/names'
import AccessDialog from '../people/AccessDialog.vue'
import { useMe } from '../people/useMe'
import { addressOf, request } from '../shared/request'
import { when } from '../shared/when'
import type { ProjectMeta } from '../project/entries'

useHead({ title: 'Projects · Ubblet' })
/** A project, with how many looks it has. */
type Listed = ProjectMeta & { looks: number }
const opening = shallowRef<Listed>()
const projects = ref<Listed[] | null>(null)
const problem = ref('')
const busy = ref('')
const colorMode = useColorMode()
const renaming = ref<string | null>(null)
const shown = computed(() => projects.value?.filter(p => !p.removed) ?? [])
const removed = computed(() => projects.value?.filter(p => p.removed) ?? [])

async function load(): Promise<void> {
  try {
    projects.value = await request<Listed[]>('/api/projects')
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  }
}
onMounted(load)

/** Does something on the server and shows the projects as they are then. */
async function act(what: string, call: () => Promise<unknown>): Promise<void> {
  busy.value = what
  try {
    await call()
    await load()
  } catch (error) {
    problem.value = (error as Error).message
  } finally {
    busy.value = ''
  }
}
const create = (url: string, json?: unknown) =>
  act('Making the project', async () => {
    const made = await request<ProjectMeta>(url, { method: 'POST', json: json ?? {} })
    await navigateTo(`/project/${made.id}`)
  })
function rename(p: ProjectMeta, text: string): void {
  const name = text.trim()
  renaming.value = null
  if (name && name !== p.name)
    void act('Renaming', () => request(`/api/projects/${p.id}`, { method: 'PATCH', json: { name } }))
}
const toast = useToast()
async function remove(p: ProjectMeta): Promise<void> {
  await act('Removing', () => request(`/api/projects/${p.id}`, { method: 'DELETE' }))
  if (problem.value) return
  toast.add({
    title: `${p.name} is removed`,
    description: 'It is kept for 30 days.',
    actions: [{ label: 'Bring it back', variant: 'outline', color: 'neutral', onClick: () => void restore(p) }],
  })
}
const restore = (p: ProjectMeta) =>
  act('Bringing it back', () => request(`/api/projects/${p.id}`, { method: 'PATCH', json: { removed: false } }))
const duplicate = (p: ProjectMeta) =>
  act('Duplicating', () => request(`/api/projects/${p.id}/duplicate`, { method: 'POST', json: {} }))
/** What may be done with a project by those who may change it, and by those who may look at it. */
const actions = (p: Listed) => {
  const open = { label: 'Open', to: `/project/${p.id}` }
  const file = { label: 'Download as one file', onSelect: () => download(p) }
  const access = {
    label: 'Whom it is open to',
    onSelect: () => {
      opening.value = p
    },
  }
  const named = me.value?.signIn ? [access] : []
  if (!mayChange(p)) return [[open, file, ...named]]
  return [
    [
      {
        label: 'Rename',
        onSelect: () => {
          renaming.value = p.id
        },
      },
      open,
      ...(mayWork.value ? [{ label: 'Duplicate', onSelect: () => duplicate(p) }] : []),
      file,
      ...named,
      { label: 'Remove', onSelect: () => remove(p) },
    ],
  ]
}
/** What is to be seen of a project at a glance, each with its words. */
const marksOf = (p: Listed): { icon: string; words: string }[] => [
  ...(p.locked
    ? [{ icon: 'i-lucide-lock', words: p.lockedBy ? `Locked by ${p.lockedBy}` : 'Locked against changes' }]
    : []),
  ...(p.access === 'named' ? [{ icon: 'i-lucide-users', words: 'Open to those who are named' }] : []),
]
const mayChange = (p: Listed): boolean => p.role !== 'look'
/** A project file from here or from another server. */
const fileChooser = useTemplateRef('fileChooser')
const bring = (file: File): Promise<void> =>
  act(`Bringing in ${file.name}`, () => request('/api/projects/file', { method: 'POST', bytes: file }))
const download = (p: ProjectMeta): void => {
  window.location.assign(addressOf(`/api/projects/${p.id}/file`))
}
const forgetting = ref<string | null>(null)
const forget = (p: ProjectMeta) =>
  act('Removing for good', () => request(`/api/projects/${p.id}?forever`, { method: 'DELETE' }))
const { me, mayWork, mayManage, signOut } = useMe()
</script>

<template>
  <div class="home">
    <header>
      <img :src="addressOf('/mark.svg')" alt="" width="30" height="30" />
      <h1>Ubblet</h1>
      <p>Natural color variation for meshes made of many parts.</p>
      <span class="grow" />
      <UButton
        v-if="mayWork"
        variant="solid"
        color="primary"
        icon="i-lucide-plus"
        @click="create('/api/projects', { name: UNNAMED })"
        >New project</UButton
      >
      <UButton v-if="mayWork" color="neutral" variant="outline" @click="create('/api/demo')">Add the demo</UButton>
      <UButton v-if="mayWork" color="neutral" variant="outline" @click="fileChooser?.open()"
        >Bring in a project</UButton
      >
      <UButton
        color="neutral"
        variant="ghost"
        icon="i-lucide-settings"
        to="/settings"
        aria-label="Settings of this server"
      />
      <UDropdownMenu
        v-if="me?.name"
        :items="[
          [{ label: `${me.name} (${me.role})`, type: 'label' }],
          [{ label: 'Sign out', onSelect: () => signOut() }],
        ]"
        ><UButton color="neutral" variant="ghost" icon="i-lucide-user" :aria-label="`Signed in as ${me.name}`"
      /></UDropdownMenu>
      <FileChooser ref="fileChooser" accept=".zip" label="Project file" @choose="bring($event[0]!)" />
      <UButton
        variant="bare"
        class="theme"
        :aria-label="colorMode.value === 'dark' ? 'Light theme' : 'Dark theme'"
        @click="colorMode.preference = colorMode.value === 'dark' ? 'light' : 'dark'"
      >
        <UIcon :name="colorMode.value === 'dark' ? 'i-lucide-sun' : 'i-lucide-moon'" />
      </UButton>
    </header>
    <p v-if="problem" class="problem" role="alert">
      {{ problem }} <UButton variant="bare" @click="load">Try again</UButton>
    </p>
    <p v-if="busy" role="status" class="quiet">{{ busy }} …</p>
    <main>
      <p v-if="projects === null && !problem" class="quiet">Loading the projects …</p>
      <UEmpty v-else-if="projects && !shown.length" class="empty" title="Nothing here yet">
        <template #description>
          Start with a mesh of your own, or add the demo: three projects of a ferry pier, each with a prepared mesh and
          a finished look to take apart.
        </template>
      </UEmpty>
      <ul class="cards">
        <UContextMenu v-for="p in shown" :key="p.id" :items="actions(p)">
          <li>
            <NuxtLink :to="`/project/${p.id}`" class="picture" tabindex="-1" aria-hidden="true">
              <img
                v-if="p.thumbnail"
                :src="addressOf(`/api/projects/${p.id}/thumbnail?v=${p.thumbnail.slice(0, 8)}`)"
                alt=""
              />
              <span v-else>{{ p.mesh ? 'No picture yet' : 'No mesh yet' }}</span>
            </NuxtLink>
            <div class="about">
              <TextField
                v-if="renaming === p.id"
                begins
                class="name"
                :value="p.name"
                label="Name of the project"
                :limit="120"
                @change="rename(p, $event)"
                @leave="renaming = null"
              />
              <NuxtLink v-else :to="`/project/${p.id}`" class="name">{{ p.name }}</NuxtLink>
              <span
                v-for="mark in marksOf(p)"
                :key="mark.icon"
                role="img"
                class="mark"
                :aria-label="mark.words"
                :title="mark.words"
                ><UIcon :name="mark.icon"
              /></span>
              <UDropdownMenu
                :items="actions(p)"
                :content="{
                  onCloseAutoFocus: (e: Event) => {
                    if (renaming) e.preventDefault()
                  },
                }"
                ><UButton
                  color="neutral"
                  variant="ghost"
                  size="xs"
                  icon="i-lucide-ellipsis"
                  :aria-label="`More for ${p.name}`"
              /></UDropdownMenu>
            </div>
            <p class="quiet">
              <template v-if="p.parts"
                ><span class="num">{{ p.parts.toLocaleString('en-US') }}</span>
                {{ p.parts === 1 ? 'part' : 'parts' }}, </template
              ><template v-if="p.looks > 1"><span class="num">{{ p.looks }}</span> looks, </template>changed
              {{ when(p.changed) }}<br />made {{ when(p.created) }}
            </p>
          </li>
        </UContextMenu>
      </ul>
      <FoldOut v-if="removed.length" class="gone" :label="`Removed (${removed.length}), kept for 30 days`">
        <ul class="removed">
          <li v-for="p in removed" :key="p.id">
            <span>{{ p.name }}</span>
            <UButton v-if="mayChange(p)" variant="bare" @click="restore(p)">Bring back</UButton>
            <UButton variant="bare" v-if="mayManage && forgetting !== p.id" @click="forgetting = p.id">
              Remove for good
            </UButton>
            <UButton variant="bare" v-else-if="mayManage" class="ub-warn" @click="forget(p)" @blur="forgetting = null">
              Remove it with all revisions and deliveries?
            </UButton>
          </li>
        </ul>
      </FoldOut>
    </main>
    <AccessDialog :project="opening" @changed="load" @close="opening = undefined" />
  </div>
</template>

<style scoped>
.about .mark {
  display: grid;
  place-items: center;
  color: var(--ub-quiet);
}
.home {
  max-width: 1120px;
  margin: 0 auto;
  padding: 26px 28px 60px;
}
header {
  display: flex;
  align-items: center;
  gap: 12px;
  padding-bottom: 18px;
  border-bottom: 1px solid var(--ub-line);
}
h1 {
  font-size: 22px;
  font-weight: 600;
}
h2 {
  font-size: 17px;
  font-weight: 600;
}
header p {
  color: var(--ub-quiet);
  padding-top: 5px;
}
.grow {
  flex: 1;
}
.theme {
  width: 30px;
  height: 30px;
  display: grid;
  place-items: center;
  color: var(--ub-quiet);
}
.quiet {
  color: var(--ub-quiet);
}
.problem {
  color: var(--ub-warn);
  padding: 10px 0;
}
.problem button {
  text-decoration: underline;
  margin-left: 10px;
}
main {
  padding-top: 22px;
}
.empty {
  padding: 8vh 0;
}
.cards {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(250px, 1fr));
  gap: 26px 22px;
}
.picture {
  display: grid;
  place-items: center;
  aspect-ratio: 8 / 5;
  background: var(--ub-canvas);
  color: var(--ub-quiet);
  overflow: hidden;
}
.picture img {
  width: 100%;
  height: 100%;
  object-fit: cover;
}
.about {
  display: flex;
  justify-content: space-between;
  align-items: center;
  padding-top: 6px;
  gap: 8px;
}
.name {
  flex: 1;
  font-weight: 500;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.gone {
  margin-top: 36px;
  color: var(--ub-quiet);
}
.removed li {
  display: flex;
  gap: 18px;
  padding: 5px 0;
}
.removed button {
  text-decoration: underline;
  color: var(--ub-text);
}
</style>
