import type { MeshReader } from './reader'

/** The letters "glTF". */
const MAGIC = [0x67, 0x6c, 0x54, 0x46]

export const glb: MeshReader = {
  title: 'GLB',
  endings: ['.glb'],
  begins: bytes => MAGIC.every((code, i) => bytes[i] === code),
  otherwise: text =>
    `This is not a GLB file: it does not begin with the letters "glTF"${text ? ', and reads as text' : ''}.`,
  read: async (bytes, { options }) => (await import('../readGltf')).readGlb(bytes, options),
}
