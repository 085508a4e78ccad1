<script setup lang="ts">
import { titleOf } from '#core/graph/check'
import { useSheet } from './useSheet'

/** Which draws are rolled: all, or those of some nodes. */
const sheet = useSheet()
const chosen = computed(() => sheet.drawing.filter(n => sheet.only.includes(n.id)))
const words = computed(() => {
  const [one] = chosen.value
  if (!one) return 'All draws'
  return chosen.value.length === 1 ? titleOf(one) : `${chosen.value.length} nodes`
})
</script>

<template>
  <UPopover :content="{ side: 'bottom', align: 'start' }">
    <UButton
      variant="outline"
      size="xs"
      trailing-icon="i-lucide-chevron-down"
      :aria-label="`Draws that are rolled: ${words}`"
    >
      {{ words }}
    </UButton>
    <template #content>
      <section class="draws" aria-label="Draws that are rolled">
        <UCheckbox label="All draws" :model-value="!chosen.length" @update:model-value="sheet.only = []" />
        <fieldset>
          <legend class="ub-quiet">Or those of some nodes alone</legend>
          <UCheckbox
            v-for="n in sheet.drawing"
            :key="n.id"
            :label="titleOf(n)"
            :model-value="sheet.only.includes(n.id)"
            @update:model-value="sheet.toggleDraw(n.id)"
          />
        </fieldset>
      </section>
    </template>
  </UPopover>
</template>

<style scoped>
.draws {
  display: grid;
  gap: 10px;
  width: 260px;
  max-height: 420px;
  padding: 12px 14px;
  overflow-y: auto;
  font-size: 13px;
}
fieldset {
  display: grid;
  gap: 4px;
}
legend {
  padding-bottom: 4px;
}
</style>
