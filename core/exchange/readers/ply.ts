import type { MeshReader } from './reader'

const LINE_ENDS = [10, 13]

export const ply: MeshReader = {
  title: 'PLY',
  endings: ['.ply'],
  begins: bytes => 'ply'.split('').every((c, i) => bytes[i] === c.charCodeAt(0)) && LINE_ENDS.includes(bytes[3]!),
  otherwise: () => 'This is not a PLY file: its first line is not "ply".',
  read: async (bytes, { stem, options }) => (await import('../readPly')).readPly(bytes, stem, options),
}
