import type { Look } from '../core/graph/look'
import { node, wire } from '../core/recipes/write'

/**
 * Ochre paint, rubbed to steel along the edges where a broad noise lets it, dirt and rust in the recesses; iron darker
 * piece by piece; bolts that each rust in their own way.
 */
export const mooringWinchLook = (): Look => ({
  ubblet: 'look', version: 1, name: 'Worn ochre',
  nodes: [
    node('perPiece', 'partRandom', [0, 0], { seed: 31 }, 'Per piece'),
    node('paintColor', 'color', [0, 232], { color: [0.42, 0.19, 0.022] }, 'Ochre paint'),
    node('paint', 'varyColor', [204, 0], { hue: 10, chroma: 24, lightness: 7 }, 'Paint drift'),
    node('ironColors', 'ramp', [204, 232], { stops: [{ at: 0, color: [0.035, 0.037, 0.04] }, { at: 0.7, color: [0.075, 0.076, 0.078] }, { at: 0.85, color: [0.1, 0.062, 0.04] }, { at: 1, color: [0.14, 0.06, 0.028] }] }, 'Iron to rust'),
    node('edges', 'vertexMap', [0, 464], { map: 'edges' }, 'Edges'),
    node('wearNoise', 'noise', [0, 696], { size: 7, detail: 3, strength: 0.6, contrast: 2.2, seed: 32 }, 'Where hands were'),
    node('wear', 'math', [204, 464], { operation: 'multiply' }, 'Wear'),
    node('wearMask', 'coverage', [408, 464], { share: 7, softness: 0.06 }, 'Worn: 7 % of the area'),
    node('painted', 'partSet', [204, 696], { set: 'Painted' }, 'On paint'),
    node('coats', 'mix', [408, 0], {}, 'Paint over iron'),
    node('bare', 'mix', [612, 0], { b: [0.5, 0.48, 0.45] }, 'Rubbed to metal'),
    node('recesses', 'vertexMap', [408, 696], { map: 'recesses' }, 'Recesses'),
    node('occlusion', 'vertexMap', [408, 928], { map: 'occlusion' }, 'Occlusion'),
    node('hollow', 'math', [612, 696], { operation: 'larger' }, 'Hollow'),
    node('dirtNoise', 'grunge', [612, 928], { pattern: 'smudges', size: 9, amount: 0.62, softness: 0.7, seed: 33 }, 'Dirt break-up'),
    node('dirt', 'math', [816, 696], { operation: 'multiply' }, 'Dirt'),
    node('dirtMask', 'levels', [1020, 696], { inLow: 0.1, inHigh: 0.5, outHigh: 0.9 }, 'Dirt amount'),
    node('dirty', 'mix', [816, 0], { b: [0.05, 0.028, 0.015] }, 'Dirt in the recesses'),
    node('clean', 'math', [816, 464], { operation: 'subtract', a: 1 }, 'Not dirty'),
    node('metalness', 'math', [1020, 464], { operation: 'multiply' }, 'Metalness'),
    node('coatRough', 'mix', [612, 232], { what: 'value', a: 0.72, b: 0.42 }, 'Iron and paint'),
    node('bareRough', 'mix', [816, 232], { what: 'value', b: 0.28 }, 'Rubbed smooth'),
    node('roughness', 'mix', [1020, 232], { what: 'value', b: 0.9 }, 'Roughness'),
    node('ropeFibers', 'noise', [0, 928], { size: 2.5, detail: 2, strength: 0.6, contrast: 1.4, seed: 34 }, 'Fibers'),
    node('ropeColors', 'ramp', [204, 928], { stops: [{ at: 0, color: [0.1, 0.065, 0.032] }, { at: 0.55, color: [0.27, 0.2, 0.11] }, { at: 1, color: [0.42, 0.34, 0.22] }] }, 'Hemp'),
    node('rope', 'partSet', [816, 928], { set: 'Rope' }, 'Rope'),
    node('worn', 'finish', [1224, 232], {}, 'Paint and iron'),
    node('hemp', 'finish', [1224, 696], { metalness: 0, roughness: 0.92 }, 'Rope'),
    node('layered', 'layer', [1428, 464], {}, 'Rope on the drum'),
    node('result', 'result', [1632, 464]),
  ],
  wires: [
    'paintColor.color > paint.color', 'perPiece.value > paint.hueBy', 'perPiece.second > paint.chromaBy', 'perPiece.third > paint.lightnessBy', 'perPiece.value > ironColors.value',
    'edges.value > wear.a', 'wearNoise.value > wear.b', 'wear.value > wearMask.value', 'ironColors.color > coats.a', 'paint.color > coats.b', 'painted.value > coats.amount',
    'coats.out > bare.a', 'wearMask.value > bare.amount', 'recesses.value > hollow.a', 'occlusion.value > hollow.b', 'hollow.value > dirt.a', 'dirtNoise.value > dirt.b', 'dirt.value > dirtMask.value',
    'bare.out > dirty.a', 'dirtMask.value > dirty.amount', 'dirtMask.value > clean.b', 'wearMask.value > metalness.a', 'clean.value > metalness.b',
    'painted.value > coatRough.amount', 'coatRough.out > bareRough.a', 'wearMask.value > bareRough.amount', 'bareRough.out > roughness.a', 'dirtMask.value > roughness.amount',
    'ropeFibers.value > ropeColors.value', 'ropeColors.color > hemp.baseColor',
    'dirty.out > worn.baseColor', 'metalness.value > worn.metalness', 'roughness.out > worn.roughness',
    'worn.finish > layered.below', 'hemp.finish > layered.above', 'rope.value > layered.mask', 'layered.finish > result.finish',
  ].map(wire),
})
