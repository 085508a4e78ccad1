<script setup lang="ts">
import PickList from './PickList.vue'
import { useSheet } from './useSheet'
import { STATE_GROUPS } from './useStates'

/** Which states of the project stand on the sheet. */
const sheet = useSheet()
const chosen = computed(() => new Set(sheet.statesChosen.map(s => s.id)))
const groups = computed(() =>
  STATE_GROUPS.map(title => ({ title, choices: sheet.states.filter(s => s.group === title) })).filter(
    g => g.choices.length,
  ),
)
const words = computed(() => `${chosen.value.size} ${chosen.value.size === 1 ? 'state' : 'states'} beside the look`)
</script>

<template>
  <PickList
    :words="words"
    label="States on the sheet"
    :groups="groups"
    :chosen="chosen"
    none="There are none yet: no variants, no other looks, and no earlier revisions of this one."
    @toggle="sheet.toggleState"
  />
</template>
