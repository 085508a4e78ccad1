import type { H3Event } from 'h3'
import { refuse } from '../utils/requests'
import { admit, noted } from './admit'
import type { Declaration } from './declare'

/**
 * A route with what it declares. The person's rights and the project's lock are looked at before `handle` runs; what
 * it did goes into the trail once it has succeeded. The build refuses a route that is declared in any other way.
 */
export function route<T>(declared: Declaration, handle: (event: H3Event) => Promise<T> | T) {
  return defineEventHandler(async event => {
    const refusal = await admit(event, declared)
    if (refusal) throw refuse(...refusal)
    const answer = await handle(event)
    if (declared.does) await noted(event, declared.does)
    return answer
  })
}
