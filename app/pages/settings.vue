<script setup lang="ts">
import TrailList from '../people/TrailList.vue'
import { useMe } from '../people/useMe'
import PeoplePanel from '../settings/PeoplePanel.vue'
import StorePanel from '../settings/StorePanel.vue'
import { request } from '../shared/request'

useHead({ title: 'Settings · Ubblet' })
const { mayManage } = useMe()
interface Health {
  ok: boolean
  problems?: string[]
  disk?: number | null
  queue?: { waiting: number; running: number } | null
}
const health = shallowRef<Health>()
const problem = ref('')
/** The server's state in a sentence. */
const words = computed(() => {
  const { disk, queue } = health.value ?? {}
  const room = disk ? `; the disk has ${(disk / 2 ** 30).toFixed(1)} GB left` : ''
  const made = queue ? `; deliveries: ${queue.running} under way, ${queue.waiting} waiting` : ''
  return `All is well${room}${made}.`
})
onMounted(async () => {
  try {
    health.value = await request<Health>('/api/health')
  } catch (error) {
    problem.value = (error as Error).message
  }
})
</script>

<template>
  <main class="settings">
    <p><UButton to="/" color="neutral" variant="link" icon="i-lucide-arrow-left" class="back">All projects</UButton></p>
    <h1>Settings of this server</h1>
    <section aria-labelledby="state-title">
      <h2 id="state-title">State</h2>
      <UAlert
        v-if="problem"
        color="neutral"
        variant="outline"
        icon="i-lucide-triangle-alert"
        :title="problem"
        role="alert"
      />
      <p v-else-if="health" role="status">{{ words }}</p>
    </section>
    <StorePanel />
    <PeoplePanel />
    <section v-if="mayManage" aria-labelledby="trail-title">
      <h2 id="trail-title">Who did what</h2>
      <TrailList />
    </section>
  </main>
</template>

<style scoped>
.settings {
  max-width: 860px;
  margin: 0 auto;
  padding: 22px 28px 60px;
  display: grid;
  gap: 26px;
}
.back {
  margin-left: -10px;
}
h1 {
  font-size: 22px;
  font-weight: 600;
}
h2 {
  font-size: 17px;
  font-weight: 600;
  padding-bottom: 6px;
}
</style>
