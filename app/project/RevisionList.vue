<script setup lang="ts">
import { when } from '../shared/when'
import { useIntervalFn } from '@vueuse/core'
import { differencesOf, type Difference } from '#core/graph/differences'
import { parseLook, type Look } from '#core/graph/look'
import { parsePreparation } from '#core/mesh/preparation'
import { preparationDifferences } from '#core/mesh/preparationDifferences'
import { addressOf, request } from '../shared/request'
import DifferenceDialog from './DifferenceDialog.vue'

interface Revision {
  number: number
  saved: number
  name: string | null
  author: string | null
  mesh: string | null
  meshName: string | null
  thumbnail: string | null
}

const project = useProject()
const list = shallowRef<Revision[]>()
const problem = ref('')
const naming = ref(0)
const name = ref('')
/** The revision that the state here is compared with: its look, and what else differs. */
const compared = shallowRef<{ number: number; then: Look; others: string[] }>()
const lines = computed((): Difference[] => {
  if (!compared.value) return []
  const { then, others } = compared.value
  return [...differencesOf(then, project.look), ...others.map(words => ({ words }))]
})
const under = computed(() => `/api/projects/${project.meta?.id}`)

async function load(): Promise<void> {
  try {
    list.value = await request<Revision[]>(`${under.value}/revisions?look=${project.lookId}`)
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  }
}
onMounted(load)
// Pictures come some time after their revisions.
useIntervalFn(() => void load(), 5000)
watch([() => project.newest, () => project.lookId], load)

/** Does something that may fail with a sentence. */
async function act(work: () => Promise<unknown>): Promise<void> {
  problem.value = ''
  await work().catch((error: Error) => {
    problem.value = error.message
  })
}

const look = (r: Revision) =>
  navigateTo({
    path: `/project/${project.meta!.id}`,
    query: r.number === list.value?.[0]?.number ? { look: project.lookId } : { revision: r.number },
  })

/** What happened from a revision to the state that is open here, in words. */
const compare = (r: Revision) =>
  act(async () => {
    const then = await request<{ look: unknown; preparation: unknown; mesh: { hash: string } | null }>(
      `${under.value}?revision=${r.number}`,
    )
    const others = [
      ...preparationDifferences(parsePreparation(then.preparation), project.preparation),
      ...(then.mesh?.hash === project.meta?.mesh?.hash ? [] : ['The mesh was replaced.']),
    ]
    compared.value = { number: r.number, then: parseLook(then.look), others }
  })

/** Takes one thing over from the revision, as one step back. */
function takeBack({ words, back }: Difference): void {
  if (back) project.edit(`As in revision ${compared.value?.number}: ${words}`, back)
}

function beginNaming(r: Revision): void {
  naming.value = r.number
  name.value = r.name ?? ''
}
const giveName = (r: Revision) =>
  act(async () => {
    naming.value = 0
    await request(`${under.value}/revisions/${r.number}`, {
      method: 'PATCH',
      json: { name: name.value.trim() || null },
    })
    await load()
  })

const focus = (at: unknown): void => (at as { inputRef?: HTMLInputElement } | null)?.inputRef?.focus()
const shown = (r: Revision): boolean => r.number === (project.viewed?.number ?? list.value?.[0]?.number)
</script>

<template>
  <div class="revisions">
    <p v-if="problem" class="ub-warn" role="alert">{{ problem }}</p>
    <p v-if="!list && !problem" class="ub-quiet">Loading …</p>
    <p v-if="list" class="ub-quiet hint">
      Every save is one. After a day one an hour stays, after a week one a day; those with a name stay for good.
    </p>
    <ol v-if="list" aria-label="Saved revisions">
      <li v-for="r in list" :key="r.number" :class="{ on: shown(r) }" :aria-current="shown(r) ? 'true' : undefined">
        <img
          v-if="r.thumbnail"
          :src="addressOf(`${under}/thumbnail?revision=${r.number}&v=${r.thumbnail.slice(0, 8)}`)"
          alt=""
          width="80"
          height="50"
          loading="lazy"
        />
        <span v-else class="blank" aria-hidden="true" />
        <div class="about">
          <form v-if="naming === r.number" @submit.prevent="giveName(r)">
            <UInput
              :ref="focus"
              v-model="name"
              size="xs"
              maxlength="120"
              :aria-label="`Name of revision ${r.number}`"
              @keydown.escape.stop="naming = 0"
              @keydown.stop
            />
          </form>
          <p v-else>
            <b>{{ r.name ?? `Revision ${r.number}` }}</b><span v-if="r.name" class="ub-quiet"> · {{ r.number }}</span>
          </p>
          <p class="ub-quiet">
            <span class="num">{{ when(r.saved) }}</span><template v-if="r.author"> · {{ r.author }}</template>
          </p>
          <p class="acts">
            <UButton size="xs" color="neutral" variant="link" @click="look(r)">Look at it</UButton>
            <UButton size="xs" color="neutral" variant="link" @click="compare(r)">Compare</UButton>
            <UButton
              v-if="!shown(r) || project.viewed"
              size="xs"
              color="neutral"
              variant="link"
              :disabled="Boolean(project.meta?.locked)"
              @click="act(() => project.restore(r.number))"
              >Restore</UButton
            >
            <UButton
              size="xs"
              color="neutral"
              variant="link"
              :disabled="Boolean(project.meta?.locked)"
              @click="beginNaming(r)"
              >{{ r.name ? 'Rename' : 'Name' }}</UButton
            >
          </p>
        </div>
      </li>
    </ol>
    <DifferenceDialog
      :open="compared !== undefined"
      :title="`From revision ${compared?.number} to what is shown`"
      :lines="lines"
      take="As it was"
      @take="takeBack"
      @update:open="compared = undefined"
    />
  </div>
</template>

<style scoped>
.revisions {
  display: grid;
  gap: 6px;
  font-size: 13px;
}
.hint {
  font-size: 12px;
  padding: 0 14px;
}
[role='alert'] {
  padding: 0 14px;
}
ol {
  max-height: 420px;
  overflow-y: auto;
  scrollbar-width: thin;
}
li {
  display: flex;
  gap: 10px;
  padding: 6px 14px;
  border-left: 3px solid transparent;
}
li.on {
  border-left-color: var(--ub-accent);
}
img,
.blank {
  width: 80px;
  height: 50px;
  object-fit: cover;
  background: var(--ub-canvas);
  flex: none;
}
.about {
  min-width: 0;
  font-size: 12px;
}
b {
  font-weight: 500;
  font-size: 13px;
}
.acts {
  display: flex;
  gap: 8px;
  margin-left: -8px;
  white-space: nowrap;
}
</style>
