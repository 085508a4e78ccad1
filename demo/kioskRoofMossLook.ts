import type { Look } from '../core/graph/look'
import { node, wire } from '../core/recipes/write'
import { kioskRoofPreparation } from './preparations'
import { withRecipe } from './withRecipe'

/**
 * The shady side of the roof: terracotta and ochre glazes that differ from scale to scale, bleached toward the sun, moss
 * creeping out of the gaps and standing up from them, lichen in spots, stains run down from the finial.
 */
export const kioskRoofMossLook = (): Look => {
  const recipe = withRecipe(kioskRoofPreparation())
  return {
    ubblet: 'look', version: 1, name: 'Moss in the shade',
    nodes: [
      node('glazes', 'palette', [0, 0], {
        seed: 51, differ: 8, colors: [
          { at: 0.3, color: [0.27, 0.075, 0.032] }, { at: 0.24, color: [0.2, 0.045, 0.025] }, { at: 0.2, color: [0.34, 0.13, 0.045] }, { at: 0.16, color: [0.13, 0.04, 0.03] }, { at: 0.1, color: [0.4, 0.22, 0.09] },
        ],
      }, 'Glaze batches'),
      recipe('drift', 'Per-part drift', [204, 0], { seed: 52, hue: 9, chroma: 22, lightness: 8, how: 'apartBalanced' }, 'Each its own way'),
      recipe('fade', 'Sun fade', [408, 0], { seed: 53, lighter: 12, chromaLeft: 55, sunX: 0.7, sunY: 0.6, sunZ: 0.4 }, 'Toward the sun'),
      recipe('tones', 'Two-tone blotches', [612, 0], { seed: 54, size: 16, lighter: -5, share: 40 }, 'Fired unevenly'),
      node('crackle', 'grunge', [408, 236], { pattern: 'crackle', size: 7, sits: 'part', amount: 0.5, softness: 0.5, seed: 55 }, 'Crackle in the glaze'),
      node('crackDark', 'adjustColor', [612, 236], { lightness: -6, chroma: 85 }, 'In the cracks'),
      node('crackled', 'mix', [816, 0], {}, 'Crackled'),
      node('depth', 'invert', [612, 472], {}, 'Cracks are low'),
      node('shine', 'levels', [816, 236], { outLow: 0.24, outHigh: 0.66 }, 'Shine to crack'),
      node('glaze', 'finish', [1020, 0], { heightScale: 0.15 }, 'Glaze'),
      node('ceramic', 'vertexMap', [816, 472], { map: 'ceramic' }, 'On ceramic'),
      node('copper', 'finish', [1020, 350], { baseColor: [0.22, 0.35, 0.29], roughness: 0.7 }, 'Copper gone green'),
      node('roof', 'layer', [1224, 0], { opens: 'coat' }, 'Scales over copper'),
      node('gaps', 'geometryMap', [0, 708], { map: 'occlusion' }, 'In the gaps'),
      node('shade', 'facing', [0, 944], { x: -0.8, y: 0.3, z: 0.25 }, 'Away from the sun'),
      node('foot', 'positionGradient', [0, 1180], { axis: 'any', turn: 60, tilt: 70, start: 0.05, end: 0.8, flip: true, raggedness: 0.3 }, 'Damp below'),
      node('creep', 'noise', [0, 1416], { size: 22, detail: 5, contrast: 1.8, seed: 56 }, 'Creeping'),
      node('wet', 'combine', [204, 944], { mode: 'multiply' }, 'Shady and damp'),
      node('moist', 'combine', [408, 944], { mode: 'screen' }, 'Gaps first'),
      node('open', 'levels', [408, 708], { inLow: 0.5, inHigh: 0.62, outLow: 1, outHigh: 0 }, 'Not under the scales'),
      node('grown', 'combine', [612, 944], { mode: 'overlay', amount: 0.6 }, 'Broken up'),
      node('mossCover', 'coverage', [816, 944], { share: 26, softness: 0.4 }, 'Moss: 26 %'),
      node('mossEdge', 'growShrink', [1020, 944], { amount: 4, width: 18 }, 'Creeps out'),
      node('cushion', 'soften', [1224, 944], { radius: 16 }, 'Cushions'),
      node('mossTone', 'noise', [1020, 1180], { size: 5, detail: 3, contrast: 2, seed: 57 }, 'Tufts'),
      node('mossColors', 'ramp', [1224, 1180], { stops: [{ at: 0, color: [0.018, 0.028, 0.009] }, { at: 0.5, color: [0.05, 0.085, 0.018] }, { at: 1, color: [0.14, 0.17, 0.035] }] }, 'Moss'),
      node('moss', 'finish', [1428, 944], { roughness: 0.97, heightScale: 4 }, 'Moss'),
      node('mossy', 'layer', [1632, 0], {}, 'Moss over'),
      node('spots', 'cells', [1428, 500], { size: 7, jitter: 1, seed: 58 }, 'Spots'),
      node('lichenWhere', 'coverage', [1632, 500], { share: 5, softness: 0.2, over: 'part' }, 'Lichen: 5 % of each scale'),
      node('away', 'invert', [1632, 736], {}, 'Nearest first'),
      node('lichen', 'finish', [1836, 500], { baseColor: [0.42, 0.42, 0.29], roughness: 0.95 }, 'Lichen'),
      node('spotted', 'layer', [1836, 0], { amount: 0.8 }, 'Lichen over'),
      recipe('stains', 'Drips', [2040, 0], { seed: 59, amount: 0.5, size: 11, stainColor: [0.035, 0.03, 0.022] }, 'Stains'),
      node('result', 'result', [2244, 0]),
    ],
    wires: [
      'glazes.color > drift.color', 'drift.color > fade.color', 'fade.color > tones.color', 'tones.color > crackled.a', 'tones.color > crackDark.color', 'crackDark.color > crackled.b', 'crackle.value > crackled.amount',
      'crackle.value > depth.value', 'crackle.value > shine.value', 'crackled.out > glaze.baseColor', 'shine.value > glaze.roughness', 'depth.value > glaze.height',
      'copper.finish > roof.below', 'glaze.finish > roof.above', 'ceramic.value > roof.mask',
      'shade.value > wet.a', 'foot.value > wet.b', 'creep.value > foot.ragged', 'gaps.value > moist.a', 'wet.value > moist.b', 'moist.value > grown.a', 'creep.value > grown.b', 'grown.value > mossCover.value', 'gaps.value > open.value', 'open.value > mossCover.where', 'mossCover.value > mossEdge.value',
      'mossEdge.value > cushion.value', 'mossTone.value > mossColors.value', 'mossColors.color > moss.baseColor', 'cushion.value > moss.height', 'roof.finish > mossy.below', 'moss.finish > mossy.above', 'mossEdge.value > mossy.mask',
      'spots.distance > away.value', 'away.value > lichenWhere.value', 'mossy.finish > spotted.below', 'lichen.finish > spotted.above', 'lichenWhere.value > spotted.mask',
      'spotted.finish > stains.below', 'stains.finish > result.finish',
    ].map(wire),
    notes: [
      { id: 'glaze', at: [-24, -56], size: [1222, 760], frame: true, title: 'Glaze', text: '' },
      { id: 'moss', at: [-24, 650], size: [1600, 1000], frame: true, title: 'Moss', text: 'Grows where it is shady, damp and out of the rain\'s way. Its share is fixed; what decides the places may change.' },
    ],
  }
}
