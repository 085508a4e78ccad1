import { asc, eq, inArray, lte } from 'drizzle-orm'
import { tries } from './schema'
import type { Rows, Store } from './store'

/** For how long a try counts, in milliseconds. */
export const COUNTS_FOR = 15 * 60_000
/** Tries that one name has from all new browsers together, whatever their addresses. */
export const MOST_FOR_NAME = 8
/** Tries that one name has from a browser in which its user has signed in before. */
export const MOST_FOR_DEVICE = 8
/** Wrong passwords that one network may send, for all names together. */
export const MOST_FOR_NETWORK = 40

/** Who tries to sign in. */
export interface Trier {
  /** As `networkOf` gives it. */
  network: string
  name: string
  /** The browser, where the user has signed in by it before. */
  device?: string | undefined
}

/**
 * The network that an address belongs to: an IPv4 address itself; of an IPv6 address its first 64 bits, for whoever has
 * one has them all (RFC 6177).
 */
export function networkOf(address: string): string {
  const mapped = /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(address)?.[1]
  if (mapped) return mapped
  if (!address.includes(':')) return address
  const [head = '', tail] = address.split('%')[0]!.toLowerCase().split('::')
  const before = head.split(':').filter(Boolean)
  const after = tail?.split(':').filter(Boolean) ?? []
  const zeros = tail === undefined ? 0 : Math.max(0, 8 - before.length - after.length)
  const all = [...before, ...Array.from({ length: zeros }, () => '0'), ...after]
  return `${all
    .slice(0, 4)
    .map(part => parseInt(part, 16).toString(16))
    .join(':')}::/64`
}

/** Under what the tries of a name are counted, however it is written. */
const nameKey = (name: string): string => `name ${name.toLowerCase()}`

/**
 * The counters that a try adds to, with their limits. A browser in which the user has signed in before has a counter of
 * its own, so a stranger's wrong passwords do not lock the user out there.
 */
function counts({ network, name, device }: Trier): [key: string, most: number][] {
  if (device) return [[`device ${device}`, MOST_FOR_DEVICE]]
  return [
    [nameKey(name), MOST_FOR_NAME],
    [`network ${network}`, MOST_FOR_NETWORK],
  ]
}

export interface Try {
  /** Seconds that must be waited; 0 where it may go on. */
  wait: number
  /** Rows of this try: what a right password takes back. */
  rows: number[]
}

/**
 * Counts a try before its password is looked at, so that many at once do not all slip through; one that must wait is
 * not counted. Kept in the database, so a restart of the server clears nothing.
 */
export function beginTry(store: Store, trier: Trier, now = Date.now()): Promise<Try> {
  return store.write(async rows => {
    await rows.delete(tries).where(lte(tries.at, now - COUNTS_FOR))
    const waits: number[] = []
    for (const [key, most] of counts(trier)) {
      const before = await rows.select().from(tries).where(eq(tries.key, key)).orderBy(asc(tries.at))
      if (before.length >= most) waits.push(Math.ceil((before[before.length - most]!.at + COUNTS_FOR - now) / 1000))
    }
    if (waits.length) return { wait: Math.max(...waits), rows: [] }
    const made = await rows
      .insert(tries)
      .values(counts(trier).map(([key]) => ({ key, at: now })))
      .returning({ id: tries.id })
    return { wait: 0, rows: made.map(r => r.id) }
  })
}

/** A right password takes its own try back, and ends the count of its name or browser. */
export async function rightTry(store: Store, trier: Trier, { rows: own }: Try): Promise<void> {
  const key = counts(trier)[0]![0]
  await store.write(async rows => {
    await rows.delete(tries).where(eq(tries.key, key))
    if (own.length) await rows.delete(tries).where(inArray(tries.id, own))
  })
}

/** Ends the wait of a name: whoever manages has given it a new password. */
export const forgetTries = (rows: Rows, name: string) => rows.delete(tries).where(eq(tries.key, nameKey(name)))
