import { Color, Euler, NeutralToneMapping, PerspectiveCamera, SRGBColorSpace, WebGLRenderer } from 'three'
import { cameraFor } from '#core/trace/trace'
import type { Box } from '#core/mesh/mesh'
import { rigLight } from '../../../app/stage/environment'
import { proofOf } from '../../../app/stage/proof'

export interface Asked {
  width: number
  height: number
  box: Box
  /** Encoded, 0 to 1, the same for all three. */
  gray: number
}

/** A picture of a GLB by three.js's own loader, in the light and from the camera of a still. */
async function shown(base64: string, { width, height, box, gray }: Asked): Promise<number[]> {
  const renderer = new WebGLRenderer({ antialias: false, preserveDrawingBuffer: true })
  renderer.setPixelRatio(1)
  renderer.setSize(width, height, false)
  renderer.toneMapping = NeutralToneMapping
  const { from, to, angle } = cameraFor(box, width / height)
  const camera = new PerspectiveCamera(angle, width / height, 0.01, 100)
  camera.position.set(...from)
  camera.lookAt(...to)
  camera.updateMatrixWorld()
  const background = new Color().setRGB(gray, gray, gray, SRGBColorSpace)
  renderer.setClearColor(background, 1)
  const light = { texture: rigLight(renderer, 'overcast', 64).texture, rotation: new Euler(), intensity: 1 }
  const bytes = Uint8Array.from(atob(base64), c => c.charCodeAt(0))
  const proof = await proofOf(renderer, bytes.buffer, 'finished', camera, light, background)
  renderer.dispose()
  return [...proof!.delivered]
}
Object.assign(window, { shown })
