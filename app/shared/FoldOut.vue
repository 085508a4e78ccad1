<script setup lang="ts">
/** Something that is seen when it is asked for. */
defineProps<{ label: string }>()
const open = ref(false)
</script>

<template>
  <UCollapsible v-model:open="open">
    <UButton variant="bare" class="inline-flex! items-center gap-1 text-(--ub-quiet)">
      <UIcon :name="open ? 'i-lucide-chevron-down' : 'i-lucide-chevron-right'" /> {{ label }}
    </UButton>
    <template #content><slot /></template>
  </UCollapsible>
</template>
