<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'

/** Said once, beside the work and not over it. */
const seen = useLocalStorage('ubblet has been here', false)
</script>

<template>
  <aside v-if="!seen" class="first" aria-label="First steps">
    <b>In a minute</b>
    <ol>
      <li>
        <b>Steps</b> above are what is laid over what, from the base at the left to the last. Click one: its settings
        stand under the stage.
      </li>
      <li><b>Drag a number</b> and watch the mesh. Shift is finer, Alt coarser; a double click types.</li>
      <li>
        <b>Cards</b> below show what each node puts out, on the mesh. Double-click the canvas to add one, drag from a
        tab to wire it.
      </li>
      <li>The <b>eye</b> on a card shows that value on the stage. <b>Ctrl Z</b> takes anything back.</li>
      <li><b>/</b> finds every action, <b>?</b> lists the keys.</li>
    </ol>
    <UButton variant="link" @click="seen = true">Understood</UButton>
  </aside>
</template>

<style scoped>
.first {
  position: absolute;
  right: 12px;
  bottom: 10px;
  z-index: 10;
  width: 300px;
  padding: 10px 14px;
  font-size: 12px;
  background: var(--ub-panel);
  border: 1px solid var(--ub-line-strong);
}
.first b {
  font-weight: 600;
}
ol {
  padding: 4px 0 6px;
  display: grid;
  gap: 4px;
  list-style: decimal inside;
}
</style>
