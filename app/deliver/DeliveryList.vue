<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { addressOf } from '../shared/request'
import type { Delivery } from './useDeliveries'

const deliveries = useDeliveries()
const now = ref(Date.now())
useIntervalFn(() => {
  if (deliveries.active) now.value = Date.now()
}, 1000)
function size(bytes: number): string {
  if (bytes >= 2 ** 30) return `${(bytes / 2 ** 30).toFixed(1)} GB`
  if (bytes >= 2 ** 20) return `${(bytes / 2 ** 20).toFixed(1)} MB`
  return `${Math.max(1, Math.round(bytes / 1024))} KB`
}
const time = (ms: number): string =>
  new Date(ms).toLocaleTimeString('en-US', { hour: '2-digit', minute: '2-digit', hour12: false })
const seconds = (ms: number): string =>
  ms < 90_000 ? `${Math.max(1, Math.round(ms / 1000))} s` : `${Math.round(ms / 60_000)} min`
/** What is left, from how long the part that is done took. */
const left = (d: Delivery): string =>
  d.started && d.share > 0.06 ? `about ${seconds(((now.value - d.started) * (1 - d.share)) / d.share)} left` : ''
const holds = ({ settings: s }: Delivery): string =>
  [
    ...s.meshes,
    ...s.materials.map(m => (m === 'baked' ? 'mtlx' : 'procedural mtlx')),
    ...(s.maps.length + s.extra.length ? [`${s.maps.length + s.extra.length} pictures`] : []),
    ...s.tables,
    ...(s.look ? ['look'] : []),
  ].join(', ')
const removing = ref('')
</script>

<template>
  <section class="list" aria-label="Deliveries">
    <h3>Deliveries</h3>
    <p v-if="!deliveries.list.length" class="ub-quiet">
      None yet. The server makes them one after the other, also while this page is closed.
    </p>
    <ol>
      <li v-for="d in deliveries.list" :key="d.id" :data-state="d.state">
        <div class="line"><b>{{ d.name }}</b><span class="num ub-quiet">{{ time(d.asked) }}</span></div>
        <p class="ub-quiet small">
          Revision {{ d.revision }}<template v-if="d.author"> · {{ d.author }}</template> ·
          {{ holds(d) || 'nothing' }} · <span class="num">{{ d.settings.size }}</span>
        </p>
        <template v-if="d.state === 'running'">
          <UProgress :model-value="100 * d.share" size="sm" :aria-label="`Delivery ${d.name}`" />
          <p class="small" role="status">
            <span class="num">{{ Math.round(d.share * 100) }} %</span> {{ d.what
            }}<template v-if="left(d)"> · {{ left(d) }}</template>
          </p>
        </template>
        <p v-else-if="d.state === 'waiting'" class="small">Waits for its turn</p>
        <p v-else-if="d.state === 'failed'" class="small ub-warn" role="alert">{{ d.message }}</p>
        <p v-else-if="d.state === 'canceled'" class="small">Stopped; nothing was written</p>
        <p v-else class="small">
          Complete<template v-if="d.bytes">, <span class="num">{{ size(d.bytes) }}</span></template
          ><template v-if="d.started && d.ended">
            in <span class="num">{{ seconds(d.ended - d.started) }}</span></template
          >
        </p>
        <div class="acts">
          <template v-if="d.state === 'done'">
            <a class="ub-link" :href="addressOf(deliveries.zipOf(d))" download>Download zip</a>
            <UButton variant="link" v-if="d.settings.meshes.includes('glb')" @click="deliveries.proved = d">
              Prove
            </UButton>
            <a class="ub-link" :href="addressOf(deliveries.fileOf(d, 'contact.png'))" target="_blank" rel="noopener"
              >Contact picture</a
            >
          </template>
          <UButton variant="link" v-if="d.state === 'running' || d.state === 'waiting'" @click="deliveries.cancel(d)">
            Stop
          </UButton>
          <UButton variant="link" v-if="d.state === 'failed' || d.state === 'canceled'" @click="deliveries.again(d)">
            Try again
          </UButton>
          <template v-if="d.state !== 'running'">
            <UButton variant="link" v-if="removing !== d.id" @click="removing = d.id">Remove</UButton>
            <UButton variant="link" v-else class="ub-warn" @click="deliveries.remove(d)" @blur="removing = ''">
              Remove with its files?
            </UButton>
          </template>
        </div>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.list {
  padding: 18px 16px;
  overflow-y: auto;
  border-left: 1px solid var(--ub-line);
  background: var(--ub-panel);
}
h3 {
  font-weight: 600;
  padding-bottom: 8px;
}
li {
  padding: 10px 0;
  border-bottom: 1px solid var(--ub-line);
  display: grid;
  gap: 3px;
}
.line {
  display: flex;
  justify-content: space-between;
  gap: 8px;
}
b {
  font-weight: 500;
  overflow-wrap: anywhere;
}
.small {
  font-size: 12px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  font-size: 12px;
}
</style>
