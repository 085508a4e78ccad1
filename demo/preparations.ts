import { emptyPreparation, type Preparation } from '../core/mesh/preparation'
import type { PartSet } from '../core/mesh/partSets'

const set = (id: string, name: string, rules: PartSet['rules'], match: PartSet['match'] = 'all'): PartSet => ({
  id,
  name,
  match,
  rules,
  plus: [],
  minus: [],
})

/** Strings are objects, floats are groups; one float in nine is a stray from another maker. */
export const floatRackPreparation = (): Preparation => ({
  ...emptyPreparation(),
  sets: [
    set('glass', 'Glass floats', [{ by: 'material', is: 'exactly', text: 'glass' }]),
    set('strays', 'Stray floats', [
      { by: 'material', is: 'exactly', text: 'glass' },
      { by: 'random', share: 0.11, seed: 5 },
    ]),
  ],
  maps: [{ kind: 'position', name: 'height on the rack', space: 'world' }],
})

export const kioskRoofPreparation = (): Preparation => ({
  ...emptyPreparation(),
  contact: 0.004,
  sets: [
    set('scales', 'Scales', [{ by: 'object', is: 'exactly', text: 'Scales' }]),
    set('replaced', 'Replaced scales', [
      { by: 'object', is: 'exactly', text: 'Scales' },
      { by: 'random', share: 0.06, seed: 3 },
    ]),
  ],
  maps: [
    { kind: 'occlusion', name: 'occlusion', distance: 0.15, among: 'all', rays: 48 },
    { kind: 'axis', name: 'along the scale' },
  ],
})

export const mooringWinchPreparation = (): Preparation => ({
  ...emptyPreparation(),
  edge: 0.018,
  sets: [
    set('painted', 'Painted', [{ by: 'material', is: 'exactly', text: 'paint' }]),
    set('rope', 'Rope', [{ by: 'material', is: 'exactly', text: 'rope' }]),
    set('bolts', 'Bolts', [{ by: 'object', is: 'exactly', text: 'Bolts' }]),
  ],
  maps: [
    { kind: 'convexity', name: 'edges', radius: 0.004 },
    { kind: 'concavity', name: 'recesses', radius: 0.012 },
    { kind: 'occlusion', name: 'occlusion', distance: 0.15, among: 'all', rays: 32 },
  ],
})
