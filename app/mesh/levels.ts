export const LEVELS = ['object', 'group', 'part', 'patch'] as const
export type Level = (typeof LEVELS)[number]
