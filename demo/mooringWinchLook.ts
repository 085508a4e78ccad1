import type { Look } from '../core/graph/look'
import { node, wire } from './lookParts'

/**
 * Ochre paint, rubbed to steel along the edges where a broad noise lets it, dirt and rust in the recesses; iron darker
 * piece by piece; bolts that each rust in their own way.
 */
export const mooringWinchLook = (): Look => ({
  ubblet: 'look', version: 1, name: 'Worn ochre',
  nodes: [
    node('perPiece', 'partRandom', [0, 0], { seed: 31 }, 'Per piece'),
    node('paintColor', 'color', [0, 204], { color: [0.42, 0.19, 0.022] }, 'Ochre paint'),
    node('paint', 'varyColor', [204, 0], { hue: 10, chroma: 24, lightness: 7 }, 'Paint drift'),
    node('ironColors', 'ramp', [204, 204], { stops: [{ at: 0, color: [0.035, 0.037, 0.04] }, { at: 0.7, color: [0.075, 0.076, 0.078] }, { at: 0.85, color: [0.1, 0.062, 0.04] }, { at: 1, color: [0.14, 0.06, 0.028] }] }, 'Iron to rust'),
    node('edges', 'vertexMap', [0, 408], { map: 'edges' }, 'Edges'),
    node('wearNoise', 'noise', [0, 612], { size: 7, detail: 5, strength: 0.6, contrast: 2.2, seed: 32 }, 'Where hands were'),
    node('wear', 'math', [204, 408], { operation: 'multiply' }, 'Wear'),
    node('wearMask', 'levels', [408, 408], { inLow: 0.12, inHigh: 0.24 }, 'Wear, crisp'),
    node('painted', 'partSet', [204, 612], { set: 'Painted' }, 'On paint'),
    node('coats', 'mix', [408, 102], {}, 'Paint over iron'),
    node('bare', 'mix', [612, 102], { b: [0.5, 0.48, 0.45] }, 'Rubbed to metal'),
    node('recesses', 'vertexMap', [408, 612], { map: 'recesses' }, 'Recesses'),
    node('occlusion', 'vertexMap', [408, 816], { map: 'occlusion' }, 'Occlusion'),
    node('hollow', 'math', [612, 612], { operation: 'larger' }, 'Hollow'),
    node('dirtNoise', 'noise', [612, 816], { size: 5, detail: 6, strength: 0.65, contrast: 1.8, seed: 33 }, 'Dirt break-up'),
    node('dirt', 'math', [816, 612], { operation: 'multiply' }, 'Dirt'),
    node('dirtMask', 'levels', [1020, 612], { inLow: 0.1, inHigh: 0.5, outHigh: 0.9 }, 'Dirt amount'),
    node('dirty', 'mix', [816, 102], { b: [0.05, 0.028, 0.015] }, 'Dirt in the recesses'),
    node('clean', 'math', [816, 408], { operation: 'subtract', a: 1 }, 'Not dirty'),
    node('metalness', 'math', [1020, 408], { operation: 'multiply' }, 'Metalness'),
    node('coatRough', 'mix', [612, 245], { what: 'value', a: 0.72, b: 0.42 }, 'Iron and paint'),
    node('bareRough', 'mix', [816, 245], { what: 'value', b: 0.28 }, 'Rubbed smooth'),
    node('roughness', 'mix', [1020, 245], { what: 'value', b: 0.9 }, 'Roughness'),
    node('finish', 'finish', [1224, 204]),
    node('result', 'result', [1428, 204]),
  ],
  wires: [
    'paintColor.color > paint.color', 'perPiece.value > paint.hueBy', 'perPiece.second > paint.chromaBy', 'perPiece.third > paint.lightnessBy', 'perPiece.value > ironColors.value',
    'edges.value > wear.a', 'wearNoise.value > wear.b', 'wear.value > wearMask.value', 'ironColors.color > coats.a', 'paint.color > coats.b', 'painted.value > coats.amount',
    'coats.out > bare.a', 'wearMask.value > bare.amount', 'recesses.value > hollow.a', 'occlusion.value > hollow.b', 'hollow.value > dirt.a', 'dirtNoise.value > dirt.b', 'dirt.value > dirtMask.value',
    'bare.out > dirty.a', 'dirtMask.value > dirty.amount', 'dirtMask.value > clean.b', 'wearMask.value > metalness.a', 'clean.value > metalness.b',
    'painted.value > coatRough.amount', 'coatRough.out > bareRough.a', 'wearMask.value > bareRough.amount', 'bareRough.out > roughness.a', 'dirtMask.value > roughness.amount',
    'dirty.out > finish.baseColor', 'metalness.value > finish.metalness', 'roughness.out > finish.roughness', 'finish.finish > result.finish',
  ].map(wire),
})
