import { Document, WebIO, type Material } from '@gltf-transform/core'
import { ALL_EXTENSIONS } from '@gltf-transform/extensions'
import { encode } from 'fast-png'

export const WIDTH = 4
export const HEIGHT = 3
/** A picture whose texels all differ in all channels. */
export const texels = Uint8Array.from({ length: WIDTH * HEIGHT * 4 }, (_, i) => (i * 37 + (i % 4) * 60 + 11) % 256)
export const png = encode({ width: WIDTH, height: HEIGHT, data: texels, channels: 4 })

/**
 * A square of two triangles for each material, side by side, UVs 0 to 1 (0 to 3 on the second set), colored corners.
 */
export async function squares(materials: ((m: Material, d: Document) => void)[], colored = false): Promise<Uint8Array> {
  const document = new Document()
  const buffer = document.createBuffer()
  const scene = document.createScene()
  const accessor = (type: 'VEC2' | 'VEC3' | 'VEC4', values: number[]) =>
    document.createAccessor().setType(type).setArray(new Float32Array(values)).setBuffer(buffer)
  materials.forEach((dress, i) => {
    const x = i * 2
    const material = document.createMaterial(`Coat ${'ABCDEF'[i]}`)
    dress(material, document)
    const primitive = document
      .createPrimitive()
      .setMaterial(material)
      .setAttribute('POSITION', accessor('VEC3', [x, 0, 0, x + 1, 0, 0, x + 1, 1, 0, x, 1, 0]))
      .setAttribute('NORMAL', accessor('VEC3', [0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1]))
      .setAttribute('TEXCOORD_0', accessor('VEC2', [0, 1, 1, 1, 1, 0, 0, 0]))
      .setAttribute('TEXCOORD_1', accessor('VEC2', [0, 3, 3, 3, 3, 0, 0, 0]))
      .setIndices(
        document
          .createAccessor()
          .setArray(Uint16Array.of(0, 1, 2, 0, 2, 3))
          .setBuffer(buffer),
      )
    if (colored)
      primitive.setAttribute('COLOR_0', accessor('VEC4', [0, 1, 1, 1, 1, 1, 1, 1, 1, 0.5, 1, 1, 0, 0.5, 1, 1]))
    scene.addChild(document.createNode(`Tile ${i}`).setMesh(document.createMesh().addPrimitive(primitive)))
  })
  return new WebIO().registerExtensions(ALL_EXTENSIONS).writeBinary(document)
}
/** The picture as a texture of a document. */
export const texture = (d: Document) => d.createTexture('paint').setImage(png).setMimeType('image/png')
