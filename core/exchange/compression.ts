/** How the vertices of a GLB may be packed: as they are, or as whole numbers first. */
export const COMPRESSIONS = {
  none: { title: 'None' },
  exact: { title: 'Meshopt, number for number' },
  quantized: { title: 'Meshopt, as whole numbers' },
} as const
export type Compression = keyof typeof COMPRESSIONS
export const COMPRESSION_WORDS = Object.keys(COMPRESSIONS) as [Compression, ...Compression[]]
