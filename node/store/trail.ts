import { and, desc, eq, lt } from 'drizzle-orm'
import { projects, trail } from './schema'
import type { Rows, Store } from './store'

/** For how long the trail is kept, in milliseconds. */
export const TRAIL_KEPT_FOR = 400 * 86_400_000

export interface Deed {
  /** Who did it; nobody has a name where nobody signs in. */
  who: string | null
  /** The id of the token by which it was done. */
  token?: string | null
  address: string
  /** What was done, such as "renamed the project". */
  did: string
  /** What is to be known besides, such as a name. */
  detail?: string | null
  project?: string | null
}

/** Writes down who did what, with the name that the project has then. */
export async function note(store: Store, deed: Deed, now = Date.now()): Promise<void> {
  await store.write(async rows => {
    const [own] = deed.project
      ? await rows.select({ name: projects.name }).from(projects).where(eq(projects.id, deed.project))
      : []
    await rows.insert(trail).values({
      at: now,
      who: deed.who,
      token: deed.token ?? null,
      address: deed.address,
      did: deed.did,
      detail: deed.detail?.slice(0, 300) ?? null,
      project: deed.project ?? null,
      projectName: own?.name ?? null,
    })
  })
}

export interface TrailAsked {
  project?: string
  /** The id of an entry: only older entries are wanted. */
  before?: number
  most: number
}

/** The trail, the newest first. */
export async function trailOf(rows: Rows, { project, before, most }: TrailAsked) {
  const ofProject = project === undefined ? undefined : eq(trail.project, project)
  const older = before === undefined ? undefined : lt(trail.id, before)
  return rows.select().from(trail).where(and(ofProject, older)).orderBy(desc(trail.id)).limit(most)
}

/** All of the trail as lines of JSON, the newest first, a page at a time. */
export async function* trailLines(rows: Rows, project?: string): AsyncGenerator<string> {
  let before: number | undefined
  for (;;) {
    const page = await trailOf(rows, {
      most: 500,
      ...(project !== undefined && { project }),
      ...(before !== undefined && { before }),
    })
    for (const { id: _, at, ...deed } of page) yield `${JSON.stringify({ at: new Date(at).toISOString(), ...deed })}\n`
    before = page.at(-1)?.id
    if (page.length < 500) return
  }
}
