<script setup lang="ts">
import { useMe } from '../people/useMe'
import { request } from '../shared/request'

interface Holding {
  kind: string
  title: string
  count: number
  bytes: number
  frees: number
}
interface Freed {
  projects: number
  revisions: number
  maps: number
  files: number
  bytes: number
  deliveries: number
  shrunk: boolean
}

const { mayManage } = useMe()
const list = shallowRef<Holding[]>()
const problem = ref('')
const busy = ref(false)
const done = ref('')
const removed = ref(false)
const cache = ref(false)

async function load(): Promise<void> {
  try {
    list.value = await request<Holding[]>('/api/store')
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  }
}
onMounted(load)

async function tidy(): Promise<void> {
  busy.value = true
  done.value = ''
  try {
    const freed = await request<Freed>('/api/store/tidy', {
      method: 'POST',
      json: { removed: removed.value, cache: cache.value },
    })
    done.value = `${freed.projects} projects, ${freed.revisions} revisions, ${freed.files} files and ${freed.deliveries} folders of deliveries went: ${size(freed.bytes)} of files.`
    await load()
  } catch (error) {
    problem.value = (error as Error).message
  } finally {
    busy.value = false
  }
}

function size(bytes: number): string {
  const units: [number, string][] = [
    [2 ** 30, 'GB'],
    [2 ** 20, 'MB'],
    [2 ** 10, 'KB'],
  ]
  const [unit, word] = units.find(([u]) => bytes >= u) ?? [1, 'B']
  return `${(bytes / unit).toFixed(unit > 1 ? 1 : 0)} ${word}`
}
const total = computed(() => (list.value ?? []).reduce((sum, h) => sum + h.bytes, 0))
const frees = computed(() => (list.value ?? []).reduce((sum, h) => sum + h.frees, 0))
const rows = computed(() =>
  (list.value ?? []).map(h => ({
    what: h.title,
    count: h.count.toLocaleString('en-US'),
    holds: size(h.bytes),
    frees: h.frees ? size(h.frees) : '',
  })),
)
const right = { class: { td: 'text-right font-mono tabular-nums', th: 'text-right' } }
const COLUMNS = [
  { accessorKey: 'what', header: 'What' },
  { accessorKey: 'count', header: 'Number', meta: right },
  { accessorKey: 'holds', header: 'Takes', meta: right },
  { accessorKey: 'frees', header: 'Tidying frees', meta: right },
]
</script>

<template>
  <section aria-labelledby="store-title">
    <h2 id="store-title">Room</h2>
    <p class="ub-quiet">
      The server tidies by itself every six hours: projects removed 30 days ago, revisions thinned to one an hour and
      one a day, and files that nothing names any more.
    </p>
    <UAlert
      v-if="problem"
      color="neutral"
      variant="outline"
      icon="i-lucide-triangle-alert"
      :title="problem"
      role="alert"
    />
    <UTable
      :data="rows"
      :columns="COLUMNS"
      :loading="!list && !problem"
      :ui="{ td: 'py-1.5 text-[13px]', th: 'py-1.5 text-[13px]' }"
    />
    <p v-if="list">
      In all <b class="num">{{ size(total) }}</b>; tidying now would free <b class="num">{{ size(frees) }}</b>.
    </p>
    <div v-if="mayManage" class="acts">
      <UCheckbox v-model="removed" label="Removed projects, too: they cannot be brought back then" />
      <UCheckbox v-model="cache" label="Baked pictures, too: the next delivery bakes them again" />
      <UButton color="neutral" variant="outline" :loading="busy" @click="tidy">Tidy now</UButton>
    </div>
    <p v-if="done" role="status">{{ done }}</p>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 10px;
}
h2 {
  font-size: 17px;
  font-weight: 600;
}
.acts {
  display: grid;
  gap: 8px;
  justify-items: start;
}
</style>
