import type { Look } from '../core/graph/look'
import { node, wire } from '../core/recipes/write'

/**
 * Scales glazed in blue-green batches, paler toward the eave where the rain has worn them, a few replaced in a newer
 * glaze; grime where they overlap; copper gone green on the metal.
 */
export const kioskRoofLook = (): Look => ({
  ubblet: 'look', version: 1, name: 'Rain-worn glaze',
  nodes: [
    node('perScale', 'partRandom', [0, 0], { seed: 21, how: 'count' }, 'Per scale'),
    node('glaze', 'ramp', [204, 0], {
      stops: [
        { at: 0, color: [0.012, 0.05, 0.085] }, { at: 0.35, color: [0.018, 0.095, 0.125] }, { at: 0.62, color: [0.03, 0.15, 0.14] }, { at: 0.85, color: [0.065, 0.2, 0.17] }, { at: 1, color: [0.12, 0.235, 0.19] },
      ],
    }, 'Glaze batches'),
    node('drift', 'varyColor', [408, 0], { hue: 30, chroma: 50, lightness: 12 }, 'Drift'),
    node('weather', 'vertexMap', [0, 236], { map: 'weather' }, 'Rain side'),
    node('wornNoise', 'noise', [0, 472], { size: 30, detail: 4, strength: 0.5, contrast: 2, seed: 22 }, 'Broad patches'),
    node('worn', 'math', [204, 236], { operation: 'multiply' }, 'Worn by rain'),
    node('wornAmount', 'levels', [408, 236], { inLow: 0.08, inHigh: 0.62, outHigh: 0.55 }, 'How worn'),
    node('wornGlaze', 'mix', [612, 0], { b: [0.34, 0.36, 0.3] }, 'Glaze worn pale'),
    node('newer', 'partSet', [408, 472], { set: 'Replaced scales' }, 'Replaced'),
    node('replaced', 'mix', [816, 0], { b: [0.022, 0.2, 0.215] }, 'Newer glaze'),
    node('occlusion', 'vertexMap', [204, 708], { map: 'occlusion' }, 'Under the overlap'),
    node('grime', 'levels', [408, 708], { inLow: 0.45, inHigh: 0.97, gamma: 0.8, outHigh: 0.88 }, 'Grime'),
    node('grimy', 'mix', [1020, 0], { b: [0.03, 0.026, 0.019] }, 'Grime in the gaps'),
    node('ceramic', 'vertexMap', [816, 472], { map: 'ceramic' }, 'On ceramic'),
    node('patinaNoise', 'noise', [612, 708], { size: 9, detail: 4, strength: 0.6, contrast: 2.4, seed: 24 }, 'Patina patches'),
    node('copper', 'ramp', [816, 708], {
      stops: [{ at: 0, color: [0.1, 0.055, 0.035] }, { at: 0.4, color: [0.14, 0.13, 0.095] }, { at: 0.55, color: [0.16, 0.3, 0.23] }, { at: 1, color: [0.3, 0.48, 0.4] }],
    }, 'Copper gone green'),
    node('allColor', 'mix', [1224, 141], {}, 'Ceramic over copper'),
    node('glazeRough', 'mix', [816, 236], { what: 'value', a: 0.16, b: 0.62 }, 'Gloss to worn'),
    node('grimyRough', 'mix', [1020, 236], { what: 'value', b: 0.88 }, 'Grime is matte'),
    node('allRough', 'mix', [1224, 377], { what: 'value', a: 0.66 }, 'Roughness'),
    node('finish', 'finish', [1428, 236]),
    node('result', 'result', [1632, 236]),
  ],
  wires: [
    'perScale.value > glaze.value', 'glaze.color > drift.color', 'perScale.second > drift.hueBy', 'perScale.third > drift.lightnessBy', 'perScale.second > drift.chromaBy',
    'weather.value > worn.a', 'wornNoise.value > worn.b', 'worn.value > wornAmount.value', 'drift.color > wornGlaze.a', 'wornAmount.value > wornGlaze.amount',
    'wornGlaze.out > replaced.a', 'newer.value > replaced.amount', 'replaced.out > grimy.a', 'occlusion.value > grime.value', 'grime.value > grimy.amount',
    'patinaNoise.value > copper.value', 'copper.color > allColor.a', 'grimy.out > allColor.b', 'ceramic.value > allColor.amount',
    'wornAmount.value > glazeRough.amount', 'glazeRough.out > grimyRough.a', 'grime.value > grimyRough.amount', 'grimyRough.out > allRough.b', 'ceramic.value > allRough.amount',
    'allColor.out > finish.baseColor', 'allRough.out > finish.roughness', 'finish.finish > result.finish',
  ].map(wire),
})
