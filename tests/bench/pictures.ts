import { decode } from 'fast-png'
import type { Locator, Page } from '@playwright/test'
import { rgbaOf } from '../../core/evaluate/pictures'
import { colorDifferences, shareBelow } from '../colorDifferences'

/**
 * What is delivered: texels as fine as there are, and dithered, since a byte is more than 1 in dark colors and would be
 * off by the same over whole faces.
 */
const SETTINGS = { size: 8192, dither: true }
/** How long the slowest look takes on a card of software. */
const PATIENCE = 1_800_000
/** Beside the deliveries it leaves 512 x 374 to the stage. */
const VIEWPORT = { width: 1280, height: 470 }
/** Samples of each pixel, where a bake is compared: with few, what differs is chance for the most part. */
const SAMPLES = 64

type Pixels = ReturnType<typeof rgbaOf>
interface Apart {
  pixels: number
  /** CIEDE2000: below it are 99 of 100 pixels, and how many of 100 are below 1. */
  ninetyNine: number
  belowOne: number
  /**
   * Of pictures of bytes: how many of 100 are below 1, or nowhere more than a byte apart, as rounding may have it. In
   * dark grays a byte is more than 1.
   */
  orRounded?: number
}

/** How far two pictures of one size are apart where they do not both show the background, as their first pixel does. */
function apart(a: Pixels, b: Pixels): Apart {
  if (a.width !== b.width || a.height !== b.height) throw new Error('the pictures differ in size')
  const isBackground = (p: ArrayLike<number>, at: number): boolean => [0, 1, 2].every(k => p[at + k] === p[k])
  const all = colorDifferences(a.data, b.data, () => false)
  const counted = all.map((_, i) => i * 4).filter(at => !isBackground(a.data, at) || !isBackground(b.data, at))
  const found = counted.map(at => all[at / 4]!).sort((x, y) => x - y)
  const rounds = (at: number) => [0, 1, 2].every(k => Math.abs(a.data[at + k]! - b.data[at + k]!) <= 1)
  const alike = counted.filter(at => all[at / 4]! < 1 || rounds(at)).length
  return {
    pixels: found.length,
    ninetyNine: Number(found[Math.floor(found.length * 0.99)]!.toPrecision(3)),
    belowOne: Number((100 * shareBelow(found, 1)).toPrecision(4)),
    orRounded: Number(((100 * alike) / found.length).toPrecision(4)),
  }
}

/** What a canvas in the page shows. */
async function drawnIn(canvas: Locator): Promise<Pixels> {
  const url = await canvas.evaluate((c: HTMLCanvasElement) => c.toDataURL('image/png'))
  return rgbaOf(decode(Buffer.from(url.slice(url.indexOf(',') + 1), 'base64')))
}

/** Opens a look on the stage of a backend, and waits for its final picture. */
async function open(page: Page, address: string, backend: 'cpu' | 'gpu'): Promise<void> {
  await page.goto(`${address}&stage=${backend}`)
  await page.waitForFunction(
    () =>
      document.querySelector<HTMLCanvasElement>('.stage canvas')?.dataset.picture === 'final' &&
      !/Computing|Waiting/.test(document.querySelector('footer')?.textContent ?? ''),
    null,
    { timeout: PATIENCE },
  )
}

/** What the proof says of one look on the stage of a backend, with smooth edges, and the stage's picture in it. */
async function proof(page: Page, address: string, backend: 'cpu' | 'gpu'): Promise<{ stage: Pixels; bake: Apart }> {
  await open(page, address, backend)
  await page.getByRole('tab', { name: 'Deliver' }).click()
  const newest = page.getByRole('region', { name: 'Deliveries' }).locator('li').first()
  await newest.getByRole('button', { name: 'Prove' }).click({ timeout: 60_000 })
  // The comparison that is begun with fewer samples ends as soon as more are asked for.
  await page.getByRole('combobox', { name: 'Samples a pixel' }).click()
  await page.getByRole('option', { name: `${SAMPLES} samples a pixel` }).click()
  const numbers = page.locator('[data-test=proof] dd')
  await numbers.first().waitFor({ timeout: PATIENCE })
  const [, ninetyNine, belowOne, , pixels] = (await numbers.allTextContents()).map(x => parseFloat(x.replace(',', '')))
  return {
    stage: await drawnIn(page.getByRole('img', { name: 'The stage', exact: true })),
    bake: { pixels: pixels!, ninetyNine: ninetyNine!, belowOne: belowOne! },
  }
}

/**
 * The three pictures of each demo look, in one light and without shadows: by the kernels, by the card's shaders, and of
 * a delivered GLB; how far apart they are by CIEDE2000.
 */
export async function pictures(page: Page, address: string): Promise<Record<string, unknown>> {
  await page.setViewportSize(VIEWPORT)
  await page.addInitScript(() => localStorage.setItem('ubblet has been here', 'true'))
  const json = { 'content-type': 'application/json' }
  const read = async <T>(path: string): Promise<T> => (await (await fetch(`${address}${path}`)).json()) as T
  const report: Record<string, unknown> = {}
  for (const { id } of await read<{ id: string }[]>('/api/projects')) {
    const { looks } = await read<{ looks: { id: string; name: string }[] }>(`/api/projects/${id}`)
    for (const look of looks) {
      const at = `${address}/project/${id}?look=${look.id}`
      // Pictures that only a browser reads are there once the project was open.
      await open(page, at, 'cpu')
      const asked = { name: 'Proof', look: look.id, settings: SETTINGS }
      const under = `/api/projects/${id}/deliveries`
      await fetch(`${address}${under}`, { method: 'POST', headers: json, body: JSON.stringify(asked) })
      for (let state = ''; state !== 'done'; [{ state }] = await read<[{ state: string }]>(under)) {
        if (state === 'failed') throw new Error(`${look.name} was not delivered`)
        await page.waitForTimeout(500)
      }
      const processor = await proof(page, at, 'cpu')
      const card = await proof(page, at, 'gpu')
      report[look.name] = {
        cardFromProcessor: apart(processor.stage, card.stage),
        bakeFromProcessor: processor.bake,
        bakeFromCard: card.bake,
      }
      // It takes minutes: what is known is told.
      console.error(look.name, JSON.stringify(report[look.name]))
    }
  }
  return report
}
