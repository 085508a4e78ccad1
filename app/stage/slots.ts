/**
 * The looks that are evaluated at once: the one that is worked on, a kept state of it, and one after the other for a
 * sheet.
 */
export const LOOK_SLOTS = ['now', 'kept', 'sheet'] as const
export type LookSlot = (typeof LOOK_SLOTS)[number]
/** All that is found out at what is seen: of looks, and of the mesh itself. */
export const SLOTS = [...LOOK_SLOTS, 'mesh'] as const
export type Slot = (typeof SLOTS)[number]
