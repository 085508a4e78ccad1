<script setup lang="ts">
import { count } from '../shared/units'

/** Which part of this mesh each part of the dense mesh is detail of, to be looked at and set right by hand. */
const mesh = useMesh()
const project = useProject()
const dense = useDense()
const { settings } = dense

const MOST_LISTED = 10
/** What a part that was found by itself has in the list of choices. */
const BY_ITSELF = '-'
const words = ref('')
const parts = computed(() => project.opened?.parts.parts ?? [])
const rows = computed(() => {
  const { partOf, keys, names } = dense.partners ?? {}
  if (!partOf || !keys || !names) return []
  const asked = words.value.trim().toLowerCase()
  const order = (row: { by: string | undefined; part: number }): number => {
    if (row.by !== undefined) return 0
    return row.part < 0 ? 1 : 2
  }
  return keys
    .map((key, i) => ({ key, name: names[i]!, part: partOf[i]!, by: settings.given[key] }))
    .filter(row => row.name.toLowerCase().includes(asked))
    .sort((a, b) => order(a) - order(b))
})
const lost = computed(() => dense.partners?.partOf.filter(p => p < 0).length ?? 0)
const alone = computed(() => dense.partners?.alone ?? [])
const choices = computed(() => [
  { value: BY_ITSELF, title: 'By itself' },
  ...parts.value.map(p => ({ value: p.key, title: p.name })),
])
const titleOf = (row: (typeof rows.value)[number]): string => {
  if (row.part < 0) return 'belongs to nobody'
  return `belongs to ${parts.value[row.part]?.name ?? ''}`
}

function give(key: string, to: string): void {
  const { [key]: _, ...others } = settings.given
  settings.given = to === BY_ITSELF ? others : { ...others, [key]: to }
}
function show(): void {
  const found = Uint8Array.from(parts.value, () => 0)
  for (const i of alone.value) found[i] = 1
  mesh.shown = { kind: 'partners', alone: found }
}
</script>

<template>
  <section v-if="dense.partners && settings.match !== 'near'" aria-label="Partners">
    <h3 class="ub-h">Partners</h3>
    <p>
      {{ count(dense.partners.partOf.length - lost, 'part') }} of the dense mesh
      {{ dense.partners.partOf.length - lost === 1 ? 'belongs' : 'belong' }} to a part here{{
        lost ? `, ${lost} to none` : ''
      }}.
      <template v-if="alone.length">{{ count(alone.length, 'part') }} here found nothing.</template>
      <UButton variant="link" @click="show">Show on the stage</UButton>
      <UButton v-if="alone.length" variant="link" @click="mesh.select(alone)">Select what found nothing</UButton>
    </p>
    <UInput v-model="words" class="search" placeholder="A part of the dense mesh" aria-label="Find a dense part" />
    <ul class="partners">
      <li v-for="row in rows.slice(0, MOST_LISTED)" :key="row.key">
        <span class="name">{{ row.name }}</span>
        <span class="ub-quiet">{{ titleOf(row) }}</span>
        <ChoiceField
          :value="row.by ?? BY_ITSELF"
          :label="`Whom ${row.name} belongs to`"
          :choices="choices"
          none="To nobody"
          gone="A part that is gone"
          @change="give(row.key, $event)"
        />
      </li>
    </ul>
    <p v-if="rows.length > MOST_LISTED" class="ub-quiet">And {{ count(rows.length - MOST_LISTED, 'more part') }}.</p>
  </section>
</template>

<style scoped>
.search {
  width: 260px;
}
.partners {
  max-width: 720px;
}
.partners li {
  display: grid;
  grid-template-columns: minmax(120px, 1fr) minmax(140px, 1fr) 220px;
  gap: 14px;
  align-items: center;
  min-height: 26px;
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
