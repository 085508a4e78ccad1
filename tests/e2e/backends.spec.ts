import { expect } from '@playwright/test'
import { KINDS, RESULT } from '../../core/nodes'
import { alone as test } from './day'
import type { Agreement, Dragged, Faces } from './harness/agree'
import type { Difference } from './harness/standard'
import { load } from './support'

/**
 * Largest difference between what the card writes and what the workers paint, relative above 1: float32 rounding,
 * amplified by steep nodes, and the card's half floats. On the edge of a thread of a few pixels it may be more.
 */
const TOLERANCE = 2e-3

test('every node kind is the same on the card, in the workers and in a bake at 1,000 visible points', async ({
  page,
}) => {
  // Hundreds of shaders, each compiled in software.
  test.setTimeout(900_000)
  await load(page, 'agree')
  await page.waitForFunction(() => 'compare' in window)
  const { found, idle } = await page.evaluate(() =>
    (window as unknown as { compare(): Promise<{ found: Agreement[]; idle: string[] }> }).compare(),
  )
  expect(idle).toEqual([])
  expect(new Set(found.map(f => f.kind))).toEqual(new Set(KINDS.map(k => k.kind).filter(k => k !== RESULT)))
  // All at once: an assertion for each of thousands of numbers takes as long as the comparison.
  const isOff = ({ points, cardMostly, card, bake }: Agreement): boolean =>
    !(points >= 1000 && cardMostly < TOLERANCE && card < 10 * TOLERANCE && bake < 1e-6)
  expect(found.filter(isOff)).toEqual([])
  expect(Math.max(...found.filter(f => f.kind === 'partSet').map(f => f.distinct))).toBe(2)
  // The inputs are patterns, so nearly every point has a value of its own: agreement on a constant would prove nothing.
  for (const kind of [
    'ramp',
    'varyColor',
    'mix',
    'levels',
    'finish',
    'noise',
    'positionGradient',
    'picture',
    'layer',
  ]) {
    expect(Math.max(...found.filter(f => f.kind === kind).map(f => f.distinct)), kind).toBeGreaterThan(500)
  }
})

test('while a number is dragged the card keeps what it leaves alone, and writes the same', async ({ page }) => {
  await load(page, 'agree')
  await page.waitForFunction(() => 'drag' in window)
  const found = await page.evaluate(() => (window as unknown as { drag(): Promise<Dragged[]> }).drag())
  expect(found.map(f => [f.what, f.kept > 0])).toEqual([
    ['changed once', false],
    ['being compiled', false],
    ['dragged', true],
    ['dragged', true],
    ['seen from elsewhere', true],
    ['something else changed', false],
  ])
  for (const f of found) {
    expect(f.apart, f.what).toBeLessThan(1e-6)
    expect(f.distinct, f.what).toBeGreaterThan(500)
  }
})

test('normals are turned to who looks where the surface is seen from behind, and not where they alone lean away', async ({
  page,
}) => {
  await load(page, 'agree')
  await page.waitForFunction(() => 'face' in window)
  const found = await page.evaluate(() => (window as unknown as { face(): Promise<Faces> }).face())
  expect(found.apart).toBeLessThan(2e-3)
  const { usual, inside, leaning } = found
  for (const { points } of [usual, inside, leaning]) expect(points).toBeGreaterThan(50)
  expect([usual.toward, inside.toward]).toEqual([usual.points, inside.points])
  expect(leaning.toward).toBe(0)
})

test('the noises are those of another implementation of the standard, at 1,000 points', async ({ page }) => {
  await load(page, 'standard')
  await page.waitForFunction(() => 'compare' in window)
  const found = await page.evaluate(() => (window as unknown as { compare(): Promise<Difference[]> }).compare())
  expect(found.map(f => f.name)).toHaveLength(6)
  for (const f of found) {
    expect(f.largest, f.name).toBeLessThan(1e-4)
    expect(f.distinct, f.name).toBeGreaterThan(500)
  }
})
