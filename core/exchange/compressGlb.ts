import { PropertyType, WebIO, type Document } from '@gltf-transform/core'
import { EXTMeshoptCompression, KHRMeshQuantization } from '@gltf-transform/extensions'
import { quantize } from '@gltf-transform/functions'
import { MeshoptEncoder } from 'meshoptimizer'
import type { Compression } from './compression'

/** Bits of places and UVs, and of directions. */
const PLACE_BITS = 16
const DIRECTION_BITS = 12
/** Values and numbers of parts stay floats: a renderer is to read what was measured. */
const QUANTIZED = /^(POSITION|NORMAL|TANGENT|TEXCOORD_\d)$/

/**
 * Has the buffers of a glTF document packed by EXT_meshopt_compression when it is written. Quantized, places are whole
 * numbers of 16 bits within each object (off by half a step at most: 1/131,000 of the object's longest side), UVs
 * between 0 and 1 of 16 bits, normals and tangents of 12 (KHR_mesh_quantization); values on the vertices stay as they
 * are.
 */
export async function compress(document: Document, how: Exclude<Compression, 'none'>): Promise<void> {
  await MeshoptEncoder.ready
  if (how === 'quantized') {
    await document.transform(
      quantize({
        pattern: QUANTIZED,
        quantizePosition: PLACE_BITS,
        quantizeTexcoord: PLACE_BITS,
        quantizeNormal: DIRECTION_BITS,
        cleanup: false,
      }),
    )
    // The library's own cleaning would take materials along that only variants use.
    for (const accessor of document.getRoot().listAccessors())
      if (accessor.listParents().every(p => p.propertyType === PropertyType.ROOT)) accessor.dispose()
  }
  document
    .createExtension(EXTMeshoptCompression)
    .setRequired(true)
    .setEncoderOptions({ method: EXTMeshoptCompression.EncoderMethod.QUANTIZE })
}

/** What writes such a document. */
export const compressing = (io: WebIO): WebIO =>
  io
    .registerExtensions([EXTMeshoptCompression, KHRMeshQuantization])
    .registerDependencies({ 'meshopt.encoder': MeshoptEncoder })
