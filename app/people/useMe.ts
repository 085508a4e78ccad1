import { onSignInNeeded, request } from '../shared/request'

export interface Me {
  signIn: boolean
  name: string | null
  role: 'look' | 'work' | 'manage' | null
}

const me = ref<Me>()
let asked: Promise<void> | undefined

/** Who sits here, as the server knows it, and whether it wants to know. */
export function useMe() {
  const load = async (): Promise<void> => {
    me.value = await request<Me>('/api/me').catch(() => me.value)
  }
  asked ??= load()
  const mayWork = computed(() => me.value?.role !== 'look')
  const mayManage = computed(() => me.value?.role === 'manage')
  async function signIn(name: string, password: string): Promise<void> {
    await request('/api/session', { method: 'POST', json: { name, password } })
    await load()
  }
  async function signOut(): Promise<void> {
    await request('/api/session', { method: 'DELETE' })
    await load()
    await navigateTo('/sign-in')
  }
  return { me, mayWork, mayManage, load, signIn, signOut }
}

/** Goes to the page for signing in when the server asks, and back afterwards. */
export function followSignIn(): void {
  const router = useRouter()
  onSignInNeeded(() => {
    const { path, fullPath } = router.currentRoute.value
    if (path === '/sign-in') return
    // A project that is open stays: what is not saved yet is saved after signing in, in another tab or here.
    if (path.startsWith('/project/') && useProject().meta) return
    void router.push({ path: '/sign-in', query: { to: fullPath } })
  })
}
