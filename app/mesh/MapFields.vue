<script setup lang="ts">
import { declarationOf, type MapSettings } from '#core/geometry/maps'
import type { MapField } from '#core/geometry/maps/declare'

/** The settings of a geometry map, as its kind declares them. */
const props = defineProps<{
  map: MapSettings
  /** Only what says how far the map looks. */
  lengths?: boolean
  /** The name of the map, where several are shown at once. */
  context?: string
}>()
const project = useProject()

const fields = computed(() => declarationOf(props.map).fields.filter(f => !props.lengths || f.type === 'length'))
const values = computed(() => props.map as unknown as Record<string, unknown>)
const numberOf = (field: MapField): number => Number(values.value[field.key])
const directionOf = (field: MapField): number[] => values.value[field.key] as number[]

function change(field: MapField, value: unknown, merge = field.key): void {
  const { name } = props.map
  project.prepare(
    'Change a geometry map',
    p => ({ ...p, maps: p.maps.map(m => (m.name === name ? ({ ...m, [field.key]: value } as MapSettings) : m)) }),
    `map ${merge} ${name}`,
  )
}
const LENGTH = { min: 0.01, max: 1e6, step: 0.5, unit: 'mm' } as const
const RAYS = { min: 8, max: 1024, step: 8 } as const
const ALONG = { min: -1, max: 1, step: 0.01 } as const
const AXES = [
  ['Up', [0, 1, 0]],
  ['Down', [0, -1, 0]],
  ['Right (+X)', [1, 0, 0]],
  ['Left (−X)', [-1, 0, 0]],
  ['Front (+Z)', [0, 0, 1]],
  ['Back (−Z)', [0, 0, -1]],
] as const
const axisOf = (d: readonly number[]) => AXES.findIndex(([, a]) => a.every((x, k) => x === d[k]))
</script>

<template>
  <template v-for="field in fields" :key="field.key">
    <NumberField
      v-if="field.type === 'length'"
      :label="field.title"
      :context="context"
      :help="lengths ? `${field.help} Every node that uses this map follows.` : field.help"
      :value="numberOf(field) * 1000"
      :shape="LENGTH"
      @change="change(field, $event / 1000)"
      @settle="project.settle()"
    />
    <NumberField
      v-else-if="field.type === 'rays'"
      :label="field.title"
      :context="context"
      :help="field.help"
      :value="numberOf(field)"
      :shape="RAYS"
      whole
      @change="change(field, $event)"
      @settle="project.settle()"
    />
    <label v-else-if="field.type === 'choice'" class="ub-line">
      <span>{{ field.title }}</span>
      <ChoiceField
        :value="String(values[field.key])"
        :label="field.title"
        :choices="field.choices"
        @change="change(field, $event)"
      />
    </label>
    <template v-else>
      <label class="ub-line">
        <span>{{ field.title }}</span>
        <ChoiceField
          :value="axisOf(directionOf(field))"
          :label="field.title"
          :choices="AXES.map(([title], value) => ({ value, title }))"
          :gone="
            directionOf(field)
              .map(x => x.toFixed(2))
              .join(', ')
          "
          @change="change(field, [...AXES[$event]![1]])"
        />
      </label>
      <NumberField
        v-for="(axis, k) in ['X', 'Y', 'Z']"
        :key="axis"
        :label="axis"
        :context="context"
        :value="directionOf(field)[k]!"
        :shape="ALONG"
        @change="
          change(
            field,
            directionOf(field).map((x, i) => (i === k ? $event : x)),
            axis,
          )
        "
        @settle="project.settle()"
      />
    </template>
  </template>
</template>
