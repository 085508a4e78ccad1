<script setup lang="ts">
import { addressOf, request } from '../shared/request'
import { when } from '../shared/when'

interface Entry {
  id: number
  at: number
  who: string | null
  token: string | null
  did: string
  detail: string | null
  projectName: string | null
}
/** The trail of one project, or of the whole server where none is named. */
const { project } = defineProps<{ project?: string | undefined }>()
const under = computed(() => (project ? `/api/projects/${project}/trail` : '/api/trail'))
const list = shallowRef<Entry[]>([])
const problem = ref('')
const hasMore = ref(false)
/** As many as one answer has. */
const PAGE = 100

async function load(before?: number): Promise<void> {
  try {
    const page = await request<Entry[]>(before ? `${under.value}?before=${before}` : under.value)
    list.value = before ? [...list.value, ...page] : page
    hasMore.value = page.length === PAGE
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  }
}
watch(under, () => load(), { immediate: true })
</script>

<template>
  <div class="trail">
    <p v-if="problem" class="ub-warn" role="alert">{{ problem }}</p>
    <p v-else-if="!list.length" class="ub-quiet">Nothing was done yet.</p>
    <ol v-if="list.length" aria-label="Who did what" tabindex="0">
      <li v-for="e in list" :key="e.id">
        <span class="num ub-quiet">{{ when(e.at) }}</span>
        <span>
          <b>{{ e.who ?? 'Somebody at this machine' }}</b> {{ e.did
          }}<template v-if="e.detail">: {{ e.detail }}</template>
          <span v-if="!project && e.projectName" class="ub-quiet"> · {{ e.projectName }}</span>
          <span v-if="e.token" class="ub-quiet"> · by a token</span>
        </span>
      </li>
    </ol>
    <p v-if="list.length" class="acts">
      <UButton v-if="hasMore" size="xs" color="neutral" variant="outline" @click="load(list.at(-1)?.id)">Older</UButton>
      <UButton
        size="xs"
        color="neutral"
        variant="outline"
        icon="i-lucide-download"
        :to="addressOf(`${under}?lines`)"
        external
        download
        >As lines of JSON</UButton
      >
    </p>
  </div>
</template>

<style scoped>
.trail {
  display: grid;
  gap: 8px;
  font-size: 13px;
}
ol {
  max-height: 380px;
  overflow-y: auto;
  scrollbar-width: thin;
}
li {
  display: grid;
  grid-template-columns: 120px 1fr;
  gap: 10px;
  padding: 4px 0;
}
b {
  font-weight: 500;
}
.acts {
  display: flex;
  gap: 8px;
}
</style>
