import type { Look } from '../core/graph/look'
import { node, wire } from '../core/recipes/write'

/**
 * Glass floats in sea greens with a few ambers, bleached where the sun reaches, bloomed with salt; ropes from tar to
 * straw; steel that rusts from the foot up.
 */
export const floatRackLook = (): Look => ({
  ubblet: 'look', version: 1, name: 'Weathered floats',
  nodes: [
    node('perFloat', 'partRandom', [0, 0], { level: 'group', seed: 11 }, 'Per float'),
    node('glassColors', 'ramp', [204, 0], {
      stops: [
        { at: 0, color: [0.012, 0.11, 0.085] }, { at: 0.3, color: [0.03, 0.21, 0.13] }, { at: 0.55, color: [0.1, 0.33, 0.22] },
        { at: 0.75, color: [0.03, 0.15, 0.25] }, { at: 0.86, color: [0.08, 0.28, 0.4] }, { at: 0.88, color: [0.45, 0.16, 0.02] }, { at: 1, color: [0.25, 0.06, 0.01] },
      ],
    }, 'Glass batches'),
    node('glassDrift', 'varyColor', [408, 0], { hue: 34, chroma: 60, lightness: 16 }, 'Drift'),
    node('sun', 'vertexMap', [204, 236], { map: 'sunward' }, 'Sunward'),
    node('fade', 'levels', [408, 236], { inLow: 0.15, inHigh: 1, gamma: 0.8, outHigh: 0.3 }, 'Fade'),
    node('faded', 'mix', [612, 0], { b: [0.62, 0.68, 0.6] }, 'Sun-faded glass'),
    node('salt', 'noise', [204, 472], { size: 6, detail: 4, strength: 0.6, contrast: 2.2, seed: 12 }, 'Salt'),
    node('saltRough', 'levels', [408, 472], { inLow: 0.35, inHigh: 0.9, outLow: 0.06, outHigh: 0.62 }, 'Salt to roughness'),
    node('perRope', 'partRandom', [0, 236], { seed: 13 }, 'Per rope'),
    node('ropeColors', 'ramp', [612, 236], {
      stops: [{ at: 0, color: [0.055, 0.035, 0.02] }, { at: 0.5, color: [0.3, 0.19, 0.085] }, { at: 1, color: [0.52, 0.4, 0.22] }],
    }, 'Tar to straw'),
    node('rope', 'vertexMap', [612, 472], { map: 'rope' }, 'On rope'),
    node('glass', 'vertexMap', [612, 708], { map: 'glass' }, 'On glass'),
    node('foot', 'positionGradient', [0, 472], { start: 0, end: 0.5, softness: 1, flip: true }, 'Foot'),
    node('rustNoise', 'noise', [0, 708], { size: 14, detail: 5, strength: 0.62, contrast: 2.6, seed: 14 }, 'Rust patches'),
    node('rust', 'math', [204, 708], { operation: 'multiply' }, 'Rust at the foot'),
    node('steelColors', 'ramp', [408, 708], {
      stops: [{ at: 0, color: [0.2, 0.21, 0.21] }, { at: 0.3, color: [0.17, 0.16, 0.15] }, { at: 0.45, color: [0.16, 0.06, 0.022] }, { at: 1, color: [0.085, 0.028, 0.012] }],
    }, 'Steel to rust'),
    node('notGlass', 'mix', [816, 282], {}, 'Rope over steel'),
    node('allColor', 'mix', [1020, 71], {}, 'Glass over all'),
    node('plainRough', 'mix', [816, 566], { what: 'value', a: 0.48, b: 0.86 }, 'Steel and rope'),
    node('allRough', 'mix', [1020, 400], { what: 'value' }, 'Roughness'),
    node('finish', 'finish', [1224, 212]),
    node('result', 'result', [1428, 212]),
  ],
  wires: [
    'perFloat.value > glassColors.value', 'glassColors.color > glassDrift.color', 'perFloat.second > glassDrift.hueBy',
    'perFloat.third > glassDrift.chromaBy', 'perFloat.second > glassDrift.lightnessBy', 'glassDrift.color > faded.a',
    'sun.value > fade.value', 'fade.value > faded.amount', 'salt.value > saltRough.value', 'perRope.value > ropeColors.value',
    'rustNoise.value > rust.a', 'foot.value > rust.b', 'rust.value > steelColors.value', 'steelColors.color > notGlass.a',
    'ropeColors.color > notGlass.b', 'rope.value > notGlass.amount', 'notGlass.out > allColor.a', 'faded.out > allColor.b',
    'glass.value > allColor.amount', 'rope.value > plainRough.amount', 'plainRough.out > allRough.a', 'saltRough.value > allRough.b',
    'glass.value > allRough.amount', 'allColor.out > finish.baseColor', 'allRough.out > finish.roughness', 'finish.finish > result.finish',
  ].map(wire),
})
