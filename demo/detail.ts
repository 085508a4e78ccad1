import type { Compressor } from '../core/bake/compress'
import { denseSetupSchema, type DenseSetup } from '../core/dense/setup'
import { takeDetail } from '../core/dense/take'
import type { Parted } from '../core/dense/partners'
import type { Texels } from '../core/kernels/texels'

/** What the demo takes from its dense mesh. Lengths in meters. */
export const DEMO_SETUP: DenseSetup = denseSetupSchema.parse({
  scale: 1,
  match: 'part',
  outward: 0.01,
  inward: 0.01,
  size: 1024,
  kinds: ['normal', 'height', 'parts', 'convexity', 'concavity'],
  vertexMaps: [],
})

/** A surface map of the demo, as a picture of its project. */
export interface DemoPicture {
  name: string
  bytes: Uint8Array
}

/** Takes what the looks of a demo need from its dense mesh. @param size texels along each side of a tile */
export function demoPictures(
  texels: Texels,
  light: Parted,
  fine: Parted,
  compressor: Compressor,
  size = DEMO_SETUP.size,
): DemoPicture[] {
  const { match, outward, inward, kinds } = DEMO_SETUP
  const settings = { match, outward, inward, kinds, vertexMaps: [], size, dilation: size >> 6 }
  const { pictures } = takeDetail(texels, light, fine, settings, compressor)
  return pictures.map(({ of, bytes }) => ({ name: `dense ${of}.exr`, bytes }))
}
