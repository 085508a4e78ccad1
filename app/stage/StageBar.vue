<script setup lang="ts">
import { CHANNELS } from '#core/graph/types'
import { LEVELS } from '../mesh/levels'
import { VIEWS, type View } from './lightPass'

/** What the stage shows, and how. `channels` are those that the look can set. */
const props = defineProps<{ mode: 'look' | 'mesh'; channels: ReadonlySet<string> }>()
const emit = defineEmits<{ fit: [] }>()
const project = useProject()
const mesh = useMesh()
const looking = useLooking()
const { view } = storeToRefs(looking)
const views = computed(() =>
  VIEWS.filter((v, i) => i < 4 || props.channels.has(v) || view.value === v).map(value => ({
    value,
    title: titles[value],
  })),
)
const titles: Record<View, string> = {
  finished: 'Finished',
  ...Object.fromEntries(Object.entries(CHANNELS).map(([k, c]) => [k, c.title])),
} as Record<View, string>
const LEVEL_TITLES = { object: 'Objects', group: 'Groups', part: 'Parts', patch: 'Patches' }
const levels = computed(() => [
  ...LEVELS.map(value => ({ value, title: LEVEL_TITLES[value] })),
  { value: 'map' as const, title: 'Map', disabled: !project.tables?.mesh.maps.length },
])
/** None of them, where it is shown what found no dense mesh. */
const shownAs = computed(() => {
  if (mesh.shown.kind === 'level') return mesh.shown.level
  return ['map', 'surface'].includes(mesh.shown.kind) ? ('map' as const) : undefined
})
function showLevel(level: (typeof LEVELS)[number] | 'map'): void {
  if (level !== 'map') mesh.shown = { kind: 'level', level }
  else mesh.shown = { kind: 'map', name: project.tables!.mesh.maps[0]!.name, component: 0 }
}
</script>

<template>
  <div v-if="mode === 'look'" class="edge">
    <ChoiceBar class="views" :value="view" :choices="views" label="What the stage shows" @change="view = $event" />
    <span class="grow" />
    <StageLight />
    <StageEye />
    <UTooltip text="Keep this state beside the next ones" :kbds="['K']"
      ><UButton
        variant="bare"
        :aria-pressed="looking.kept !== null"
        :class="{ on: looking.kept }"
        @click="looking.keep()"
      >
        {{ looking.kept ? 'Forget' : 'Keep' }}
      </UButton></UTooltip
    >
    <UTooltip text="Show the selected parts, or the whole mesh" :kbds="['F']"
      ><UButton variant="bare" @click="emit('fit')">Fit mesh</UButton></UTooltip
    >
  </div>
  <div v-else class="edge">
    <ChoiceBar class="views" :value="shownAs" :choices="levels" label="What the stage shows" @change="showLevel" />
    <span class="grow" />
    <UTooltip
      :text="project.tables?.mesh.uvs ? 'Lay the surface out by its UVs' : 'The mesh has no UVs'"
      :kbds="project.tables?.mesh.uvs ? ['U'] : []"
      ><UButton
        variant="bare"
        :aria-pressed="mesh.flat"
        :class="{ on: mesh.flat }"
        :disabled="!project.tables?.mesh.uvs"
        @click="mesh.flat = !mesh.flat"
      >
        UV layout
      </UButton></UTooltip
    >
    <UTooltip text="Show the selection, or the whole mesh" :kbds="['F']"
      ><UButton variant="bare" @click="emit('fit')">Fit mesh</UButton></UTooltip
    >
  </div>
</template>

<style scoped>
.edge {
  display: flex;
  align-items: stretch;
  height: 30px;
  border-bottom: 1px solid var(--ub-line);
  padding: 0 14px;
  gap: 14px;
  white-space: nowrap;
}
.views {
  overflow-x: auto;
  scrollbar-width: none;
  min-width: 0;
}
.edge button {
  display: flex;
  align-items: center;
  color: var(--ub-quiet);
  cursor: pointer;
  border-bottom: 2px solid transparent;
  white-space: nowrap;
}
.edge button:hover:enabled {
  color: var(--ub-text);
}
.edge button.on {
  color: var(--ub-text);
  font-weight: 500;
  border-bottom-color: var(--ub-accent);
}
.edge button:disabled {
  opacity: 0.5;
  cursor: default;
}
.grow {
  flex: 1;
}
</style>
