<script setup lang="ts">
import { MAP_KINDS, MAP_WORDS, type MapKind, type MapSettings } from '#core/geometry/settings'
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
const change = (next: Partial<MapSettings>): void =>
  project.prepare(
    'Change a geometry map',
    p => ({ ...p, maps: p.maps.map(m => (m.name === props.value ? ({ ...m, ...next } as MapSettings) : m)) }),
    `map ${props.value}`,
  )
function titleOfMap(m: MapSettings): string {
  const kind = MAP_WORDS[m.kind].title.toLowerCase()
  return m.name.toLowerCase().includes(kind) ? m.name : `${m.name} (${kind})`
}
const LENGTH = { min: 0.01, max: 1e6, step: 0.5, unit: 'mm' } as const
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
    <NumberField
      v-if="own && (own.kind === 'convexity' || own.kind === 'concavity')"
      label="Radius"
      help="The size of the edges or hollows to find. Every node that uses this map follows."
      :value="own.radius * 1000"
      :shape="LENGTH"
      @change="change({ radius: $event / 1000 })"
      @settle="project.settle()"
    />
    <NumberField
      v-if="own && 'distance' in own"
      label="Distance"
      help="How far to look. Every node that uses this map follows."
      :value="own.distance * 1000"
      :shape="LENGTH"
      @change="change({ distance: $event / 1000 })"
      @settle="project.settle()"
    />
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
          :choices="MAP_KINDS.map(k => ({ value: k, title: MAP_WORDS[k].title }))"
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
