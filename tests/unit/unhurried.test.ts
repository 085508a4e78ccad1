import { describe, expect, it } from 'vitest'
import { Unhurried } from '../../app/shared/unhurried'

/** Work of so many pieces, each of which is noted. */
function* pieces(log: string[], name: string, count: number): Generator<void, string> {
  for (let i = 0; i < count; i++) {
    log.push(`${name}${i}`)
    yield
  }
  return name
}
/** Node hears a thousand messages of one port before it turns to the next. */
const MANY = 4000
/** A message of this thread, as another thread would send one. */
const message = (told: () => void): void => {
  const { port1, port2 } = new MessageChannel()
  port1.onmessage = () => {
    told()
    port1.close()
  }
  port2.postMessage(null)
}

describe('work without haste', () => {
  it('comes to its end, and messages are heard in between', async () => {
    const log: string[] = []
    message(() => log.push('heard'))
    const work = new Unhurried(0).take(pieces(log, 'a', MANY))
    expect(log).toEqual(['a0'])
    expect(await work).toBe('a')
    expect(log.filter(l => l !== 'heard')).toHaveLength(MANY)
    expect(log.indexOf('heard')).toBeGreaterThan(0)
    expect(log.indexOf('heard')).toBeLessThan(MANY)
  })
  it('is given up after the piece that is being done, once something is asked for at once; what comes later is done', async () => {
    const log: string[] = []
    const unhurried = new Unhurried(0)
    const first = unhurried.take(pieces(log, 'a', MANY))
    const second = unhurried.take(pieces(log, 'b', MANY))
    message(() => {
      unhurried.hurry()
      log.push('hurry')
    })
    expect(await Promise.all([first, second])).toEqual([null, null])
    expect(log.length).toBeLessThan(MANY)
    // Nothing of it is done after that.
    expect(log.at(-1)).toBe('hurry')
    expect(await unhurried.take(pieces(log, 'c', 3))).toBe('c')
    expect(log.slice(-3)).toEqual(['c0', 'c1', 'c2'])
  })
  it('is given up for work on another state, and not for more on the same', async () => {
    const log: string[] = []
    const unhurried = new Unhurried(0)
    const first = unhurried.take(pieces(log, 'a', MANY), 'one')
    const again = unhurried.take(pieces(log, 'b', 5), 'one')
    expect(await again).toBe('b')
    const other = unhurried.take(pieces(log, 'c', 5), 'another')
    expect(await Promise.all([first, other])).toEqual([null, 'c'])
    expect(await unhurried.take(pieces(log, 'd', 5))).toBe('d')
  })
  it('takes many short pieces at a time', async () => {
    const log: string[] = []
    message(() => log.push('heard'))
    await new Unhurried(60_000).take(pieces(log, 'a', MANY))
    expect(log).toHaveLength(MANY)
  })
  it('is waited for by what needs its state, whether it comes to its end or not', async () => {
    const log: string[] = []
    const unhurried = new Unhurried(0)
    const ends = [unhurried.take(pieces(log, 'a', 5)), unhurried.take(pieces(log, 'b', 9))]
    await unhurried.done()
    expect(log).toHaveLength(14)
    expect(await Promise.all(ends)).toEqual(['a', 'b'])
    void unhurried.take(pieces(log, 'c', MANY))
    unhurried.hurry()
    await unhurried.done()
    expect(log).toHaveLength(15)
  })
  it('fails as its work does', async () => {
    const failing = (function* (): Generator<void, number> {
      yield
      throw new Error('It broke.')
    })()
    const unhurried = new Unhurried(0)
    await expect(unhurried.take(failing)).rejects.toThrow('It broke.')
    await unhurried.done()
  })
})
