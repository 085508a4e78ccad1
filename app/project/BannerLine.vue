<script setup lang="ts">
import type { ButtonProps } from '@nuxt/ui'

/** One sentence across the page about the whole project, with what can be done about it. */
defineProps<{ warns?: boolean; actions?: ButtonProps[] }>()
</script>

<template>
  <UAlert
    :role="warns ? 'alert' : 'status'"
    color="neutral"
    variant="subtle"
    :actions="actions?.map(a => ({ size: 'xs', color: 'neutral', variant: 'outline', ...a }))"
    :ui="{
      root: 'rounded-none ring-0 border-b border-(--ub-line) bg-(--ub-card) px-3.5 py-1.5 items-center',
      wrapper: 'flex-none max-w-[80%]',
      description: ['text-[13px] opacity-100', warns ? 'text-(--ub-warn)' : 'text-(--ub-text)'],
    }"
    orientation="horizontal"
  >
    <template #description><slot /></template>
  </UAlert>
</template>
