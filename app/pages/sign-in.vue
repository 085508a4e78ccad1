<script setup lang="ts">
import * as z from 'zod'
import { placeHere } from '../people/placeHere'
import { useMe } from '../people/useMe'
import { addressOf } from '../shared/request'

useHead({ title: 'Sign in · Ubblet' })
const { me, load, signIn } = useMe()
const route = useRoute()
const problem = ref('')
const busy = ref(false)
const schema = z.object({
  name: z.string().min(1, 'Type your name.'),
  password: z.string().min(1, 'Type your password.'),
})
const state = reactive({ name: '', password: '' })

/** Back to where the server asked. */
const goOn = () => navigateTo(placeHere(String(route.query.to ?? '/')), { replace: true })
onMounted(async () => {
  await load()
  if (me.value && (!me.value.signIn || me.value.name)) await goOn()
})

async function submit(): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    await signIn(state.name, state.password)
    await goOn()
  } catch (error) {
    problem.value = (error as Error).message
    state.password = ''
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <main class="sign-in">
    <p class="mark"><img :src="addressOf('/mark.svg')" alt="" width="30" height="30" /> <b>Ubblet</b></p>
    <h1>Sign in</h1>
    <UForm :validate-on="[]" :schema="schema" :state="state" class="form" @submit="submit">
      <UFormField label="Name" name="name"
        ><UInput v-model="state.name" autocomplete="username" autofocus class="wide"
      /></UFormField>
      <UFormField label="Password" name="password"
        ><UInput v-model="state.password" type="password" autocomplete="current-password" class="wide"
      /></UFormField>
      <UAlert
        v-if="problem"
        color="neutral"
        variant="outline"
        icon="i-lucide-triangle-alert"
        :title="problem"
        role="alert"
      />
      <UButton type="submit" variant="solid" color="primary" :loading="busy" class="go">Sign in</UButton>
    </UForm>
    <p class="ub-quiet">No name yet? Whoever looks after this server can add one.</p>
  </main>
</template>

<style scoped>
.sign-in {
  max-width: 320px;
  margin: 14vh auto 0;
  display: grid;
  gap: 18px;
  padding: 0 16px;
}
.mark {
  display: flex;
  gap: 10px;
  align-items: center;
  font-size: 18px;
}
h1 {
  font-size: 22px;
  font-weight: 600;
}
.form {
  display: grid;
  gap: 14px;
}
.wide {
  width: 100%;
}
.go {
  justify-self: start;
}
</style>
