<script setup lang="ts">
import { titleOf } from '#core/graph/check'
import { kindFor, outputType } from '#core/graph/kinds'
import { nodeOf } from '#core/graph/find'
import { count } from '../shared/units'
import type { Tone } from './useLooking'

/** What the stage shows other than the look as it is, and which parts are chosen on it. */
const project = useProject()
const mesh = useMesh()
const looking = useLooking()
const { analysis } = useAnalysis()
const seen = computed(() => looking.probe && analysis.value?.ports[`${looking.probe.node}/${looking.probe.port}`])
const figure = (x: number): string => Number(x.toPrecision(3)).toString()
const probed = computed(() => {
  const { probe } = looking
  const node = probe && nodeOf(project.page, probe.node)
  return node && probe
    ? {
        title: `${titleOf(node)}: ${kindFor(node)?.outputs[probe.port]?.title ?? probe.port}`,
        number: ['value', 'vector'].includes(outputType(node, kindFor(node)!.outputs[probe.port]!)),
      }
    : null
})
const soloTitle = computed(() =>
  looking.solo && nodeOf(project.look, looking.solo) ? titleOf(nodeOf(project.look, looking.solo)!) : '',
)
const chosen = computed(() => [...mesh.selected].map(i => project.tables?.parts.parts[i]?.name).filter(Boolean))
const TONES: { value: Tone; title: string }[] = [
  { value: 'asIs', title: '0 to 1' },
  { value: 'fitted', title: 'Fitted' },
  { value: 'falseColors', title: 'False colors' },
]
</script>

<template>
  <div v-if="probed" class="probe" role="status">
    <b>{{ probed.title }}</b>
    <span v-if="seen && probed.number" class="num"
      >{{ figure(seen.low) }} – {{ figure(seen.high) }} · mean {{ figure(seen.mean[0]) }} · above ½ on
      {{ Math.round(seen.covered * 100) }} %</span
    >
    <ChoiceBar
      v-if="probed.number"
      :value="looking.tone"
      :choices="TONES"
      label="Shown as"
      @change="looking.tone = $event"
    />
    <UTooltip text="Back to the result" :kbds="['P']"
      ><UButton variant="link" @click="looking.probe = null">Back to the result</UButton></UTooltip
    >
  </div>
  <p v-else-if="soloTitle" class="probe" role="status">
    <b>Only {{ soloTitle }}</b> over the base
    <UButton variant="link" @click="looking.solo = null">Show all steps</UButton>
  </p>
  <p v-if="looking.dropper" class="probe" role="status">
    Click the color for {{ looking.dropper.label }}
    <UButton variant="link" @click="looking.dropper = null">Leave it</UButton>
  </p>
  <p v-if="chosen.length" class="chosen">
    {{ chosen.length === 1 ? chosen[0] : count(chosen.length, 'part') }}
    <UTooltip text="Isolate" :kbds="['I']"><UButton variant="link" @click="mesh.isolate()">Isolate</UButton></UTooltip
    ><UTooltip text="Hide" :kbds="['H']"
      ><UButton variant="link" @click="mesh.hide([...mesh.hidden, ...mesh.selected])"> Hide</UButton></UTooltip
    ><UButton variant="link" @click="mesh.select([])">Let go</UButton>
  </p>
</template>

<style scoped>
.probe {
  position: absolute;
  left: 10px;
  right: 10px;
  top: 8px;
  width: fit-content;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  align-items: center;
  padding: 3px 10px;
  font-size: 12px;
  background: var(--ub-card);
}
.probe b {
  font-weight: 500;
}
.probe .num {
  font-size: 11px;
  color: var(--ub-quiet);
}
.probe span[role] {
  display: flex;
  gap: 10px;
}
.chosen {
  position: absolute;
  left: 10px;
  bottom: 8px;
  display: flex;
  gap: 12px;
  padding: 2px 10px;
  font-size: 12px;
  background: var(--ub-card);
  max-width: 90%;
}
</style>
