import type { MeshReader } from './reader'

export const obj: MeshReader = {
  title: 'OBJ',
  endings: ['.obj'],
  text: true,
  looksLike: head => /^\s*(#|v|o|g|mtllib)\b/m.test(head),
  otherwise: () => 'This is not an OBJ file: it holds bytes that are no text.',
  read: async (bytes, { beside, options }) => (await import('../readObj')).readObj(bytes, beside, options),
}
