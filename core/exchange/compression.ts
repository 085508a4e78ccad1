/** How the vertices of a GLB may be packed: as they are, or as whole numbers first. */
export const COMPRESSIONS = {
  none: { title: 'None' },
  exact: { title: 'Meshopt, number for number' },
  quantized: { title: 'Meshopt, as whole numbers' },
} as const
export type Compression = keyof typeof COMPRESSIONS
export const COMPRESSION_WORDS = Object.keys(COMPRESSIONS) as [Compression, ...Compression[]]

/** How the pictures inside a GLB are written: both keep every number. */
export const GLB_PICTURES = {
  png: { title: 'PNG' },
  webp: { title: 'WebP, without loss' },
} as const
export type GlbPictures = keyof typeof GLB_PICTURES
export const GLB_PICTURE_WORDS = Object.keys(GLB_PICTURES) as [GlbPictures, ...GlbPictures[]]
