import { Color, Euler, NeutralToneMapping, PerspectiveCamera, SRGBColorSpace, WebGLRenderer, type Texture } from 'three'
import { cameraFor } from '#core/trace/trace'
import type { Box } from '#core/mesh/mesh'
import { rigLight } from '../../../app/stage/environment'
import { proofOf } from '../../../app/stage/proof'
import { SAMPLES } from '../../../app/stage/pane'

export interface Asked {
  width: number
  height: number
  box: Box
  /** Encoded, 0 to 1, the same for all three. */
  gray: number
}

let ready: { renderer: WebGLRenderer; texture: Texture } | undefined
/** The canvas, and a light upon it: made once, since software takes seconds for it. */
async function begun(width: number, height: number): Promise<NonNullable<typeof ready>> {
  if (ready) return ready
  const renderer = new WebGLRenderer({ antialias: false, preserveDrawingBuffer: true })
  renderer.setPixelRatio(1)
  renderer.setSize(width, height, false)
  renderer.toneMapping = NeutralToneMapping
  return (ready = { renderer, texture: (await rigLight(renderer, 'overcast', 64)).texture })
}

/** A picture of a GLB by three.js's own loader, in the light and from the camera of a still. */
async function shown(base64: string, { width, height, box, gray }: Asked): Promise<string> {
  const { renderer, texture } = await begun(width, height)
  const { from, to, angle } = cameraFor(box, width / height)
  const camera = new PerspectiveCamera(angle, width / height, 0.01, 100)
  camera.position.set(...from)
  camera.lookAt(...to)
  camera.updateMatrixWorld()
  const background = new Color().setRGB(gray, gray, gray, SRGBColorSpace)
  renderer.setClearColor(background, 1)
  const light = { texture, rotation: new Euler(), intensity: 1 }
  const bytes = Uint8Array.from(atob(base64), c => c.charCodeAt(0))
  const asked = { glb: bytes.buffer, view: 'finished', samples: SAMPLES, isWanted: () => true } as const
  const look = { ...asked, occluded: true, widened: true }
  const proof = await proofOf(renderer, look, { width, height }, camera, light, background)
  // Text travels to the test much faster than a list of numbers.
  return [...Uint8ClampedArray.from(proof!.delivered)].map(x => String.fromCharCode(x)).join('')
}
Object.assign(window, { shown })
