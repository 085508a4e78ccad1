import { followSignIn } from '../people/useMe'
import { liesUnder } from '../shared/request'

/** Where the server is to be asked, and what happens when it wants to know who asks. */
export default defineNuxtPlugin(() => {
  liesUnder(useRuntimeConfig().app.baseURL)
  followSignIn()
})
