/** Types of the pictures that a project may hold. */
export const PICTURE_TYPES = ['image/png', 'image/jpeg', 'image/webp', 'image/x-exr'] as const
export type PictureType = (typeof PICTURE_TYPES)[number]
