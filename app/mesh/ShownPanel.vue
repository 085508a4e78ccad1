<script setup lang="ts">
import { scaleLinear } from 'd3-scale'
import { max } from 'd3-array'
import { falseColor } from '#core/color/falseColor'
import { GEOMETRY_MAPS } from '#core/geometry/maps'
import { lanesOfMap } from '#core/evaluate/surfaceReading'
import { READING_BINS } from '#core/mesh/mapReading'
import { count, squareMeters } from '../shared/units'

/** What the stage shows, with its legend, and what is selected. `value` is the map's under the cursor. */
const props = defineProps<{ value?: number }>()
const project = useProject()
const mesh = useMesh()
const surface = useSurfaceMaps()
const WIDTH = 360
const HEIGHT = 70
const maps = computed(() => project.tables?.mesh.maps ?? [])
const map = computed(() => (mesh.shown.kind === 'map' || mesh.shown.kind === 'surface' ? mesh.shown : undefined))
const components = computed(() => {
  if (mesh.shownSurface) return lanesOfMap(mesh.shownSurface.picture)
  return maps.value.find(m => m.name === map.value?.name)?.components ?? mesh.shownMap?.map.components ?? 1
})
const kind = computed(() =>
  map.value?.kind === 'map' ? project.preparation.maps.find(m => m.name === map.value?.name)?.kind : undefined,
)
const state = computed(() => (map.value?.kind === 'map' ? mesh.states.get(map.value.name) : undefined))
const titles = computed(() => (kind.value && GEOMETRY_MAPS[kind.value].lanes) ?? ['First', 'Second', 'Third', 'Fourth'])
/** Vertex maps and surface maps, which may have the same names. */
const choices = computed(() => [
  ...maps.value.map(m => ({ value: `map/${m.name}`, title: m.name })),
  ...surface.names.map(name => ({ value: `surface/${name}`, title: name })),
])
function choose(value: string): void {
  const at = value.indexOf('/')
  mesh.shown = { kind: value.slice(0, at) as 'map' | 'surface', name: value.slice(at + 1), component: 0 }
}
const colorAt = (t: number) =>
  mesh.falseColors
    ? `rgb(${falseColor(t)
        .map(x => Math.round(x * 255))
        .join()})`
    : `rgb(${[t, t, t].map(x => Math.round(x * 255)).join()})`
const legend = computed(
  () => `linear-gradient(to right, ${Array.from({ length: 17 }, (_, i) => colorAt(i / 16)).join(', ')})`,
)
const bars = computed(() => {
  const r = mesh.reading
  if (!r) return []
  const [from, to] = mesh.span
  const x = scaleLinear([from, to], [0, WIDTH])
  const y = scaleLinear([0, max(r.shares) || 1], [0, HEIGHT - 3])
  const at = (i: number) => r.low + ((r.high - r.low) * i) / READING_BINS
  return r.shares.map((share, i) => ({
    x: x(at(i)),
    width: Math.max(1, x(at(i + 1)) - x(at(i)) - 0.5),
    y: HEIGHT - y(share),
    height: y(share),
  }))
})
const place = (v: number) => scaleLinear(mesh.span, [0, 100]).clamp(true)(v)
const figure = (v: number) => Number(v.toPrecision(3)).toString()

const MOST_ASTRAY = 8
/** The parts that found the least of the dense mesh. */
const astray = computed(() => {
  if (mesh.shown.kind !== 'astray') return []
  const list = Array.from(mesh.shown.shares, (share, part) => ({ part, share }))
  return list
    .filter(a => a.share > 0)
    .sort((a, b) => b.share - a.share)
    .slice(0, MOST_ASTRAY)
})

const chosen = computed(() => [...mesh.selected])
const area = computed(() => chosen.value.reduce((sum, i) => sum + (mesh.parts[i]?.area ?? 0), 0))
const whole = computed(() => mesh.parts.reduce((sum, p) => sum + p.area, 0))
const PICKED = [
  { value: 'part' as const, title: 'parts' },
  { value: 'group' as const, title: 'groups' },
  { value: 'object' as const, title: 'objects' },
]
const LEVEL_WORDS = {
  object: 'Each object of the file has a color of its own.',
  group: 'Each group has a color of its own; the Levels page says what makes a group.',
  part: 'Each part has a color of its own: a connected piece of the mesh.',
  patch: 'Each patch has a color of its own: a UV island, or faces between creases.',
}
</script>

<template>
  <section class="shown" aria-label="What is shown and selected">
    <template v-if="map">
      <div class="line">
        <ChoiceField :value="`${map.kind}/${map.name}`" label="Map on the stage" :choices="choices" @change="choose" />
        <ChoiceField
          v-if="components > 1"
          :value="map.component"
          label="Number of the map"
          :choices="titles.slice(0, components).map((title, value) => ({ value, title }))"
          @change="mesh.shown = { ...map, component: $event }"
        />
        <UCheckbox v-model="mesh.falseColors" label="False colors" />
        <UCheckbox v-model="mesh.marks" label="Mark extremes" />
      </div>
      <p v-if="kind" class="ub-quiet">{{ GEOMETRY_MAPS[kind].help }}</p>
      <p v-if="state && state.state !== 'ready'" class="ub-warn" role="status">
        {{
          state.state === 'computing'
            ? `Rough so far: ${Math.round(state.share * 100)} % computed.`
            : state.state === 'waiting'
              ? 'Waiting to be computed.'
              : 'Not computed. The Maps page starts it.'
        }}
      </p>
      <figure v-if="mesh.reading">
        <figcaption>
          <span>By area of the surface</span
          ><span class="num" data-test="reading"
            >{{ figure(mesh.reading.low) }} – {{ figure(mesh.reading.high) }}, mean
            {{ figure(mesh.reading.mean) }}</span
          >
        </figcaption>
        <svg
          :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
          preserveAspectRatio="none"
          role="img"
          :aria-label="`Histogram by area: ${map.name} from ${figure(mesh.reading.low)} to ${figure(mesh.reading.high)}, mean ${figure(mesh.reading.mean)}`"
        >
          <rect
            v-for="(b, i) in bars"
            :key="i"
            :x="b.x"
            :y="b.y"
            :width="b.width"
            :height="b.height"
            fill="currentColor"
          />
        </svg>
        <div class="legend" :style="{ background: legend }">
          <i v-if="props.value !== undefined" :style="{ left: `${place(props.value)}%` }" />
        </div>
        <div class="ends num">
          <span>{{ figure(mesh.span[0]) }}</span
          ><b v-if="props.value !== undefined" data-test="cursor-value">{{ figure(props.value) }} under the cursor</b
          ><span>{{ figure(mesh.span[1]) }}</span>
        </div>
      </figure>
    </template>
    <p v-else-if="mesh.shown.kind === 'level'" class="ub-quiet">{{ LEVEL_WORDS[mesh.shown.level] }}</p>
    <template v-else-if="mesh.shown.kind === 'partners'">
      <p class="ub-quiet">
        Parts in gray found nothing of the dense mesh; every other has a color of its own. The Detail page says whose is
        whose.
      </p>
      <p>
        <UButton variant="link" @click="mesh.shown = { kind: 'level', level: 'part' }">Show the parts again</UButton>
      </p>
    </template>
    <template v-else>
      <p class="ub-quiet">
        The redder a part, the more of it missed the dense mesh or met what belongs to another part; gray found all of
        it. Those farthest astray:
      </p>
      <ul>
        <li v-for="a in astray" :key="a.part" class="line">
          <UButton variant="link" @click="mesh.select([a.part])">{{ mesh.parts[a.part]?.name }}</UButton>
          <span class="num">{{ figure(100 * a.share) }} %</span>
        </li>
      </ul>
      <p>
        <UButton variant="link" @click="mesh.shown = { kind: 'level', level: 'part' }">Show the parts again</UButton>
      </p>
    </template>

    <h3>{{ chosen.length ? `${count(chosen.length, 'part')} selected` : 'Nothing selected' }}</h3>
    <p class="ub-quiet">
      <template v-if="chosen.length"
        >{{ squareMeters(area) }}, {{ figure((area / (whole || 1)) * 100) }} % of the surface.</template
      ><template v-else>Click a part on the stage. Shift and click adds; Shift and a drag draw a box.</template>
    </p>
    <div class="line">
      <label
        >Pick
        <ChoiceField
          :value="mesh.pickLevel"
          label="Level at which is picked"
          :choices="PICKED"
          @change="mesh.pickLevel = $event"
      /></label>
      <UButton variant="link" :disabled="!chosen.length" @click="mesh.grow">Grow to neighbors</UButton>
      <UButton variant="link" @click="mesh.invert">Invert</UButton>
      <UButton variant="link" :disabled="!chosen.length" @click="mesh.select([])">Clear</UButton>
    </div>
    <div class="line">
      <span class="ub-quiet">Select alike by</span>
      <UButton
        variant="link"
        v-for="by in ['material', 'size', 'name'] as const"
        :key="by"
        :disabled="!chosen.length"
        :aria-label="`Select alike by ${by}`"
        @click="mesh.alike(by)"
      >
        {{ by }}
      </UButton>
      <span class="gap" />
      <UButton variant="link" :disabled="!chosen.length" @click="mesh.isolate">Isolate</UButton>
      <UButton variant="link" :disabled="!chosen.length" @click="mesh.hide([...mesh.hidden, ...chosen])">
        Hide
      </UButton>
      <UButton variant="link" :disabled="!mesh.hidden.size" @click="mesh.hide([])">Show all</UButton>
    </div>
  </section>
</template>

<style scoped>
.shown {
  overflow-y: auto;
  padding: 10px 16px 16px 14px;
  display: grid;
  gap: 6px;
  align-content: start;
  scrollbar-width: thin;
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
  min-height: 24px;
}
.gap {
  flex: 1;
}
.line label {
  display: flex;
  gap: 6px;
  align-items: center;
}
h3 {
  font-weight: 600;
  padding-top: 10px;
}
figcaption {
  display: flex;
  justify-content: space-between;
  color: var(--ub-quiet);
  padding-bottom: 3px;
}
figcaption .num {
  font-size: 11px;
}
svg {
  width: 100%;
  height: 70px;
  display: block;
  color: var(--ub-line-strong);
  background: var(--ub-canvas);
}
.legend {
  height: 10px;
  position: relative;
}
.legend i {
  position: absolute;
  top: -3px;
  bottom: -3px;
  width: 2px;
  margin-left: -1px;
  background: var(--ub-text);
  outline: 1px solid var(--ub-card);
}
.ends {
  display: flex;
  justify-content: space-between;
  font-size: 11px;
  color: var(--ub-quiet);
  min-height: 16px;
}
.ends b {
  font-weight: 500;
  color: var(--ub-text);
}
</style>
