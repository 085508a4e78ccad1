<script setup lang="ts">
import * as z from 'zod'
import { useMe } from '../people/useMe'
import { request } from '../shared/request'

type Role = 'look' | 'work' | 'manage'
interface User {
  name: string
  role: Role
  made: number
}
interface Group {
  name: string
  members: string[]
}
interface Token {
  id: string
  title: string
  made: number
  used: number | null
  user: string
  scope: 'look' | 'work'
  ends: number
}

const { me, mayManage } = useMe()
const users = shallowRef<User[]>([])
const groups = shallowRef<Group[]>([])
const tokens = shallowRef<Token[]>([])
const problem = ref('')
const done = ref('')
const shownOnce = ref('')
const removing = ref('')
const ROLES: { value: Role; label: string }[] = [
  { value: 'look', label: 'Look: opens and downloads' },
  { value: 'work', label: 'Work: changes projects, delivers' },
  { value: 'manage', label: 'Manage: also people and room' },
]
const password = z.string().min(10, 'A password has at least 10 characters.').max(200)
const newUserSchema = z.object({
  name: z.string().trim().min(1, 'A user needs a name.').max(60),
  password,
  role: z.enum(['look', 'work', 'manage']),
})
const newUser = reactive({ name: '', password: '', role: 'work' as Role })
const ownSchema = z.object({ before: z.string().min(1, 'Type your password until now.'), password })
const own = reactive({ before: '', password: '' })
const newToken = reactive({ title: '', scope: 'look' as Token['scope'], days: 90 })
const SCOPES: { value: Token['scope']; label: string }[] = [
  { value: 'look', label: 'Look: opens and downloads' },
  { value: 'work', label: 'Work: changes projects, delivers' },
]
const DAYS = [7, 30, 90, 366].map(value => ({ value, label: value === 366 ? 'a year' : `${value} days` }))

/** Does something on the server, shows the lists as they are then, or why it did not work. */
async function act(work: () => Promise<string>): Promise<void> {
  problem.value = ''
  done.value = ''
  try {
    done.value = await work()
    await load()
  } catch (error) {
    problem.value = (error as Error).message
  }
}
async function load(): Promise<void> {
  if (mayManage.value) {
    users.value = await request<User[]>('/api/users')
    groups.value = await request<Group[]>('/api/groups')
  }
  tokens.value = await request<Token[]>(mayManage.value ? '/api/tokens?all' : '/api/tokens')
}
watch(
  me,
  now => {
    if (now?.name) void act(async () => '')
  },
  { immediate: true },
)

const at = (name: string): string => `/api/users/${encodeURIComponent(name)}`
const addUser = () =>
  act(async () => {
    await request('/api/users', { method: 'POST', json: { ...newUser } })
    const added = `${newUser.name} may sign in now.`
    Object.assign(newUser, { name: '', password: '' })
    return added
  })
const setRole = (u: User, role: Role) =>
  act(async () => {
    await request(at(u.name), { method: 'PATCH', json: { role } })
    return `${u.name} has the role ${role}, and signs in again.`
  })
const removeUser = (u: User) =>
  act(async () => {
    await request(at(u.name), { method: 'DELETE' })
    return `${u.name} may not sign in any more.`
  })
const groupAt = (name: string): string => `/api/groups/${encodeURIComponent(name)}`
const setMembers = (name: string, members: string[]) =>
  act(async () => {
    await request(groupAt(name), { method: 'PUT', json: { members } })
    newGroup.value = ''
    return `In ${name} there are: ${members.join(', ') || 'nobody yet'}.`
  })
const removeGroup = (g: Group) =>
  act(async () => {
    await request(groupAt(g.name), { method: 'DELETE' })
    return `The group ${g.name} is removed.`
  })
const newGroup = ref('')
const changeOwn = () =>
  act(async () => {
    await request(at(me.value!.name!), { method: 'PATCH', json: { password: own.password, before: own.before } })
    Object.assign(own, { before: '', password: '' })
    return 'Your password is changed, and your tokens have ended; sign in again.'
  })
const addToken = () =>
  act(async () => {
    const made = await request<{ token: string }>('/api/tokens', { method: 'POST', json: { ...newToken } })
    shownOnce.value = made.token
    newToken.title = ''
    return 'Keep the token: it is shown only now.'
  })
const endToken = (t: Token) =>
  act(async () => {
    await request(`/api/tokens/${t.id}`, { method: 'DELETE' })
    return `The token "${t.title}" has ended.`
  })
const date = (t: number | null): string =>
  t ? new Date(t).toLocaleDateString('en-US', { year: 'numeric', month: 'short', day: 'numeric' }) : 'never'
</script>

<template>
  <section aria-labelledby="people-title">
    <h2 id="people-title">People</h2>
    <p v-if="me && !me.signIn" class="ub-quiet">
      This server is used by this machine alone, and nobody signs in. A page in the documents says how to run it for a
      studio.
    </p>
    <UAlert
      v-if="problem"
      color="neutral"
      variant="outline"
      icon="i-lucide-triangle-alert"
      :title="problem"
      role="alert"
    />
    <p v-if="done" role="status">{{ done }}</p>

    <template v-if="me?.signIn && mayManage">
      <ul aria-label="Who may sign in">
        <li v-for="u in users" :key="u.name">
          <b>{{ u.name }}</b>
          <USelect
            :model-value="u.role"
            :items="ROLES"
            size="sm"
            :aria-label="`Role of ${u.name}`"
            class="role"
            @update:model-value="setRole(u, $event as Role)"
          />
          <span class="ub-quiet">since {{ date(u.made) }}</span>
          <UButton v-if="removing !== u.name" size="xs" color="neutral" variant="link" @click="removing = u.name"
            >Remove</UButton
          >
          <UButton v-else size="xs" color="neutral" variant="outline" @click="removeUser(u)" @blur="removing = ''"
            >Remove {{ u.name }}?</UButton
          >
        </li>
      </ul>
      <UForm :validate-on="[]" :schema="newUserSchema" :state="newUser" class="row" @submit="addUser">
        <UFormField label="Name" name="name"><UInput v-model="newUser.name" autocomplete="off" /></UFormField>
        <UFormField label="Password" name="password"
          ><UInput v-model="newUser.password" type="password" autocomplete="new-password"
        /></UFormField>
        <UFormField label="Role" name="role"><USelect v-model="newUser.role" :items="ROLES" class="role" /></UFormField>
        <UButton type="submit" color="neutral" variant="outline">Add</UButton>
      </UForm>
    </template>

    <template v-if="me?.signIn && mayManage">
      <h3>Groups</h3>
      <p class="ub-quiet">A project that is not open to everybody is open to people and to groups of them.</p>
      <ul v-if="groups.length" aria-label="Groups">
        <li v-for="g in groups" :key="g.name">
          <b>{{ g.name }}</b>
          <USelectMenu
            :model-value="g.members"
            :items="users.map(u => u.name)"
            multiple
            size="sm"
            placeholder="Nobody yet"
            :aria-label="`Who is in ${g.name}`"
            class="role"
            @update:model-value="setMembers(g.name, $event)"
          />
          <UButton size="xs" color="neutral" variant="link" :aria-label="`Remove ${g.name}`" @click="removeGroup(g)"
            >Remove</UButton
          >
        </li>
      </ul>
      <form class="row" @submit.prevent="setMembers(newGroup, [])">
        <UFormField label="Name of the group"><UInput v-model="newGroup" maxlength="60" required /></UFormField>
        <UButton type="submit" color="neutral" variant="outline">Add a group</UButton>
      </form>
    </template>

    <template v-if="me?.name">
      <h3>Your password</h3>
      <UForm :validate-on="[]" :schema="ownSchema" :state="own" class="row" @submit="changeOwn">
        <UFormField label="Password until now" name="before"
          ><UInput v-model="own.before" type="password" autocomplete="current-password"
        /></UFormField>
        <UFormField label="New password" name="password"
          ><UInput v-model="own.password" type="password" autocomplete="new-password"
        /></UFormField>
        <UButton type="submit" color="neutral" variant="outline">Change</UButton>
      </UForm>
      <h3>Tokens for scripts</h3>
      <p class="ub-quiet">
        A script sends <code class="num">Authorization: Bearer TOKEN</code> and may do what its scope says, and never
        more than you. Tokens change no passwords and make no tokens.
      </p>
      <p v-if="shownOnce" role="status">
        <code class="num token">{{ shownOnce }}</code>
      </p>
      <ul v-if="tokens.length" aria-label="Tokens">
        <li v-for="t in tokens" :key="t.id">
          <b>{{ t.title }}</b>
          <span class="ub-quiet">
            <template v-if="t.user !== me.name">of {{ t.user }}, </template>{{ t.scope }}, made {{ date(t.made) }}, last
            used {{ date(t.used) }}, ends {{ date(t.ends) }}
          </span>
          <UButton size="xs" color="neutral" variant="link" @click="endToken(t)">End it</UButton>
        </li>
      </ul>
      <form class="row" @submit.prevent="addToken">
        <UFormField label="What it is for"><UInput v-model="newToken.title" maxlength="120" required /></UFormField>
        <UFormField label="What it may do"
          ><USelect v-model="newToken.scope" :items="SCOPES" class="role"
        /></UFormField>
        <UFormField label="It ends after"><USelect v-model="newToken.days" :items="DAYS" /></UFormField>
        <UButton type="submit" color="neutral" variant="outline">Make a token</UButton>
      </form>
    </template>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 10px;
}
h2 {
  font-size: 17px;
  font-weight: 600;
}
h3 {
  font-weight: 600;
  padding-top: 8px;
}
li {
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 5px 0;
  border-bottom: 1px solid var(--ub-line);
}
li b {
  min-width: 120px;
  font-weight: 500;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: end;
}
.role {
  width: 250px;
}
.token {
  overflow-wrap: anywhere;
  user-select: all;
}
</style>
