<script setup lang="ts">
import { MEASURE_WORDS } from '#core/mesh/measures'
import { MEASURES, type MeasureName, type PartSet, type Rule } from '#core/mesh/partSets'
import { count } from '../shared/units'

/** A part set or a named group: its rules, and what was added to and taken from it by hand. */
const props = defineProps<{ set: PartSet; what: string; members: number }>()
const emit = defineEmits<{ change: [set: PartSet, merge?: string]; settle: []; remove: []; rename: [name: string] }>()
const project = useProject()
const mesh = useMesh()

const NAMED = { name: 'Part name', object: 'Object name', material: 'Material', group: 'Group name' } as const
const BY: { value: string; title: string }[] = [
  ...Object.entries(NAMED).map(([value, title]) => ({ value, title })),
  ...MEASURES.map(m => ({ value: `measure:${m}`, title: MEASURE_WORDS[m].title })),
  { value: 'random', title: 'Random share' },
  { value: 'all', title: 'All parts' },
]
const MATCHES: { value: PartSet['match']; title: string }[] = [
  { value: 'all', title: 'and' },
  { value: 'any', title: 'or' },
]
const MORE_OR_LESS = [
  { value: 'above' as const, title: 'more than' },
  { value: 'below' as const, title: 'less than' },
]
const LIKE = [
  { value: 'begins' as const, title: 'begins with' },
  { value: 'contains' as const, title: 'contains' },
  { value: 'ends' as const, title: 'ends with' },
  { value: 'exactly' as const, title: 'is' },
]
const idOf = (r: Rule): string => (r.by === 'measure' ? `measure:${r.measure}` : r.by)
/** Lengths are shown in centimeters, areas and volumes in their square and cube. */
const FACTORS = { m: [100, 'cm'], 'm²': [1e4, 'cm²'], 'm³': [1e6, 'cm³'], '': [1, ''] } as const
const unitOf = (m: MeasureName) => FACTORS[MEASURE_WORDS[m].unit]

const change = (rules: Rule[], merge?: string): void => emit('change', { ...props.set, rules }, merge)
const put = (i: number, rule: Rule, merge?: string): void =>
  change(
    props.set.rules.map((r, k) => (k === i ? rule : r)),
    merge,
  )
function kind(i: number, id: string): void {
  if (id === 'random') put(i, { by: 'random', share: 0.2, seed: 1 + Math.floor(Math.random() * 9999) })
  else if (id === 'all') put(i, { by: 'all' })
  else if (id.startsWith('measure:')) {
    const measure = id.slice(8) as MeasureName
    const column = [...(project.arranged?.measures[measure] ?? [])].sort((a, b) => a - b)
    put(i, { by: 'measure', measure, is: 'above', value: Number((column[column.length >> 1] ?? 0).toPrecision(3)) })
  } else put(i, { by: id as keyof typeof NAMED, is: 'begins', text: '' })
}
const add = (): void => change([...props.set.rules, { by: 'name', is: 'begins', text: '' }])
function take(into: 'plus' | 'minus'): void {
  const keys = [...mesh.selected].map(i => mesh.parts[i]!.key)
  const other = into === 'plus' ? 'minus' : 'plus'
  const gone = new Set(keys)
  emit('change', {
    ...props.set,
    [into]: [...new Set([...props.set[into], ...keys])],
    [other]: props.set[other].filter(k => !gone.has(k)),
  })
}
// Clicks on the stage put parts in and take them out, until the button is pressed again or the set is left.
const picking = computed(() => mesh.pickInto?.set === props.set.id)
function pick(): void {
  mesh.pickInto = picking.value
    ? null
    : {
        set: props.set.id,
        take(part) {
          const { key } = mesh.parts[part]!
          const index = project.preparation.sets.findIndex(s => s.id === props.set.id)
          const inside = Boolean(project.arranged?.members[index]?.[part])
          const without = {
            ...props.set,
            plus: props.set.plus.filter(k => k !== key),
            minus: props.set.minus.filter(k => k !== key),
          }
          emit(
            'change',
            inside ? { ...without, minus: [...without.minus, key] } : { ...without, plus: [...without.plus, key] },
          )
        },
      }
}
onBeforeUnmount(() => {
  if (picking.value) mesh.pickInto = null
})
const value = (e: Event): string => (e.target as HTMLInputElement).value
</script>

<template>
  <div class="set">
    <header>
      <TextField
        plain
        class="name"
        :value="set.name"
        :label="`Name of the ${what}`"
        :limit="80"
        @change="emit('rename', $event)"
      />
      <span class="num" data-test="members">{{ count(members, 'part') }}</span>
      <slot />
      <UButton variant="link" :aria-label="`Remove the ${what} ${set.name}`" @click="emit('remove')"> Remove </UButton>
    </header>
    <div v-for="(r, i) in set.rules" :key="i" class="rule">
      <span v-if="i === 0" class="ub-quiet">where</span>
      <ChoiceField
        v-else
        :value="set.match"
        label="How rules combine"
        :choices="MATCHES"
        @change="emit('change', { ...set, match: $event })"
      />
      <ChoiceField :value="idOf(r)" :label="`Rule ${i + 1} of ${set.name}`" :choices="BY" @change="kind(i, $event)" />
      <template v-if="r.by === 'measure'">
        <ChoiceField :value="r.is" label="Comparison" :choices="MORE_OR_LESS" @change="put(i, { ...r, is: $event })" />
        <span class="with"
          ><UInput
            class="num"
            type="number"
            step="any"
            :model-value="Number((r.value * unitOf(r.measure)[0]).toPrecision(5))"
            :aria-label="`Value of rule ${i + 1}`"
            @change="put(i, { ...r, value: Number(value($event)) / unitOf(r.measure)[0] })"
            @keydown.stop
          />
          {{ unitOf(r.measure)[1] }}</span
        >
      </template>
      <template v-else-if="r.by === 'random'">
        <span class="wide"
          ><NumberField
            label="Share"
            :context="set.name"
            :value="r.share * 100"
            :shape="{ min: 0, max: 100, step: 1, unit: '%' }"
            @change="put(i, { ...r, share: $event / 100 }, `share ${set.id} ${i}`)"
            @settle="emit('settle')"
        /></span>
        <UButton variant="link" @click="put(i, { ...r, seed: (r.seed + 1) % 2 ** 24 })"> Another draw </UButton>
      </template>
      <template v-else-if="r.by !== 'all'">
        <ChoiceField :value="r.is" label="Comparison" :choices="LIKE" @change="put(i, { ...r, is: $event })" />
        <UInput
          :model-value="r.text"
          :aria-label="`Text of rule ${i + 1}`"
          maxlength="200"
          @update:model-value="put(i, { ...r, text: String($event) }, `text ${set.id} ${i}`)"
          @change="emit('settle')"
          @keydown.stop
        />
      </template>
      <span v-else />
      <UButton
        variant="bare"
        class="x"
        :aria-label="`Remove rule ${i + 1}`"
        @click="change(set.rules.filter((_, k) => k !== i))"
      >
        <UIcon name="i-lucide-x" />
      </UButton>
    </div>
    <p class="acts">
      <UButton variant="link" @click="add">Add a rule</UButton>
      <UButton variant="link" :disabled="!mesh.selected.size" @click="take('plus')"> Add the selection </UButton>
      <UButton variant="link" :disabled="!mesh.selected.size" @click="take('minus')"> Take the selection out </UButton>
      <UButton variant="link" v-if="what === 'part set'" :aria-pressed="picking" @click="pick">
        {{ picking ? 'Done picking' : 'Pick on the stage' }}
      </UButton>
      <span v-if="set.plus.length || set.minus.length" class="ub-quiet">
        by hand:
        {{
          [set.plus.length ? `${set.plus.length} added` : '', set.minus.length ? `${set.minus.length} taken out` : '']
            .filter(Boolean)
            .join(', ')
        }}
        <UButton variant="link" @click="emit('change', { ...set, plus: [], minus: [] })"> Forget these </UButton>
      </span>
    </p>
  </div>
</template>

<style scoped>
.set {
  padding: 10px 0 12px;
  border-bottom: 1px solid var(--ub-line);
}
header {
  display: flex;
  align-items: center;
  gap: 14px;
}
.name {
  flex: 1;
  min-width: 0;
  font-weight: 500;
  font-size: 14px;
  border-bottom: 1px dotted var(--ub-line-strong);
}
.rule {
  display: grid;
  grid-template-columns: 52px 130px auto minmax(90px, 1fr) 22px;
  gap: 6px;
  align-items: center;
  padding-top: 5px;
  max-width: 600px;
}
.with {
  display: flex;
  align-items: center;
  gap: 5px;
}
.with .num {
  width: 100px;
}
.wide {
  min-width: 210px;
}
.wide :deep(.row) {
  grid-template-columns: 46px 1fr 0;
}
.x {
  width: 20px;
  height: 20px;
  display: grid;
  place-items: center;
  color: var(--ub-quiet);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  padding-top: 7px;
}
</style>
