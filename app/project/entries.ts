import type { Look } from '#core/graph/look'
import type { Preparation } from '#core/mesh/preparation'

export type SaveState = 'saved' | 'waiting' | 'saving' | 'offline' | 'stale' | 'refused'

/** One of a project's looks, as it is listed. */
export interface LookEntry {
  id: string
  name: string
  removed: number | null
  thumbnail: string | null
}

export interface ProjectMeta {
  id: string
  name: string
  created: number
  changed: number
  removed: number | null
  triangles: number | null
  parts: number | null
  mesh: { hash: string; name: string } | null
  thumbnail: string | null
  /** Since when it is locked against changes, and by whom. */
  locked: number | null
  lockedBy: string | null
  /** Whom it is open to: everybody, or those who are named. */
  access: 'all' | 'named'
  /** What whoever sits here may do in it, where the server has said so. */
  role?: 'look' | 'work' | 'manage'
}

/** A project with one of its looks, as the server sends it. */
export interface Found extends ProjectMeta {
  revision: number
  looks: LookEntry[]
  lookId: string
  /** Whether there is a picture of all that the look is now. */
  pictured: boolean
  look: unknown
  preparation: unknown
  saved?: number
}

/** An old revision that is looked at. */
export interface Viewed {
  number: number
  saved: number
}

/** All that is kept of a project besides its mesh: what undo goes back over and what a save saves. */
export interface ProjectDocument {
  look: Look
  preparation: Preparation
}
