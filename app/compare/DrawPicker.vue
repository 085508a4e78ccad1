<script setup lang="ts">
import { titleOf } from '#core/graph/check'
import PickList from './PickList.vue'
import { useSheet } from './useSheet'

/** Which draws are rolled: all, or those of some nodes. */
const sheet = useSheet()
const chosen = computed(() => sheet.drawing.filter(n => sheet.only.includes(n.id)))
const words = computed(() => {
  const [one] = chosen.value
  if (!one) return 'All draws'
  return chosen.value.length === 1 ? titleOf(one) : `${chosen.value.length} nodes`
})
const groups = computed(() => [
  { title: 'Or those of some nodes alone', choices: sheet.drawing.map(n => ({ id: n.id, title: titleOf(n) })) },
])
</script>

<template>
  <PickList
    :words="words"
    label="Draws that are rolled"
    :groups="groups"
    :chosen="new Set(sheet.only)"
    @toggle="sheet.toggleDraw"
  >
    <UCheckbox label="All draws" :model-value="!chosen.length" @update:model-value="sheet.only = []" />
  </PickList>
</template>
