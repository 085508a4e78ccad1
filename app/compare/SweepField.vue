<script setup lang="ts">
import { fromHex, toHex, type Triple } from '#core/color/convert'
import type { Sweep } from '#core/compare/sheet'
import { useSheet } from './useSheet'

/** One direction of a sweep: which setting, from where to where, in how many steps. */
const props = defineProps<{ label: string; sweep: Sweep | null; none?: string }>()
const emit = defineEmits<{ change: [sweep: Sweep | null] }>()
const sheet = useSheet()

const STEPS = [2, 3, 4, 5, 6, 7, 8].map(n => ({ value: n, title: String(n) }))
const BEGIN = 4
const ENDS = ['from', 'to'] as const
const choices = computed(() => sheet.settings.map(s => ({ value: `${s.node}.${s.param}`, title: s.title })))
const setting = computed(() => sheet.settingOf(props.sweep))
const key = computed(() => (setting.value ? `${setting.value.node}.${setting.value.param}` : ''))
const change = (part: Partial<Sweep>): void => {
  if (props.sweep) emit('change', { ...props.sweep, ...part })
}
function setColor(end: (typeof ENDS)[number], text: string): void {
  const color = fromHex(text)
  if (color) change({ [end]: color })
}
</script>

<template>
  <div class="sweep" role="group" :aria-label="label">
    <span>{{ label }}</span>
    <ChoiceField
      class="setting"
      :value="key"
      :label="`Setting of the ${label.toLowerCase()}`"
      :choices="choices"
      :none="none"
      gone="Choose a setting"
      @change="emit('change', sheet.sweepOver($event, sweep?.count ?? BEGIN))"
    />
    <template v-if="sweep && setting?.declaration.type === 'number'">
      <NumberField
        label="from"
        :context="label"
        :value="Number(sweep.from)"
        :shape="setting.declaration"
        @change="change({ from: $event })"
      />
      <NumberField
        label="to"
        :context="label"
        :value="Number(sweep.to)"
        :shape="setting.declaration"
        @change="change({ to: $event })"
      />
    </template>
    <template v-else-if="sweep && setting?.declaration.type === 'color'">
      <label v-for="end in ENDS" :key="end" class="steps">
        <span>{{ end }}</span>
        <span class="chip" :style="{ background: toHex(sweep[end] as Triple) }" aria-hidden="true" />
        <TextField
          class="hex num"
          :value="toHex(sweep[end] as Triple)"
          :label="`${label} ${end}, hex code`"
          :limit="7"
          @change="setColor(end, $event)"
        />
      </label>
    </template>
    <label v-if="sweep && setting && ['number', 'color'].includes(setting.declaration.type)" class="steps">
      <span>in</span>
      <ChoiceField
        :value="sweep.count"
        :label="`Steps of the ${label.toLowerCase()}`"
        :choices="STEPS"
        @change="change({ count: Number($event) })"
      />
    </label>
    <UCheckbox
      v-if="sweep && setting?.declaration.type === 'number' && Number(sweep.from) > 0 && Number(sweep.to) > 0"
      label="even ratios"
      :aria-label="`${label} in even ratios`"
      :model-value="Boolean(sweep.ratios)"
      @update:model-value="change({ ratios: $event === true })"
    />
  </div>
</template>

<style scoped>
.sweep,
.steps {
  display: flex;
  align-items: center;
  gap: 8px;
}
.setting {
  width: 190px;
}
/* Narrower than in a panel. */
.sweep :deep(.row) {
  grid-template-columns: auto 84px auto;
  width: auto;
}
.chip {
  width: 16px;
  height: 16px;
  border: 1px solid var(--ub-line);
}
.hex {
  width: 76px;
}
</style>
