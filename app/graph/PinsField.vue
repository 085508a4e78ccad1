<script setup lang="ts">
import type { Pin } from '#core/graph/types'

const props = defineProps<{
  label: string
  value: readonly Pin[]
  node: string
  param: string
  help?: string
  /** Whether parts can be rolled again. */
  rolls: boolean
}>()
const emit = defineEmits<{ change: [value: Pin[]]; settle: [] }>()
const project = useProject()
const parts = computed(() => project.tables?.parts.parts ?? [])
const named = computed(() => new Map(parts.value.map(p => [p.key, p.name])))
const picking = computed({
  get: () => project.picking?.node === props.node && project.picking.param === props.param,
  set: (on: boolean) => {
    project.picking = on ? { node: props.node, param: props.param } : null
  },
})
onBeforeUnmount(() => {
  if (picking.value) picking.value = false
})

const change = (part: string, next: Partial<Pin>): void =>
  emit(
    'change',
    props.value.map(p => (p.part === part ? { ...p, ...next } : p)),
  )
function once(value: Pin[]): void {
  emit('change', value)
  emit('settle')
}
/** What is not pinned yet. */
const free = computed(() =>
  parts.value.filter(p => !props.value.some(q => q.part === p.key)).map(p => ({ value: p.key, title: p.name })),
)
function add(part: string): void {
  if (part) once([...props.value, props.rolls ? { part, roll: 1 } : { part, value: 0 }])
}
/** A part has a value or is rolled again, never both. */
const give = (p: Pin): void => once(props.value.map(q => (q === p ? { part: p.part, value: 0.5 } : q)))
const roll = (p: Pin): void => once(props.value.map(q => (q === p ? { part: p.part, roll: (p.roll ?? 0) + 1 } : q)))
</script>

<template>
  <div role="group" :aria-label="label">
    <div class="ub-row">
      <span :title="help">{{ label }}</span>
      <span class="add">
        <ChoiceField value="" label="Part by name" :choices="free" none="Part by name" @change="add" />
        <UButton variant="link" :aria-pressed="picking" :class="{ on: picking }" @click="picking = !picking">
          {{ picking ? 'Click parts on the stage' : 'Pick on the stage' }}
        </UButton>
      </span>
    </div>
    <div v-for="p in value" :key="p.part" class="pin">
      <NumberField
        v-if="p.value !== undefined"
        :label="named.get(p.part) ?? `${p.part} (not here)`"
        :value="p.value"
        :shape="{ min: 0, max: 1, step: 0.01 }"
        @change="change(p.part, { value: $event })"
        @settle="emit('settle')"
      />
      <p v-else class="rolled">
        <span>{{ named.get(p.part) ?? `${p.part} (not here)` }}</span
        ><span class="ub-quiet">rolled {{ p.roll ?? 0 }} {{ p.roll === 1 ? 'time' : 'times' }}</span>
      </p>
      <span class="tools">
        <UButton v-if="rolls" variant="link" @click="roll(p)">Roll</UButton>
        <UButton variant="link" v-if="p.value === undefined" @click="give(p)">Give a value</UButton>
        <UButton
          variant="bare"
          class="x"
          :aria-label="`Let go of ${named.get(p.part) ?? p.part}`"
          @click="once(value.filter(q => q !== p))"
        >
          <UIcon name="i-lucide-x" />
        </UButton>
      </span>
    </div>
  </div>
</template>

<style scoped>
.add {
  display: flex;
  gap: 10px;
  align-items: center;
}
.on {
  color: var(--ub-accent);
}
.pin {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 8px;
  align-items: center;
  padding-right: 26px;
}
.rolled {
  display: grid;
  grid-template-columns: 112px 1fr;
  gap: 6px;
}
.rolled span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.tools {
  display: flex;
  gap: 10px;
  align-items: center;
}
.x {
  width: 18px;
  height: 18px;
  display: grid;
  place-items: center;
  color: var(--ub-quiet);
}
</style>
