import type { Page } from '@playwright/test'
import { emptyLook, type Look } from '../../core/graph/look'

/** Chains of patterns, masks and layers: `steps` layers, four nodes each. */
function large(steps: number): Look {
  const look = emptyLook('Large')
  look.nodes.push({ id: 'base', kind: 'finish', at: [0, 0], params: {} })
  const wire = (from: string, to: string) => {
    const [a, p] = from.split('.') as [string, string]
    const [b, q] = to.split('.') as [string, string]
    look.wires.push({ from: { node: a, port: p }, to: { node: b, port: q } })
  }
  for (let i = 1; i <= steps; i++) {
    const x = i * 230
    look.nodes.push(
      { id: `layer${i}`, kind: 'layer', at: [x, 0], params: {} },
      { id: `finish${i}`, kind: 'finish', at: [x, 260], params: { baseColor: [(i % 7) / 7, 0.3, 0.2] } },
      { id: `draw${i}`, kind: 'partRandom', at: [x, 660], params: { seed: i } },
      { id: `levels${i}`, kind: 'levels', at: [x, 900], params: {} },
    )
    wire(i > 1 ? `layer${i - 1}.finish` : 'base.finish', `layer${i}.below`)
    wire(`finish${i}.finish`, `layer${i}.above`)
    wire(`draw${i}.value`, `levels${i}.value`)
    wire(`levels${i}.value`, `layer${i}.mask`)
  }
  wire(`layer${steps}.finish`, 'result.finish')
  return look
}

/**
 * A look of about 300 nodes in the workbench. Script time of a frame, layout included, while the graph is panned and
 * zoomed with the wheel, and of a step's move; medians. The graphics card's share of the stage is left out, and waited
 * for.
 */
export async function workbench(page: Page, address: string, mesh: Uint8Array) {
  const json = { 'content-type': 'application/json' }
  const steps = 74
  const { id } = (await (
    await fetch(`${address}/api/projects`, { method: 'POST', headers: json, body: '{"name":"Large"}' })
  ).json()) as { id: string }
  await fetch(`${address}/api/projects/${id}/mesh?name=boxes.glb`, {
    method: 'PUT',
    headers: { 'content-type': 'application/octet-stream' },
    body: mesh as Uint8Array<ArrayBuffer>,
  })
  const { revision, preparation } = (await (await fetch(`${address}/api/projects/${id}`)).json()) as {
    revision: number
    preparation: unknown
  }
  const put = await fetch(`${address}/api/projects/${id}/look`, {
    method: 'PUT',
    headers: json,
    body: JSON.stringify({ base: revision, look: large(steps), preparation }),
  })
  if (!put.ok) throw new Error(await put.text())

  // From the click on the home page to the first frame of the stage.
  const opened: number[] = []
  for (let i = 0; i < 3; i++) {
    await page.goto(address)
    const card = page.getByRole('link', { name: /Large/ }).first()
    await card.waitFor()
    const from = performance.now()
    await card.click()
    await page.waitForFunction(
      () => Number(document.querySelector<HTMLCanvasElement>('.stage canvas')?.dataset.updateMs) > 0,
      null,
      { timeout: 120_000 },
    )
    opened.push(performance.now() - from)
  }
  await page.waitForTimeout(4000)
  const times = await page.evaluate(async () => {
    const pane = document.querySelector<HTMLElement>('.vue-flow__pane')!
    const box = pane.getBoundingClientRect()
    const frame = () =>
      new Promise<void>(resolve => {
        requestAnimationFrame(() => resolve())
      })
    const mid = (list: number[]) => [...list].sort((a, b) => a - b)[list.length >> 1]!
    /**
     * What an event costs until its effects are laid out: handlers, what they put off to microtasks, and the layout.
     */
    const cost = async (act: () => void): Promise<number> => {
      const from = performance.now()
      act()
      await Promise.resolve()
      await Promise.resolve()
      void document.body.offsetHeight
      const took = performance.now() - from
      await frame()
      return took
    }
    const wheel = (init: WheelEventInit) =>
      pane.dispatchEvent(
        new WheelEvent('wheel', {
          bubbles: true,
          cancelable: true,
          clientX: box.left + box.width / 2,
          clientY: box.top + box.height / 2,
          ...init,
        }),
      )
    const mouse = (type: string, x: number, target: EventTarget = window) =>
      target.dispatchEvent(
        new MouseEvent(type, {
          bubbles: true,
          cancelable: true,
          view: window,
          button: 0,
          buttons: 1,
          clientX: x,
          clientY: box.top + 200,
        }),
      )
    const zoom: number[] = []
    const pan: number[] = []
    const move: number[] = []
    for (let i = 0; i < 60; i++) zoom.push(await cost(() => wheel({ deltaY: i % 20 < 10 ? -60 : 60 })))
    mouse('mousedown', box.left + 40, pane)
    for (let i = 0; i < 60; i++) pan.push(await cost(() => mouse('mousemove', box.left + 40 + i * 5)))
    mouse('mouseup', box.left + 340)
    const chip = () => document.querySelector<HTMLElement>('[data-step=layer20]')!
    for (let i = 0; i < 9; i++) {
      chip().focus()
      move.push(
        await cost(() =>
          chip().dispatchEvent(
            new KeyboardEvent('keydown', {
              key: i % 2 ? 'ArrowLeft' : 'ArrowRight',
              ctrlKey: true,
              bubbles: true,
              cancelable: true,
            }),
          ),
        ),
      )
      await new Promise(resolve => setTimeout(resolve, 1500))
    }
    return {
      zoomMs: mid(zoom),
      panMs: mid(pan),
      moveStepMs: mid(move),
      cardsDrawn: document.querySelectorAll('.card').length,
    }
  })
  return { nodes: steps * 4 + 2, clickToFirstPictureMs: opened.sort((a, b) => a - b)[1]!, ...times }
}
