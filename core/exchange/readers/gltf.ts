import type { MeshReader } from './reader'

export const gltf: MeshReader = {
  title: 'glTF',
  endings: ['.gltf'],
  text: true,
  looksLike: head => /^\s*\{/.test(head),
  otherwise: () => 'The file is not readable JSON, so it is no glTF document.',
  read: async (bytes, { beside, options }) => (await import('../readGltf')).readGltf(bytes, beside, options),
}
