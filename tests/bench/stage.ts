import type { Page } from '@playwright/test'

/** Demo meshes, and the look of each that is measured: a heavy one, and one with several coats. */
const LOOKS = [
  ['kiosk roof', 'Moss in the shade'],
  ['mooring winch', 'Blue over primer'],
] as const

const middle = (list: number[]): number => [...list].sort((a, b) => a - b)[list.length >> 1] ?? NaN

/** Waits for the geometry maps of the open project, which the server keeps from then on. */
async function mapsReady(page: Page): Promise<void> {
  await page.waitForFunction(() => /\d parts?\b/.test(document.querySelector('footer')?.textContent ?? ''), null, {
    timeout: 120_000,
  })
  for (let quiet = 0; quiet < 4;) {
    await page.waitForTimeout(500)
    quiet = (await page.evaluate(() => /Computing|Waiting/.test(document.querySelector('footer')?.textContent ?? '')))
      ? 0
      : quiet + 1
  }
}

/** In the page: what is measured there. */
function instruments(): void {
  const canvas = () => document.querySelector<HTMLCanvasElement>('.stage canvas')!
  /** Once a frame was drawn after `from` frames, and the graphics card is through with it. */
  const picture = async (frames: number, ready: () => boolean): Promise<void> => {
    while (Number(canvas().dataset.frames ?? 0) <= frames || !ready()) await new Promise(r => setTimeout(r, 2))
    // Waited for without holding up the interface's thread, whose work is measured.
    const gl = canvas().getContext('webgl2')!
    const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0)!
    gl.flush()
    while (gl.clientWaitSync(fence, 0, 0) === gl.TIMEOUT_EXPIRED) await new Promise(r => setTimeout(r, 2))
    gl.deleteSync(fence)
  }
  const timed = async (act: () => void, ready: () => boolean = () => true): Promise<number> => {
    const frames = Number(canvas().dataset.frames ?? 0)
    const from = performance.now()
    act()
    await picture(frames, ready)
    return performance.now() - from
  }
  const long: number[] = []
  new PerformanceObserver(list => long.push(...list.getEntries().map(e => e.duration))).observe({
    entryTypes: ['longtask'],
  })
  Object.assign(window, { stageBench: { canvas, picture, timed, long } })
}

interface Bench {
  canvas(): HTMLCanvasElement
  picture(frames: number, ready: () => boolean): Promise<void>
  timed(act: () => void, ready?: () => boolean): Promise<number>
  long: number[]
}

/** How often the first picture of a drag is waited for. */
const ROUNDS = 3

/** Waits until the stage says that its picture is final. */
const settled = (page: Page) =>
  page.waitForFunction(
    () => document.querySelector<HTMLCanvasElement>('.stage canvas')?.dataset.picture === 'final',
    null,
    { timeout: 180_000 },
  )

async function opening(page: Page, address: string): Promise<Record<string, number>> {
  await page.goto(address)
  return page.evaluate(async () => {
    const { canvas, picture } = (window as unknown as { stageBench: Bench }).stageBench
    const until = async (ready: () => boolean) => {
      while (!ready()) await new Promise(r => setTimeout(r, 2))
    }
    // Its number is there with it; the words alone are there while it is read.
    await until(() => /\d parts?\b/.test(document.querySelector('footer')?.textContent ?? ''))
    const from = performance.now()
    await until(() => Number(canvas().dataset.updateMs) > 0)
    const { dataset } = canvas()
    await picture(Number(dataset.frames ?? 0) - 1, () => ['coarse', 'sharp', 'final'].includes(dataset.picture!))
    const coarse = performance.now() - from
    await picture(0, () => ['sharp', 'final'].includes(dataset.picture!))
    const sharp = performance.now() - from
    return { firstPictureMs: coarse, finishedPictureMs: sharp }
  })
}

/**
 * One look in the workbench: medians of opening, orbiting, turning the light, another channel, and dragging numbers.
 */
async function measure(page: Page, address: string): Promise<Record<string, unknown>> {
  await page.goto(address)
  await mapsReady(page)
  const opened: Record<string, number>[] = []
  for (let i = 0; i < 5; i++) {
    opened.push(await opening(page, address))
    await settled(page)
  }
  const cdp = await page.context().newCDPSession(page)
  await cdp.send('Performance.enable')
  const spent = async () => {
    const { metrics } = await cdp.send('Performance.getMetrics')
    const of = (name: string): number => metrics.find(m => m.name === name)!.value * 1000
    return { script: of('ScriptDuration'), task: of('TaskDuration') }
  }
  const orbit = await page.evaluate(async () => {
    const { canvas, timed } = (window as unknown as { stageBench: Bench }).stageBench
    const times: number[] = []
    for (let i = 0; i < 15; i++)
      times.push(
        await timed(() => canvas().dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowLeft', bubbles: true }))),
      )
    return times
  })
  await settled(page)
  const before = await page.evaluate(() => document.querySelector<HTMLCanvasElement>('.stage canvas')!.dataset.ever)
  const channel = await page.evaluate(async () => {
    const { timed } = (window as unknown as { stageBench: Bench }).stageBench
    const times: number[] = []
    for (const view of ['roughness', 'baseColor', 'metalness', 'finished', 'roughness', 'finished'])
      times.push(await timed(() => document.querySelector<HTMLElement>(`.views [role=radio][value=${view}]`)!.click()))
    return times
  })
  await page.getByRole('button', { name: 'Light', exact: true }).click()
  const turned = page.getByRole('spinbutton', { name: 'Turned' })
  const light = await turned.evaluate(async field => {
    const { timed } = (window as unknown as { stageBench: Bench }).stageBench
    const times: number[] = []
    for (let i = 0; i < 9; i++)
      times.push(
        await timed(() =>
          field.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowUp', bubbles: true, cancelable: true })),
        ),
      )
    return times
  })
  await page.keyboard.press('Escape')
  await settled(page)
  const after = await page.evaluate(() => document.querySelector<HTMLCanvasElement>('.stage canvas')!.dataset.ever)
  // Numbers of nodes all over the look.
  const drags: { node: string; firstMs: number; nextMs: number; scriptMs: number; taskMs: number }[] = []
  const nodes = await page
    .locator('.card')
    .evaluateAll(cards => cards.map(c => c.closest<HTMLElement>('.vue-flow__node')!.dataset.id!))
  for (const node of nodes.filter((_, i) => i % Math.max(1, Math.floor(nodes.length / 6)) === 0)) {
    await page.locator(`.vue-flow__node[data-id="${node}"]`).dispatchEvent('click')
    const field = page.locator('.left [role=spinbutton]:not([aria-disabled=true])').first()
    if (!(await field.isVisible().catch(() => false))) continue
    const rounds: { times: number[]; scriptMs: number; taskMs: number }[] = []
    for (let round = 0; round < ROUNDS; round++) {
      await settled(page)
      const before = await spent()
      const times = await page.evaluate(async () => {
        const { timed } = (window as unknown as { stageBench: Bench }).stageBench
        const target = document.querySelector<HTMLElement>('.left [role=spinbutton]:not([aria-disabled=true])')!
        const list: number[] = []
        for (let i = 0; i < 6; i++)
          list.push(
            await timed(() =>
              target.dispatchEvent(
                new KeyboardEvent('keydown', { key: i % 2 ? 'ArrowDown' : 'ArrowUp', bubbles: true, cancelable: true }),
              ),
            ),
          )
        return list
      })
      const after = await spent()
      rounds.push({
        times,
        scriptMs: (after.script - before.script) / times.length,
        taskMs: (after.task - before.task) / times.length,
      })
    }
    drags.push({
      node,
      firstMs: middle(rounds.map(r => r.times[0]!)),
      nextMs: middle(rounds.flatMap(r => r.times.slice(1))),
      scriptMs: middle(rounds.map(r => r.scriptMs)),
      taskMs: middle(rounds.map(r => r.taskMs)),
    })
  }
  return {
    ...Object.fromEntries(
      ['firstPictureMs', 'finishedPictureMs'].map(k => [k, Math.round(middle(opened.map(o => o[k]!)))]),
    ),
    orbitMs: Math.round(middle(orbit)),
    channelMs: Math.round(middle(channel)),
    lightMs: Math.round(middle(light)),
    evaluatedWhileLightChanged: before === undefined ? undefined : Number(after) - Number(before),
    dragFirstMs: Math.round(middle(drags.map(d => d.firstMs))),
    dragSlowestMs: Math.round(Math.max(...drags.map(d => d.firstMs))),
    dragNextMs: Math.round(middle(drags.map(d => d.nextMs))),
    scriptMsPerDragFrame: Math.round(middle(drags.map(d => d.scriptMs)) * 10) / 10,
    taskMsPerDragFrame: Math.round(middle(drags.map(d => d.taskMs)) * 10) / 10,
    evaluatedPerVisible: await page.evaluate(() => {
      const { evaluated, visible } = document.querySelector<HTMLCanvasElement>('.stage canvas')!.dataset
      return Number(evaluated) / Number(visible)
    }),
  }
}

/** A look of another shape arrives while the stage is shown: the longest task on the interface's thread. */
async function anotherShape(page: Page): Promise<number> {
  await settled(page)
  return page.evaluate(async () => {
    const { long } = (window as unknown as { stageBench: Bench }).stageBench
    const chips = [...document.querySelectorAll<HTMLElement>('[data-step]')]
    const last = chips.at(-1)
    if (!last) return NaN
    // Whoever moves a step is there already.
    last.focus()
    await new Promise(r => setTimeout(r, 500))
    long.length = 0
    last.dispatchEvent(
      new KeyboardEvent('keydown', { key: 'ArrowLeft', ctrlKey: true, bubbles: true, cancelable: true }),
    )
    await new Promise(r => setTimeout(r, 3000))
    last.dispatchEvent(
      new KeyboardEvent('keydown', { key: 'ArrowRight', ctrlKey: true, bubbles: true, cancelable: true }),
    )
    await new Promise(r => setTimeout(r, 3000))
    return Math.max(0, ...long)
  })
}

/**
 * The stage in the workbench at 1280 x 800, where it has 512 x 374 pixels. Times in milliseconds, from the act to the
 * picture.
 */
export async function stage(page: Page, address: string): Promise<Record<string, unknown>> {
  await page.addInitScript(instruments)
  await page.addInitScript(() => localStorage.setItem('ubblet has been here', 'true'))
  const list = (await (await fetch(`${address}/api/projects`)).json()) as { id: string; name: string }[]
  const report: Record<string, unknown> = {}
  for (const [mesh, look] of LOOKS) {
    const { id } = list.find(p => p.name.includes(mesh))!
    const { looks } = (await (await fetch(`${address}/api/projects/${id}`)).json()) as { looks: typeof list }
    const at = `${address}/project/${id}?look=${looks.find(l => l.name === look)!.id}`
    report[look.toLowerCase()] = {
      ...(await measure(page, at)),
      longestTaskForAnotherShapeMs: Math.round(await anotherShape(page)),
    }
  }
  return report
}
