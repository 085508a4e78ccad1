<script setup lang="ts">
import StatePicker from './StatePicker.vue'
import DrawPicker from './DrawPicker.vue'
import SweepField from './SweepField.vue'
import type { KeptSheet, SheetKind } from '#core/compare/keptSheet'
import KeptSheets from './KeptSheets.vue'
import { COUNTS } from './useRolls'
import { ORDERS, SHEETS, TURNS, useSheet } from './useSheet'

/** What a sheet can be saved as: one picture of all tiles, one of each, or what is known of them. */
export type SheetFile = 'picture' | 'pictures' | 'table'
/** What a sheet holds, in which order, and what is told of each tile. */
defineProps<{ status: string; empty: boolean; seen: () => KeptSheet['seen'] }>()
const emit = defineEmits<{
  save: [as: SheetFile]
  see: [seen: NonNullable<KeptSheet['seen']>]
  turn: []
}>()
const project = useProject()
const sheet = useSheet()
const { kind, order, showsNumbers, reference, count, first, columns, rows, turns } = storeToRefs(sheet)

const choicesOf = (list: readonly number[]) => list.map(n => ({ value: String(n), title: String(n) }))
const pictures = computed(() => project.pictures.map(p => ({ value: p.name, title: p.name })))
/** Closeness needs something to be close to. */
const orders = computed(() => ORDERS.filter(o => o.value !== 'away' || reference.value))
const SAVES = [
  [
    { label: 'As a picture (PNG)', onSelect: () => emit('save', 'picture') },
    { label: 'Each tile as a picture (ZIP)', onSelect: () => emit('save', 'pictures') },
    { label: 'As a table (CSV)', onSelect: () => emit('save', 'table') },
  ],
  [{ label: 'The chosen tile as a turntable …', onSelect: () => emit('turn') }],
]
function setReference(name: string): void {
  reference.value = name
  if (!name && order.value === 'away') order.value = 'made'
}
</script>

<template>
  <header>
    <div class="line">
      <ChoiceBar
        :value="kind"
        label="What is compared"
        :choices="SHEETS as unknown as { value: SheetKind; title: string }[]"
        @change="kind = $event"
      />
      <template v-if="kind === 'rolls'">
        <ChoiceField
          :value="String(count)"
          label="Number of rolls"
          :choices="choicesOf(COUNTS)"
          @change="count = Number($event) as typeof count"
        />
        <span class="pair">
          <span>of</span>
          <DrawPicker />
        </span>
        <ToolButton icon="i-lucide-chevron-left" label="Earlier rolls" :disabled="first === 1" @press="sheet.back()" />
        <ToolButton icon="i-lucide-chevron-right" label="More rolls" @press="sheet.more()" />
      </template>
      <label v-else-if="kind === 'lights'" class="pair">
        <span>Every rig, at</span>
        <ChoiceField
          :value="String(turns)"
          label="Turns of each rig"
          :choices="choicesOf(TURNS)"
          @change="turns = Number($event) as typeof turns"
        />
        <span>{{ turns === 1 ? 'turn' : 'turns' }}</span>
      </label>
      <StatePicker v-else-if="kind === 'states'" />
      <span class="grow" />
      <UCheckbox v-model="sheet.gray" label="Gray" />
      <span class="ub-quiet num" role="status">{{ status }}</span>
      <KeptSheets :seen="seen" @see="emit('see', $event)" />
      <UDropdownMenu :items="SAVES">
        <UButton variant="link" :disabled="empty">Save</UButton>
      </UDropdownMenu>
    </div>
    <div v-if="kind === 'sweep'" class="line wraps">
      <SweepField label="Columns" :sweep="columns" @change="columns = $event" />
      <SweepField label="Rows" none="None" :sweep="rows" @change="rows = $event" />
    </div>
    <p v-if="kind === 'states' && sheet.statesProblem" class="ub-warn line" role="alert">{{ sheet.statesProblem }}</p>
    <div v-if="kind !== 'lights' && kind !== 'distances'" class="line">
      <label class="pair">
        <span>Order</span>
        <ChoiceField :value="order" label="Order of the tiles" :choices="orders" @change="order = $event" />
      </label>
      <UCheckbox v-model="showsNumbers" label="Numbers" />
      <label v-if="pictures.length" class="pair">
        <span>Close to</span>
        <ChoiceField
          :value="reference"
          label="Picture to come close to"
          :choices="pictures"
          none="No picture"
          @change="setReference"
        />
      </label>
    </div>
  </header>
</template>

<style scoped>
header {
  border-bottom: 1px solid var(--ub-line);
}
.line {
  display: flex;
  align-items: center;
  gap: 10px;
  min-height: 36px;
  padding: 3px 12px;
}
.wraps {
  flex-wrap: wrap;
  row-gap: 4px;
}
.pair {
  display: flex;
  align-items: center;
  gap: 6px;
}
.grow {
  flex: 1;
}
</style>
