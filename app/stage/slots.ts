/**
 * The looks that are evaluated at once: the one that is worked on, a kept state of it, and one after the other for a
 * sheet.
 */
export const SLOTS = ['now', 'kept', 'sheet'] as const
export type Slot = (typeof SLOTS)[number]
