import { createStore, del, entries, set } from 'idb-keyval'
import * as z from 'zod'
import { LookSchema, type Look } from '#core/graph/look'
import { preparationSchema, type Preparation } from '#core/mesh/preparation'

/** What a window has not been able to save yet, kept by the browser until it has. */
const draftSchema = z.object({
  project: z.string(),
  /** Missing in drafts from before a project had several. */
  lookId: z.string().optional(),
  window: z.string(),
  base: z.number().int(),
  at: z.number(),
  look: LookSchema,
  preparation: preparationSchema,
})
export type Draft = z.infer<typeof draftSchema>

/** This window, for as long as its page is there. */
export const THIS_WINDOW = `w${crypto.getRandomValues(new Uint32Array(2)).join('-')}`
const lockOf = (window: string): string => `ubblet window ${window}`

let database: ReturnType<typeof createStore> | undefined
const drafts = (): ReturnType<typeof createStore> => (database ??= createStore('ubblet', 'drafts'))

const keyOf = (project: string, lookId: string | undefined, window: string): string =>
  [project, ...(lookId ? [lookId] : []), window].join(' ')

/** A lock that ends with the page: others can tell by it whether a draft still has its window. */
let announced = false
function announce(): void {
  if (announced || !('locks' in navigator)) return
  announced = true
  void navigator.locks.request(lockOf(THIS_WINDOW), () => new Promise(() => {}))
}

/** Keeps what is not saved. A browser that cannot (a private window, no room) is told of, not hidden. */
export async function keepDraft(
  project: string,
  lookId: string,
  base: number,
  { look, preparation }: { look: Look; preparation: Preparation },
): Promise<boolean> {
  announce()
  const draft: Draft = { project, lookId, window: THIS_WINDOW, base, at: Date.now(), look, preparation }
  return set(keyOf(project, lookId, THIS_WINDOW), JSON.parse(JSON.stringify(draft)), drafts()).then(
    () => true,
    () => false,
  )
}

/** Forgets what this window kept of a look: it is saved. */
export const dropDraft = (project: string, lookId: string | undefined, window = THIS_WINDOW): Promise<void> =>
  del(keyOf(project, lookId, window), drafts()).catch(() => {})

/** How long a window that is being closed may take until its lock is free, in ms. */
const LEAVING = 1500
/** Whether a window is gone. One that is just being closed is waited for. */
async function isGone(window: string): Promise<boolean> {
  if (!('locks' in navigator)) return true
  const signal = AbortSignal.timeout(LEAVING)
  return navigator.locks.request(lockOf(window), { signal }, () => true).catch(() => false)
}

/**
 * The newest draft of a look, or of any look of a project, whose window is gone, if there is one; older ones stay until
 * this one is saved.
 */
export async function orphanedDraft(project: string, lookId?: string): Promise<Draft | undefined> {
  const all = await entries<string, unknown>(drafts()).catch(() => [])
  const read = all.flatMap(([, value]) => draftSchema.safeParse(value).data ?? [])
  const meant = (d: Draft): boolean => d.project === project && (!lookId || !d.lookId || d.lookId === lookId)
  const others = read.filter(d => meant(d) && d.window !== THIS_WINDOW).sort((a, b) => b.at - a.at)
  const gone = await Promise.all(others.map(d => isGone(d.window)))
  return others.find((_, i) => gone[i])
}
