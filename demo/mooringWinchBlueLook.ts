import type { Look } from '../core/graph/look'
import { node, wire } from '../core/recipes/write'
import { mooringWinchPreparation } from './preparations'
import { withRecipe } from './withRecipe'

/**
 * Painted over: gray-blue over red primer over cast iron, scratched to the primer, worn to the metal at the edges, with
 * pale bands around the drum, dirt in the recesses and dust on top.
 */
export const mooringWinchBlueLook = (): Look => {
  const recipe = withRecipe(mooringWinchPreparation())
  return {
    ubblet: 'look',
    version: 1,
    name: 'Blue over primer',
    nodes: [
      node('ironColor', 'color', [0, 0], { color: [0.07, 0.07, 0.072] }, 'Cast iron'),
      recipe(
        'ironDrift',
        'Per-part drift',
        [204, 0],
        { seed: 61, hue: 8, chroma: 20, lightness: 5 },
        'Iron, piece by piece',
      ),
      node('grain', 'noise', [0, 236], { size: 3, detail: 2, contrast: 1.6, seed: 62 }, 'Cast grain'),
      node('iron', 'finish', [408, 0], { roughness: 0.62, heightScale: 0.15 }, 'Iron'),
      node(
        'primerTone',
        'grunge',
        [0, 472],
        { pattern: 'blotches', size: 14, amount: 0.5, softness: 0.9, seed: 63 },
        'Brushed on',
      ),
      node(
        'primerColors',
        'ramp',
        [204, 472],
        {
          stops: [
            { at: 0, color: [0.2, 0.04, 0.022] },
            { at: 1, color: [0.29, 0.07, 0.035] },
          ],
        },
        'Red primer',
      ),
      node('primer', 'finish', [408, 472], { roughness: 0.8 }, 'Primer'),
      node('onPaint', 'partSet', [612, 236], { set: 'Painted' }, 'On painted parts'),
      node('primed', 'layer', [612, 0], { opens: 'coat' }, 'Primer over iron'),
      node('blue', 'color', [0, 868], { color: [0.075, 0.14, 0.19] }, 'Gray-blue'),
      recipe(
        'blueTones',
        'Two-tone blotches',
        [204, 868],
        { seed: 64, size: 45, lighter: 4, share: 35 },
        'Sun-struck patches',
      ),
      recipe('blueDrift', 'Per-part drift', [408, 868], { seed: 65, hue: 6, chroma: 16, lightness: 5 }, 'Each piece'),
      node(
        'band',
        'stripes',
        [408, 1104],
        { across: 'X', size: 40, share: 0.16, softness: 0.02, shift: 0.1, seed: 66 },
        'Bands',
      ),
      node('banded', 'mix', [612, 868], { b: [0.5, 0.48, 0.42] }, 'Pale bands'),
      node('paintRough', 'noise', [612, 1104], { size: 10, detail: 4, contrast: 1.2, seed: 67 }, 'Sheen'),
      node('sheen', 'levels', [816, 1104], { outLow: 0.3, outHigh: 0.55 }, 'Semi-gloss'),
      node('paint', 'finish', [1020, 868], {}, 'Blue paint'),
      recipe(
        'scratched',
        'Scratched coat',
        [816, 0],
        { seed: 68, amount: 0.4, size: 16, depth: 0.12 },
        'Blue, scratched',
      ),
      node('painted', 'layer', [1020, 0], { opens: 'coat' }, 'Only on painted parts'),
      node('onPaintAgain', 'echo', [816, 236], { of: 'onPaint/value', carries: 'value' }, 'On painted parts'),
      recipe(
        'chips',
        'Edge wear',
        [1224, 0],
        {
          seed: 69,
          share: 9,
          softness: 0.05,
          breakUp: 9,
          bareColor: [0.24, 0.055, 0.03],
          bareMetalness: 0,
          bareRoughness: 0.8,
        },
        'Chipped to the primer',
      ),
      recipe(
        'bare',
        'Edge wear',
        [1428, 0],
        { seed: 70, share: 4, softness: 0.04, breakUp: 6, bareColor: [0.52, 0.5, 0.47], bareRoughness: 0.26 },
        'Rubbed to metal',
      ),
      recipe('dirt', 'Recess dirt', [1632, 0], { seed: 71, share: 20, amount: 0.85 }, 'Grease and dirt'),
      node(
        'hempTone',
        'grunge',
        [1224, 472],
        { pattern: 'fibers', size: 3, sits: 'threeWay', amount: 0.5, softness: 1, seed: 72 },
        'Fibers',
      ),
      node(
        'hempColors',
        'ramp',
        [1428, 472],
        {
          stops: [
            { at: 0, color: [0.17, 0.125, 0.075] },
            { at: 1, color: [0.34, 0.265, 0.165] },
          ],
        },
        'Hemp',
      ),
      node('hemp', 'finish', [1632, 472], { roughness: 0.93, heightScale: 0.35 }, 'Rope'),
      node('byArea', 'bySet', [1836, 0], { setA: 'Rope' }, 'Rope, and the rest'),
      recipe('dust', 'Dust on top', [2040, 0], { seed: 73, amount: 0.5 }, 'Dust'),
      node('result', 'result', [2244, 0]),
    ],
    wires: [
      'ironColor.color > ironDrift.color',
      'ironDrift.color > iron.baseColor',
      'grain.value > iron.height',
      'primerTone.value > primerColors.value',
      'primerColors.color > primer.baseColor',
      'iron.finish > primed.below',
      'primer.finish > primed.above',
      'onPaint.value > primed.mask',
      'blue.color > blueTones.color',
      'blueTones.color > blueDrift.color',
      'blueDrift.color > banded.a',
      'band.value > banded.amount',
      'banded.out > paint.baseColor',
      'paintRough.value > sheen.value',
      'sheen.value > paint.roughness',
      'primed.finish > scratched.below',
      'paint.finish > scratched.coat',
      'primed.finish > painted.below',
      'scratched.finish > painted.above',
      'onPaintAgain.out > painted.mask',
      'painted.finish > chips.coat',
      'chips.finish > bare.coat',
      'bare.finish > dirt.below',
      'hempTone.value > hempColors.value',
      'hempColors.color > hemp.baseColor',
      'hempTone.value > hemp.height',
      'dirt.finish > byArea.rest',
      'hemp.finish > byArea.a',
      'byArea.finish > dust.below',
      'dust.finish > result.finish',
    ].map(wire),
    notes: [
      { id: 'coats', at: [-24, -56], size: [1222, 1400], frame: true, title: 'Coats, from the metal out', text: '' },
      { id: 'use', at: [1200, -56], size: [610, 320], frame: true, title: 'Use', text: '' },
      { id: 'rope', at: [1200, 416], size: [632, 420], frame: true, title: 'Rope', text: '' },
    ],
  }
}
