import type { Preparation } from './preparation'

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b)

/** What of a preparation can differ, in words. */
const WORDS: readonly [keyof Preparation, string][] = [
  ['scale', 'The units of the mesh changed.'],
  ['weld', 'How vertices are welded changed.'],
  ['patches', 'How patches are found changed.'],
  ['groups', 'The groups of parts changed.'],
  ['contact', 'How near parts touch changed.'],
  ['sets', 'The part sets changed.'],
  ['edge', 'The analysis mesh changed.'],
  ['maps', 'The geometry maps changed.'],
  ['renamed', 'Names of vertex maps changed.'],
  ['normals', "The picture of the mesh's own normals changed."],
]

/** What changed from one preparation to another, one sentence each. */
export const preparationDifferences = (before: Preparation, now: Preparation): string[] =>
  WORDS.filter(([key]) => !same(before[key], now[key])).map(([, words]) => words)
