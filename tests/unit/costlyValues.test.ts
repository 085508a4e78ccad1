import { describe, expect, it } from 'vitest'
import type { WholeValues } from '#core/evaluate/gather'
import { CostlyValues, type Seen } from '../../app/stage/costlyValues'

/** What is asked of whoever finds values, and answers that come when they are told to. */
function staged(seen: Seen) {
  const state = { seen: seen as Seen | null }
  const log: string[] = []
  const answers: ((values: WholeValues | null) => void)[] = []
  let rest = (): void => {}
  const values = new CostlyValues({
    seen: () => state.seen,
    find(of, pace, all) {
      log.push(`${pace}${all ? ' all' : ''} ${of.shape}`)
      return new Promise(resolve => answers.push(resolve))
    },
    give: (shape, found) => log.push(`give ${shape} ${found.length}`),
    rests: () =>
      new Promise(resolve => {
        rest = resolve
      }),
    lags: () => {},
  })
  const settle = () => new Promise(resolve => setTimeout(resolve))
  return {
    values,
    log,
    settle,
    see: (next: Seen | null) => (state.seen = next),
    async answer(count = 0) {
      answers.shift()!(Array.from({ length: count }, (_, ref) => ({ ref, value: 0 })))
      await settle()
    },
    async giveUp() {
      answers.shift()!(null)
      await settle()
    },
    async rest() {
      rest()
      await settle()
    },
  }
}
const mesh = {}

/** Hasty values have come, the hands rest, and exact ones are asked for. */
async function exactUnderWay() {
  const s = staged({ tables: mesh, shape: 'a' })
  s.values.soon()
  await s.answer()
  s.values.exactly()
  await s.settle()
  await s.rest()
  expect(s.log).toEqual(['hasty all a', 'give a 0', 'exact a'])
  return s
}

describe('values that take long to find out', () => {
  it('come hastily at first, and exactly once the hands rest', async () => {
    const s = staged({ tables: mesh, shape: 'a' })
    s.values.soon()
    await s.answer(3)
    s.values.exactly()
    await s.settle()
    expect(s.log).toEqual(['hasty all a', 'give a 3'])
    await s.rest()
    await s.answer(1)
    expect(s.log.slice(2)).toEqual(['exact a', 'give a 1'])
  })
  it('come hastily for what is new, though exact ones are waited for', async () => {
    const s = staged({ tables: mesh, shape: 'a' })
    s.values.soon()
    s.values.exactly()
    await s.answer()
    // The hands have not rested, and now there are other maps on the mesh.
    s.see({ tables: {}, shape: 'a' })
    s.values.soon()
    await s.settle()
    expect(s.log.at(-1)).toBe('hasty all a')
    await s.answer(2)
    await s.rest()
    expect(s.log.slice(-2)).toEqual(['give a 2', 'exact a'])
  })
  it('come hastily while a number is dragged, though exact ones are waited for', async () => {
    const s = staged({ tables: mesh, shape: 'a' })
    s.values.soon()
    await s.answer()
    s.values.exactly()
    await s.settle()
    s.values.soon()
    await s.settle()
    expect(s.log.at(-1)).toBe('hasty a')
    await s.answer()
    await s.rest()
    expect(s.log.at(-1)).toBe('exact a')
  })
  it('come hastily at once while exact ones are under way, and those are asked for again', async () => {
    const s = await exactUnderWay()
    s.values.soon()
    await s.settle()
    expect(s.log.at(-1)).toBe('hasty a')
    // The exact ones are given up, then the hasty ones come.
    await s.giveUp()
    await s.answer(2)
    expect(s.log.at(-1)).toBe('give a 2')
    await s.rest()
    expect(s.log.at(-1)).toBe('exact a')
  })
  it('are shown where exact ones have come after all, before hasty ones that were asked for meanwhile', async () => {
    const s = await exactUnderWay()
    s.values.soon()
    await s.settle()
    await s.answer(7)
    await s.answer(2)
    expect(s.log.slice(2)).toEqual(['exact a', 'hasty a', 'give a 7', 'give a 2'])
    await s.rest()
    expect(s.log).toHaveLength(6)
  })
  it('are asked for again, all of them, where they were given up for something else', async () => {
    const s = staged({ tables: mesh, shape: 'a' })
    s.values.soon()
    await s.answer()
    s.values.forget()
    s.values.exactly()
    await s.settle()
    await s.rest()
    await s.giveUp()
    await s.rest()
    expect(s.log.slice(2)).toEqual(['exact all a', 'exact all a'])
    await s.answer(1)
    expect(s.log.at(-1)).toBe('give a 1')
  })
  it('are thrown away where the mesh has become another meanwhile', async () => {
    const s = staged({ tables: mesh, shape: 'a' })
    s.values.soon()
    s.see({ tables: {}, shape: 'a' })
    await s.answer(5)
    expect(s.log).toEqual(['hasty all a', 'hasty all a'])
    await s.answer(4)
    expect(s.log.at(-1)).toBe('give a 4')
  })
  it('are all sent again once they were forgotten, but not hastily before exact ones', async () => {
    const s = staged({ tables: mesh, shape: 'a' })
    s.values.soon()
    await s.answer()
    s.values.exactly()
    await s.settle()
    // As while a sheet is being made: the stage would never come to rest.
    s.values.forget()
    await s.rest()
    expect(s.log.slice(1)).toEqual(['give a 0', 'exact all a'])
  })
  it('are not looked for while nothing is seen', async () => {
    const s = staged({ tables: mesh, shape: 'a' })
    s.see(null)
    s.values.soon()
    await s.settle()
    expect(s.log).toEqual([])
    s.see({ tables: mesh, shape: 'a' })
    s.values.soon()
    await s.answer(1)
    expect(s.log).toEqual(['hasty all a', 'give a 1'])
  })
})
