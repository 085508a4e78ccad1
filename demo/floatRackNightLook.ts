import type { Look, Note } from '../core/graph/look'
import { node, wire } from '../core/recipes/write'
import { floatRackPreparation } from './preparations'
import { withRecipe } from './withRecipe'

const note = (
  id: string,
  at: [number, number],
  size: [number, number],
  title: string,
  text: string,
  frame = false,
): Note => ({ id, at, size, frame, title, text })

/**
 * After dark: one float in six has a lamp inside and glows through its glass, thin glass lets light through, the rest
 * is deep and wet; ropes and steel are damp up to a ragged line.
 */
export const floatRackNightLook = (): Look => {
  const recipe = withRecipe(floatRackPreparation())
  return {
    ubblet: 'look',
    version: 1,
    name: 'Lamps in the floats',
    nodes: [
      node(
        'glassColors',
        'palette',
        [0, 0],
        {
          seed: 41,
          follow: 1,
          colors: [
            { at: 0.34, color: [0.025, 0.12, 0.085] },
            { at: 0.26, color: [0.03, 0.1, 0.16] },
            { at: 0.22, color: [0.05, 0.17, 0.13] },
            { at: 0.1, color: [0.28, 0.1, 0.02] },
            { at: 0.08, color: [0.2, 0.22, 0.18] },
          ],
        },
        'Glass batches',
      ),
      recipe(
        'drift',
        'Per-part drift',
        [204, 0],
        { seed: 42, hue: 22, chroma: 40, lightness: 10, followTheGroup: 1 },
        'Drift',
      ),
      node('chance', 'partRandom', [0, 236], { level: 'group', seed: 43, how: 'count' }, 'Which are lit'),
      node('lit', 'levels', [204, 236], { inLow: 0.83, inHigh: 0.84 }, 'One in six'),
      node(
        'heat',
        'positionGradient',
        [0, 472],
        { space: 'part', start: 0.05, end: 0.9, softness: 1, flip: true },
        'Brighter at the bottom',
      ),
      node(
        'warmth',
        'curve',
        [204, 472],
        {
          points: [
            { x: 0, y: 0.12 },
            { x: 0.55, y: 0.42 },
            { x: 1, y: 1 },
          ],
        },
        'Falloff',
      ),
      node('glow', 'combine', [408, 236], { mode: 'multiply' }, 'Glow'),
      node(
        'lampColors',
        'ramp',
        [612, 236],
        {
          stops: [
            { at: 0, color: [0, 0, 0] },
            { at: 0.35, color: [0.5, 0.1, 0.012] },
            { at: 1, color: [1, 0.4, 0.08] },
          ],
        },
        'Lamp',
      ),
      node(
        'smoke',
        'grunge',
        [408, 472],
        { pattern: 'swirls', size: 9, amount: 0.5, softness: 0.9, sits: 'part', seed: 44 },
        'Swirls in the glass',
      ),
      node('rough', 'levels', [612, 472], { outLow: 0.06, outHigh: 0.22 }, 'Blown unevenly'),
      node(
        'glass',
        'finish',
        [816, 0],
        {
          sets: ['baseColor', 'metalness', 'roughness', 'emission', 'translucency'],
          intensity: 1.8,
          translucency: 0.3,
          throughColor: [0.16, 0.42, 0.3],
        },
        'Glass',
      ),
      node(
        'ropeColors',
        'ramp',
        [204, 764],
        {
          stops: [
            { at: 0, color: [0.05, 0.034, 0.022] },
            { at: 0.5, color: [0.22, 0.14, 0.07] },
            { at: 1, color: [0.4, 0.3, 0.17] },
          ],
        },
        'Tar to straw',
      ),
      node('perRope', 'partRandom', [0, 764], { seed: 45, how: 'apartBalanced' }, 'Per rope'),
      node(
        'fibers',
        'grunge',
        [408, 764],
        { pattern: 'fibers', size: 3, sits: 'part', amount: 0.55, softness: 0.6, seed: 46 },
        'Fibers',
      ),
      node('rope', 'finish', [816, 340], { roughness: 0.9, heightScale: 0.6 }, 'Rope'),
      node(
        'rustNoise',
        'noise',
        [0, 1056],
        { size: 14, detail: 5, strength: 0.6, contrast: 2.2, seed: 47 },
        'Rust patches',
      ),
      node(
        'steelColors',
        'ramp',
        [204, 1056],
        {
          stops: [
            { at: 0, color: [0.16, 0.17, 0.17] },
            { at: 0.5, color: [0.13, 0.12, 0.115] },
            { at: 0.66, color: [0.12, 0.05, 0.022] },
            { at: 1, color: [0.07, 0.026, 0.014] },
          ],
        },
        'Steel to rust',
      ),
      node('steel', 'finish', [816, 680], { roughness: 0.55 }, 'Steel'),
      node('sets', 'bySet', [1020, 236], { setA: 'Glass floats' }, 'Glass, and the rest'),
      node('ropeMask', 'vertexMap', [816, 1020], { map: 'rope' }, 'On rope'),
      node('ropeOver', 'layer', [1020, 560], { opens: 'coat' }, 'Rope over steel'),
      recipe('damp', 'Damp foot', [1224, 236], { seed: 48, height: 0.45, raggedness: 0.3, darker: 0.45 }, 'Damp'),
      node('result', 'result', [1428, 236]),
    ],
    wires: [
      'glassColors.color > drift.color',
      'chance.value > lit.value',
      'heat.value > warmth.value',
      'lit.value > glow.a',
      'warmth.value > glow.b',
      'glow.value > lampColors.value',
      'smoke.value > rough.value',
      'drift.color > glass.baseColor',
      'rough.value > glass.roughness',
      'lampColors.color > glass.emission',
      'perRope.value > ropeColors.value',
      'ropeColors.color > rope.baseColor',
      'fibers.value > rope.height',
      'rustNoise.value > steelColors.value',
      'steelColors.color > steel.baseColor',
      'steel.finish > ropeOver.below',
      'rope.finish > ropeOver.above',
      'ropeMask.value > ropeOver.mask',
      'ropeOver.finish > sets.rest',
      'glass.finish > sets.a',
      'sets.finish > damp.below',
      'damp.finish > result.finish',
    ].map(wire),
    notes: [
      note('lamps', [-24, 196], [810, 500], 'Lamps', '', true),
      note('ropes', [-24, 708], [636, 280], 'Rope', '', true),
      note('metal', [-24, 1000], [432, 280], 'Steel', '', true),
      note(
        'why',
        [840, -150],
        [300, 110],
        'Glass',
        'Lit floats give light, all of them let some through: less of it than window glass, since these were blown thick.',
      ),
    ],
  }
}
