/**
 * How many wrong passwords are taken for one name from one address, and from one address in all, before both must wait.
 */
const MOST_FOR_NAME = 8
const MOST_FOR_ADDRESS = 40
/** For how long a wrong password counts, in milliseconds. */
const COUNTS_FOR = 15 * 60_000

/** Times of wrong passwords, by what they were tried for. */
const wrong = new Map<string, number[]>()

function recent(key: string, now: number): number[] {
  const times = (wrong.get(key) ?? []).filter(t => now - t < COUNTS_FOR)
  if (times.length) wrong.set(key, times)
  else wrong.delete(key)
  return times
}

const keysOf = (address: string, name: string): [string, number][] => [
  [`name ${name.toLowerCase()} ${address}`, MOST_FOR_NAME],
  [`address ${address}`, MOST_FOR_ADDRESS],
]

/** How many seconds an address must wait before it may try a name again; 0 where it need not. */
export function mustWait(address: string, name: string, now = Date.now()): number {
  const waits = keysOf(address, name).map(([key, most]) => {
    const times = recent(key, now)
    return times.length < most ? 0 : Math.ceil((times[times.length - most]! + COUNTS_FOR - now) / 1000)
  })
  return Math.max(...waits)
}

/** Counts a wrong password. */
export function triedInVain(address: string, name: string, now = Date.now()): void {
  for (const [key] of keysOf(address, name)) wrong.set(key, [...recent(key, now), now])
}

/** A right password ends the count of its name. */
export function triedRightly(address: string, name: string): void {
  wrong.delete(keysOf(address, name)[0]![0])
}
