import type { Look, LookNode } from '../core/graph/look'
import { node, wire } from '../core/recipes/write'

/** A picture that was taken from the dense winch, as numbers on the UVs. */
const taken = (id: string, at: [number, number], of: string, name: string): LookNode =>
  node(
    id,
    'picture',
    at,
    { picture: `dense ${of}.exr`, space: 'linear', beyondSides: 'edge', beyondEnds: 'edge' },
    name,
  )

/** A draw for each part that only the dense mesh has. */
const DENSE_PARTS = { level: 'densePart', parts: 'dense parts.exr', seed: 87 }

/**
 * Knocked about: all that varies is read from the dense winch. Paint has left the dents, edges are rubbed bare, dirt
 * lies in the grain of the castings, and each strand of the rope has a tone of its own.
 */
export const mooringWinchCastLook = (): Look => ({
  ubblet: 'look',
  version: 1,
  name: 'As it was cast',
  nodes: [
    node('ironColor', 'color', [0, 0], { color: [0.055, 0.052, 0.05] }, 'Cast iron'),
    node('ironPiece', 'partRandom', [0, 236], { seed: 81 }, 'Casting by casting'),
    node('ironDrift', 'varyColor', [204, 0], { hue: 8, chroma: 25, lightness: 6 }, 'Iron, piece by piece'),
    node('iron', 'finish', [408, 0], { roughness: 0.62 }, 'Iron'),
    taken('grain', [204, 236], 'concavity', 'Grain of the castings'),
    node('inGrain', 'levels', [408, 354], { inLow: 0.04, inHigh: 0.3 }, 'In the grain'),
    node('soot', 'finish', [612, 236], { baseColor: [0.05, 0.03, 0.018], roughness: 0.95 }, 'Old oil'),
    node('dirty', 'layer', [816, 0], {}, 'Oil in the grain'),
    node('paintColor', 'color', [0, 708], { color: [0.3, 0.33, 0.27] }, 'Pier gray'),
    node('paintPiece', 'partRandom', [0, 944], { seed: 82 }, 'Piece by piece'),
    node('paintDrift', 'varyColor', [204, 708], { hue: 10, chroma: 20, lightness: 7 }, 'Repainted at times'),
    node('paintRough', 'noise', [204, 1003], { size: 8, detail: 4, contrast: 1.2, seed: 83 }, 'Sheen'),
    node('sheen', 'levels', [408, 1003], { outLow: 0.34, outHigh: 0.6 }, 'Semi-gloss'),
    node('paint', 'finish', [612, 708], {}, 'Paint'),
    taken('dents', [408, 708], 'height', 'Dents'),
    node('inDents', 'remap', [816, 885], { fromLow: -0.3, fromHigh: -1.1 }, 'In the dents'),
    node('rust', 'finish', [612, 1003], { baseColor: [0.16, 0.045, 0.018], roughness: 0.92 }, 'Rust'),
    node('rusted', 'layer', [1020, 708], {}, 'Rust in the dents'),
    node('onPaint', 'partSet', [816, 236], { set: 'Painted' }, 'On painted parts'),
    node('painted', 'layer', [1224, 0], { opens: 'coat' }, 'Painted'),
    taken('edges', [1224, 236], 'convexity', 'Edges'),
    node('onEdges', 'levels', [1428, 236], { inLow: 0.35, inHigh: 0.75 }, 'On the edges'),
    node('bare', 'finish', [1632, 236], { baseColor: [0.5, 0.49, 0.47], metalness: 1, roughness: 0.3 }, 'Bare metal'),
    node('worn', 'layer', [1632, 0], { opens: 'coat' }, 'Edges rubbed bare'),
    node('strand', 'partRandom', [1224, 826], { ...DENSE_PARTS, seed: 4 }, 'Strand by strand'),
    node(
      'hempColors',
      'ramp',
      [1428, 826],
      {
        stops: [
          { at: 0, color: [0.15, 0.105, 0.055] },
          { at: 0.6, color: [0.27, 0.2, 0.115] },
          { at: 1, color: [0.4, 0.33, 0.22] },
        ],
      },
      'Hemp',
    ),
    node('hemp', 'finish', [1632, 708], { roughness: 0.93 }, 'Rope'),
    node('byArea', 'bySet', [1836, 0], { setA: 'Rope' }, 'Rope, and the rest'),
    node('result', 'result', [2040, 0], { normals: 'dense normal.exr', heights: 'dense height.exr' }),
  ],
  wires: [
    'ironColor.color > ironDrift.color',
    'ironPiece.value > ironDrift.hueBy',
    'ironPiece.second > ironDrift.chromaBy',
    'ironPiece.third > ironDrift.lightnessBy',
    'ironDrift.color > iron.baseColor',
    'grain.red > inGrain.value',
    'iron.finish > dirty.below',
    'soot.finish > dirty.above',
    'inGrain.value > dirty.mask',
    'paintColor.color > paintDrift.color',
    'paintPiece.value > paintDrift.hueBy',
    'paintPiece.second > paintDrift.chromaBy',
    'paintPiece.third > paintDrift.lightnessBy',
    'paintDrift.color > paint.baseColor',
    'paintRough.value > sheen.value',
    'sheen.value > paint.roughness',
    'dents.red > inDents.value',
    'paint.finish > rusted.below',
    'rust.finish > rusted.above',
    'inDents.value > rusted.mask',
    'dirty.finish > painted.below',
    'rusted.finish > painted.above',
    'onPaint.value > painted.mask',
    'edges.red > onEdges.value',
    'painted.finish > worn.below',
    'bare.finish > worn.above',
    'onEdges.value > worn.mask',
    'worn.finish > byArea.rest',
    'strand.value > hempColors.value',
    'hempColors.color > hemp.baseColor',
    'hemp.finish > byArea.a',
    'byArea.finish > result.finish',
  ].map(wire),
  notes: [
    { id: 'iron', at: [-24, -56], size: [1020, 730], frame: true, title: 'Castings', text: '' },
    { id: 'coat', at: [-24, 652], size: [1224, 690], frame: true, title: 'Paint, and where it was knocked', text: '' },
    { id: 'rope', at: [1200, 652], size: [632, 480], frame: true, title: 'Rope', text: '' },
  ],
})
