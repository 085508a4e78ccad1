<script setup lang="ts">
import { request } from '../shared/request'
import type { Grant } from './access'
import { notNamed, withoutGrant, withGrant } from './access'

/** Whom a project is open to, to look at, and to change for whoever made it or manages. */
const { project } = defineProps<{ project: { id: string; name: string } | undefined }>()
const emit = defineEmits<{ changed: []; close: [] }>()

interface Opened {
  access: 'all' | 'named'
  grants: Grant[]
  owner: string | null
  mayChange: boolean
}
const opened = shallowRef<Opened>()
const known = shallowRef<{ users: string[]; groups: string[] }>({ users: [], groups: [] })
const problem = ref('')
const path = computed(() => `/api/projects/${project?.id}/access`)
const ACCESS = [
  { value: 'all', label: 'Everybody who may sign in, with the role that they have' },
  { value: 'named', label: 'Those who are named here, and those who manage' },
]
const ROLES = [
  { value: 'look', label: 'Look' },
  { value: 'work', label: 'Work' },
  { value: 'manage', label: 'Manage' },
]
/** People and groups who are not named yet. */
const choices = computed(() => notNamed(known.value, opened.value?.grants ?? []))

watch(
  () => project?.id,
  async id => {
    opened.value = undefined
    problem.value = ''
    if (!id) return
    try {
      const [now, people] = await Promise.all([
        request<Opened>(path.value),
        request<{ users: string[]; groups: string[] }>('/api/people'),
      ])
      opened.value = now
      known.value = people
    } catch (error) {
      problem.value = (error as Error).message
    }
  },
  { immediate: true },
)

async function keep(change: Partial<Pick<Opened, 'access' | 'grants'>>): Promise<void> {
  if (!opened.value) return
  const { access, grants } = { ...opened.value, ...change }
  try {
    await request(path.value, { method: 'PUT', json: { access, grants } })
    opened.value = { ...opened.value, access, grants }
    problem.value = ''
    emit('changed')
  } catch (error) {
    problem.value = (error as Error).message
  }
}
function add(key: string): void {
  void keep({ grants: withGrant(opened.value!.grants, key) })
}
const setRole = (grant: Grant, role: Grant['role']) =>
  keep({ grants: opened.value!.grants.map(g => (g === grant ? { ...g, role } : g)) })
</script>

<template>
  <UModal
    :open="project !== undefined"
    :title="`Whom ${project?.name} is open to`"
    description="Whoever it is not open to does not see that it is there."
    @update:open="emit('close')"
  >
    <template #body>
      <p v-if="problem" class="ub-warn" role="alert">{{ problem }}</p>
      <div v-if="opened" class="access">
        <URadioGroup
          :model-value="opened.access"
          :items="ACCESS"
          :disabled="!opened.mayChange"
          legend="Open to"
          @update:model-value="keep({ access: $event as Opened['access'] })"
        />
        <template v-if="opened.access === 'named'">
          <ul v-if="opened.grants.length" aria-label="Who is named">
            <li v-for="g in opened.grants" :key="`${g.kind} ${g.name}`">
              <UIcon :name="g.kind === 'group' ? 'i-lucide-users' : 'i-lucide-user'" aria-hidden="true" />
              <b>{{ g.name }}</b>
              <span class="ub-quiet">{{ g.kind === 'group' ? 'group' : '' }}</span>
              <USelect
                :model-value="g.role"
                :items="ROLES"
                size="sm"
                :disabled="!opened.mayChange"
                :aria-label="`Role of ${g.name}`"
                @update:model-value="setRole(g, $event as Grant['role'])"
              />
              <UButton
                v-if="opened.mayChange"
                size="xs"
                color="neutral"
                variant="link"
                :aria-label="`Remove ${g.name}`"
                @click="keep({ grants: withoutGrant(opened.grants, g) })"
                >Remove</UButton
              >
            </li>
          </ul>
          <p v-else class="ub-quiet">
            Nobody is named<template v-if="opened.owner">; {{ opened.owner }} has made it and keeps it</template>.
          </p>
          <USelect
            v-if="opened.mayChange && choices.length"
            :key="opened.grants.length"
            :items="choices"
            placeholder="Add somebody, or a group"
            aria-label="Add somebody, or a group"
            @update:model-value="add($event as string)"
          />
        </template>
        <p v-if="!opened.mayChange" class="ub-quiet">Whoever made the project changes this, and those who manage.</p>
      </div>
    </template>
  </UModal>
</template>

<style scoped>
.access {
  display: grid;
  gap: 14px;
}
li {
  display: grid;
  grid-template-columns: 20px 1fr auto 110px auto;
  gap: 8px;
  align-items: center;
  padding: 4px 0;
}
b {
  font-weight: 500;
}
</style>
