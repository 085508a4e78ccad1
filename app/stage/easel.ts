import { NeutralToneMapping, WebGLRenderer } from 'three'
import { ContactPass } from './contactPass'
import { LightPass } from './lightPass'
import { FullPass } from './passes'
import { PresentPass } from './presentPass'
import { SmoothCanvas } from './smoothCanvas'

/**
 * What a stage draws on, and with, whatever it shows: the canvas with its context, and the passes whose shaders serve
 * every project.
 */
export class Easel {
  readonly canvas = document.createElement('canvas')
  readonly renderer: WebGLRenderer
  readonly full = new FullPass()
  readonly light = new LightPass(this.full)
  readonly contact = new ContactPass()
  readonly present = new PresentPass(this.full)
  /** Draws what has edges of its own, where the canvas does not smooth them. */
  readonly smooth: SmoothCanvas | undefined

  /**
   * @param smooths whether the canvas smooths edges itself
   * @throws Error where there is no WebGL 2
   */
  constructor(readonly smooths: boolean) {
    const { canvas, full } = this
    this.renderer = new WebGLRenderer({ canvas, antialias: smooths })
    this.renderer.toneMapping = NeutralToneMapping
    this.renderer.autoClear = false
    this.smooth = smooths ? undefined : new SmoothCanvas(this.renderer, full)
  }

  dispose(): void {
    this.smooth?.dispose()
    for (const pass of [this.full, this.light, this.contact, this.present]) pass.dispose()
    this.renderer.dispose()
  }
}

/** One that no stage has. It stays for the next: to compile the same shaders anew takes longer than a picture. */
let resting: Easel | undefined

/**
 * An easel for a stage, with an empty canvas that says nothing of the stage before.
 * @throws Error where there is no WebGL 2
 */
export function takeEasel(smooths: boolean): Easel {
  const found = resting
  resting = undefined
  if (found?.smooths === smooths && !found.renderer.getContext().isContextLost()) return found
  found?.dispose()
  return new Easel(smooths)
}

/** Gives back an easel. */
export function putBackEasel(easel: Easel): void {
  const { canvas } = easel
  canvas.remove()
  for (const name of Object.keys(canvas.dataset)) delete canvas.dataset[name]
  if (resting) easel.dispose()
  else resting = easel
}
