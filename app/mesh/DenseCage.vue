<script setup lang="ts">
import { cageSurfaces } from '#core/dense/cage'
import type { Cage } from '#core/dense/transfer'
import { count } from '../shared/units'

/** How far rays look, for the whole mesh and for single parts. */
const project = useProject()
const mesh = useMesh()
const dense = useDense()
const { settings } = dense

const LENGTH = { min: 0.001, max: 1e6, step: 0.5, unit: 'mm' } as const
const MATCH_CHOICES = [
  { value: 'part' as const, title: 'Part by part: a part has detail of its own partners alone' },
  { value: 'object' as const, title: 'By object: detail of all that belongs to the object' },
  { value: 'near' as const, title: 'By nearness: whatever a ray meets first' },
]
const SIZES = [256, 512, 1024, 2048, 4096].map(n => ({ value: n, title: `${n} × ${n}` }))
const ENDS = [
  { key: 'outward', title: 'Outward', help: 'How far outside of the surface rays begin.' },
  { key: 'inward', title: 'Inward', help: 'How far inside of it they end.' },
] as const
const maps = computed(() =>
  (project.tables?.mesh.maps ?? []).filter(m => m.components === 1).map(m => ({ value: m.name, title: m.name })),
)

// Parts with a cage of their own.
const selected = computed(() => [...mesh.selected].flatMap(i => project.opened?.parts.parts[i]?.key ?? []))
const single = computed((): Cage => {
  const { outward, inward } = settings
  return settings.cages[selected.value[0] ?? ''] ?? { outward, inward }
})
function setOwn(end: keyof Cage, value: number): void {
  const { outward, inward } = settings
  const own = selected.value.map(key => [key, { ...(settings.cages[key] ?? { outward, inward }), [end]: value }])
  settings.cages = { ...settings.cages, ...(Object.fromEntries(own) as typeof settings.cages) }
}
const special = computed(() => {
  const { cages } = settings
  return project.opened?.parts.parts.flatMap((p, i) => (cages[p.key] ? [i] : [])) ?? []
})
const isOwn = computed(() => selected.value.some(key => settings.cages[key]))
function letGo(): void {
  settings.cages = Object.fromEntries(Object.entries(settings.cages).filter(([key]) => !selected.value.includes(key)))
}

// The cage on the stage follows the settings.
const shows = ref(false)
const surfaces = computed(() => {
  const { tables } = project
  if (!shows.value || !tables) return undefined
  const { match, outward, inward, cages, cageMap } = settings
  const narrowed = maps.value.some(m => m.value === cageMap)
  return cageSurfaces(tables, { match, outward, inward, cages, ...(narrowed && { cageMap }) })
})
watch(surfaces, cage => {
  mesh.cage = cage
})
onUnmounted(() => {
  mesh.cage = undefined
})
</script>

<template>
  <section aria-label="How it is looked for">
    <h3 class="ub-h">How it is looked for</h3>
    <div class="ub-fields">
      <div class="ub-line">
        <span>Match</span>
        <ChoiceField :value="settings.match" label="Match" :choices="MATCH_CHOICES" @change="settings.match = $event" />
      </div>
      <NumberField
        v-for="end in ENDS"
        :key="end.key"
        :label="end.title"
        :help="end.help"
        :value="settings[end.key] * 1000"
        :shape="LENGTH"
        :default-value="dense.suggested * 1000"
        @change="settings[end.key] = $event / 1000"
        @reset="settings[end.key] = dense.suggested"
      />
      <div v-if="maps.length" class="ub-line">
        <span>Narrowed by</span>
        <ChoiceField
          :value="settings.cageMap"
          label="Vertex map of the cage"
          :choices="maps"
          none="No vertex map"
          @change="settings.cageMap = $event"
        />
      </div>
      <div class="ub-line">
        <span>Texels of a tile</span>
        <ChoiceField
          :value="settings.size"
          label="Texels of a tile"
          :choices="SIZES"
          @change="settings.size = $event"
        />
      </div>
    </div>
    <UCheckbox
      v-model="shows"
      class="shows"
      label="Show the cage on the stage"
      description="Where rays begin; in red where they go so deep that they come out on the other side."
    />
    <template v-if="selected.length">
      <p class="own">
        <b>{{ count(selected.length, 'selected part') }}</b>
        <span class="ub-quiet">{{ isOwn ? 'with a cage of their own' : 'in the cage of the whole mesh' }}</span>
        <UButton v-if="isOwn" variant="link" @click="letGo">Back to that of the whole mesh</UButton>
      </p>
      <div class="ub-fields">
        <NumberField
          v-for="end in ENDS"
          :key="end.key"
          :label="`${end.title}, theirs`"
          :help="end.help"
          :value="single[end.key] * 1000"
          :shape="LENGTH"
          :default-value="settings[end.key] * 1000"
          @change="setOwn(end.key, $event / 1000)"
          @reset="setOwn(end.key, settings[end.key])"
        />
      </div>
    </template>
    <p v-else class="ub-quiet">Select parts on the stage to give them a cage of their own.</p>
    <p v-if="special.length">
      {{ count(special.length, 'part') }} {{ special.length === 1 ? 'has' : 'have' }} a cage of
      {{ special.length === 1 ? 'its' : 'their' }} own.
      <UButton variant="link" @click="mesh.select(special)">Select {{ special.length === 1 ? 'it' : 'them' }}</UButton>
    </p>
  </section>
</template>

<style scoped>
.shows {
  padding: 8px 0 4px;
}
.own {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: baseline;
}
</style>
