import type { MeshReader } from './reader'

/** Bytes before the triangles of a binary file, and of each triangle. */
export const STL_HEAD = 84
export const STL_TRIANGLE = 50

/** How many triangles a binary file says it has; undefined where its length says something else. */
export function stlTriangles(bytes: Uint8Array): number | undefined {
  if (bytes.length < STL_HEAD) return undefined
  const count = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength).getUint32(80, true)
  return bytes.length === STL_HEAD + STL_TRIANGLE * count ? count : undefined
}

export const stl: MeshReader = {
  title: 'STL',
  endings: ['.stl'],
  text: true,
  begins: bytes => stlTriangles(bytes) !== undefined,
  looksLike: head => /^\s*solid\b[\s\S]*\bfacet\b/.test(head),
  otherwise: () => 'This is not an STL file: it does not have the length that its number of triangles asks for.',
  read: async (bytes, { stem, options }) => (await import('../readStl')).readStl(bytes, stem, options),
}
