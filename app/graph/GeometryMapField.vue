<script setup lang="ts">
import { GEOMETRY_MAPS, MAP_KINDS, type MapKind, type MapSettings } from '#core/geometry/maps'
import { newMap } from '#core/mesh/setEdits'

const props = defineProps<{ label: string; value: string; help?: string }>()
const emit = defineEmits<{ change: [value: string] }>()
const project = useProject()
const mesh = useMesh()
const maps = computed(() => project.preparation.maps)
const own = computed(() => maps.value.find(m => m.name === props.value))
const state = computed(() => mesh.states.get(props.value))
const adding = ref<MapKind | ''>('')

function add(): void {
  if (!adding.value || !project.opened) return
  const made = newMap(adding.value, project.diagonal, project.mapNames)
  adding.value = ''
  project.prepare(`Compute ${made.name}`, p => ({ ...p, maps: [...p.maps, made] }))
  emit('change', made.name)
}
function titleOfMap(m: MapSettings): string {
  const kind = GEOMETRY_MAPS[m.kind].title.toLowerCase()
  return m.name.toLowerCase().includes(kind) ? m.name : `${m.name} (${kind})`
}
</script>

<template>
  <div>
    <label class="ub-row">
      <span :title="help">{{ label }}</span>
      <ChoiceField
        :value="value"
        :label="label"
        :choices="maps.map(m => ({ value: m.name, title: titleOfMap(m) }))"
        none="Choose a map"
        :gone="`${value} (not in this project)`"
        @change="emit('change', $event)"
      />
    </label>
    <MapFields v-if="own" :map="own" lengths />
    <p v-if="state && state.state !== 'ready'" class="ub-row" role="status">
      <span /><span
        >{{
          state.state === 'computing'
            ? `Computing, ${Math.round(state.share * 100)} %`
            : state.state === 'waiting'
              ? 'Waiting to be computed'
              : (state.message ?? 'Not computed')
        }}
        <UButton
          variant="link"
          v-if="state.state !== 'computing' && state.state !== 'waiting'"
          @click="mesh.startMap(value)"
        >
          Compute
        </UButton></span
      >
    </p>
    <p class="ub-row">
      <span class="ub-quiet">Another</span>
      <span class="add">
        <ChoiceField
          :value="adding"
          label="Kind of a new geometry map"
          :choices="MAP_KINDS.map(k => ({ value: k, title: GEOMETRY_MAPS[k].title }))"
          none="Kind"
          @change="adding = $event"
        />
        <UButton variant="link" :disabled="!adding" @click="add">Compute it</UButton>
      </span>
    </p>
  </div>
</template>

<style scoped>
.add {
  display: flex;
  gap: 10px;
  align-items: center;
}
</style>
