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
const LENGTH = { min: 0.01, max: 1e6, step: 0.5, unit: 'mm' } as const
</script>

<template>
  <div>
    <label class="ub-row">
      <span :title="help">{{ label }}</span>
      <select :value="value" @change="emit('change', ($event.target as HTMLSelectElement).value)" @keydown.stop>
        <option value="">Choose a map</option>
        <option v-if="value && !own" :value="value">{{ value }} (not in this project)</option>
        <option v-for="m in maps" :key="m.name" :value="m.name">
          {{ m.name
          }}{{
            m.name.toLowerCase().includes(MAP_WORDS[m.kind].title.toLowerCase())
              ? ''
              : ` (${MAP_WORDS[m.kind].title.toLowerCase()})`
          }}
        </option>
      </select>
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
        <button
          v-if="state.state !== 'computing' && state.state !== 'waiting'"
          type="button"
          class="ub-link"
          @click="mesh.startMap(value)"
        >
          Compute
        </button></span
      >
    </p>
    <p class="ub-row">
      <span class="ub-quiet">Another</span>
      <span class="add">
        <select v-model="adding" aria-label="Kind of a new geometry map" @keydown.stop>
          <option value="">Kind</option>
          <option v-for="k in MAP_KINDS" :key="k" :value="k">{{ MAP_WORDS[k].title }}</option>
        </select>
        <button type="button" class="ub-link" :disabled="!adding" @click="add">Compute it</button>
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
