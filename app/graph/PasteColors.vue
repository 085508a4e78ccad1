<script setup lang="ts">
import { fromHex, type Triple } from '#core/color/convert'
import { hexCodes } from '#core/color/palette'

const emit = defineEmits<{ colors: [colors: Triple[]] }>()
function take(e: Event, text: string): void {
  const colors = hexCodes(text)
    .map(fromHex)
    .filter((c): c is Triple => c !== null)
  if (!colors.length) return
  e.preventDefault()
  ;(e.target as HTMLInputElement).value = ''
  emit('colors', colors)
}
</script>

<template>
  <label class="ub-row">
    <span title="Hex codes, one after the other, take the place of the colors.">Paste colors</span>
    <UInput
      class="num"
      placeholder="#1f5f56 #c9b28a …"
      spellcheck="false"
      @paste="take($event, $event.clipboardData?.getData('text/plain') ?? '')"
      @change="take($event, ($event.target as HTMLInputElement).value)"
      @keydown.stop
    />
  </label>
</template>
