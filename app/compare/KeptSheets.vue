<script setup lang="ts">
import { until } from '@vueuse/core'
import type { KeptSheet } from '#core/compare/keptSheet'
import { request } from '../shared/request'
import { useLooks } from '../project/useLooks'
import { useSheet } from './useSheet'

/** Sheets that are kept in the project by name: keeping this one, opening another. */
const props = defineProps<{
  /** From where, and in which light, the sheet is seen. */
  seen: () => KeptSheet['seen']
}>()
const emit = defineEmits<{ see: [seen: NonNullable<KeptSheet['seen']>] }>()
const project = useProject()
const sheet = useSheet()
const { show } = useLooks()
interface Kept {
  name: string
  saved: number
  sheet: KeptSheet
}
const list = shallowRef<Kept[]>([])
const name = ref('')
const problem = ref('')
const open = ref(false)
const under = (): string => `/api/projects/${project.meta?.id}/sheets`

/** Does something that may fail with a sentence, and lists what there is then. */
async function act(work?: () => Promise<unknown>): Promise<void> {
  problem.value = ''
  try {
    await work?.()
    list.value = await request<Kept[]>(under())
  } catch (error) {
    problem.value = (error as Error).message
  }
}
watch(open, now => {
  if (now) void act()
})
const keep = (): Promise<void> =>
  act(async () => {
    const text = name.value.trim()
    if (!text) return
    const json = { name: text, sheet: { ...sheet.toKeep(), seen: props.seen() } }
    await request(under(), { method: 'PUT', json })
    name.value = ''
  })
const forget = (kept: Kept): Promise<void> =>
  act(() => request(`${under()}?name=${encodeURIComponent(kept.name)}`, { method: 'DELETE' }))
const opens = (kept: Kept): Promise<void> =>
  act(async () => {
    const there = project.looks.some(l => l.id === kept.sheet.look && l.removed === null)
    if (!there) throw new Error('The look that this sheet is of is not in the project any more.')
    if (kept.sheet.look !== project.lookId) await show(kept.sheet.look)
    await until(() => project.lookId).toBe(kept.sheet.look, { timeout: LOOK_COMES })
    await nextTick()
    sheet.reopen(kept.sheet)
    if (kept.sheet.seen) emit('see', kept.sheet.seen)
    open.value = false
  })
/** How long another look may take to be shown, in milliseconds. */
const LOOK_COMES = 20_000
</script>

<template>
  <UPopover v-model:open="open" :content="{ side: 'bottom', align: 'end' }">
    <UButton variant="link">Sheets</UButton>
    <template #content>
      <section class="kept" aria-label="Sheets that are kept">
        <p v-if="problem" class="ub-warn" role="alert">{{ problem }}</p>
        <p v-if="!list.length" class="ub-quiet">None is kept yet. A sheet is kept with its stars and its view.</p>
        <ul v-else aria-label="Sheets">
          <li v-for="k in list" :key="k.name">
            <UButton variant="link" class="name" @click="opens(k)">{{ k.name }}</UButton>
            <UButton v-if="!project.readOnly" variant="link" :aria-label="`Forget ${k.name}`" @click="forget(k)">
              Forget
            </UButton>
          </li>
        </ul>
        <form v-if="!project.readOnly" @submit.prevent="keep">
          <UInput v-model="name" placeholder="Name of this sheet" aria-label="Name of this sheet" maxlength="120" />
          <UButton variant="link" type="submit" :disabled="!name.trim()">Keep the sheet</UButton>
        </form>
      </section>
    </template>
  </UPopover>
</template>

<style scoped>
.kept {
  display: grid;
  gap: 8px;
  width: 290px;
  padding: 10px 14px;
  font-size: 13px;
}
ul {
  max-height: 300px;
  overflow-y: auto;
}
li,
form {
  display: flex;
  gap: 10px;
  padding: 2px 0;
}
.name {
  flex: 1;
  text-align: left;
}
</style>
