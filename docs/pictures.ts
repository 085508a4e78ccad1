import { encode } from 'fast-png'
import { Analyzer, SWATCH_HEIGHT, SWATCH_WIDTH } from '../core/evaluate/analysis'
import { Workpiece } from '../core/evaluate/workpiece'
import { computeMap } from '../core/geometry/compute'
import { Geometry } from '../core/geometry/geometry'
import { addNode, connect, setParam } from '../core/graph/edit'
import { emptyLook, type Look } from '../core/graph/look'
import { inputType } from '../core/graph/kinds'
import { nodeOf } from '../core/graph/find'
import { converts } from '../core/graph/ports'
import { loadKernels } from '../core/kernels/kernels'
import { KINDS, RESULT } from '../core/nodes'
import type { NodeKind, ParamValue } from '../core/nodes/declare'
import { kioskRoof } from '../demo/kioskRoof'
import { kioskRoofPreparation } from '../demo/preparations'

/** Settings with which a kind shows what it does on the roof. */
const SHOWN: Record<string, Record<string, ParamValue>> = {
  partMeasure: { measure: 'height' },
  partSet: { set: 'Replaced scales' },
  vertexMap: { map: 'weather' },
  geometryMap: { map: 'edges' },
  facing: { x: 0.7, y: 0.3, z: 0.4 },
  positionGradient: { softness: 0.5 },
  zone: { shape: 'ball', x: 30, y: 90, z: 60, radius: 55, falloff: 40 },
  noise: { size: 40, contrast: 1.6 },
  cells: { size: 30 },
  grunge: { pattern: 'smudges', size: 40 },
  stripes: { size: 30 },
  tiles: { plane: 'XY', width: 40, height: 22 },
  coverage: { share: 35 },
  levels: { inLow: 0.35, inHigh: 0.6 },
  curve: {
    points: [
      { x: 0.2, y: 1 },
      { x: 0.45, y: 0 },
      { x: 0.6, y: 0.9 },
      { x: 0.9, y: 0.2 },
    ],
  },
  remap: { toLow: 1, toHigh: 0 },
  steps: { count: 4 },
  soften: { radius: 120 },
  growShrink: { amount: 60, width: 10 },
  math: { operation: 'larger' },
  switch: { count: '3', b: [0.1, 0.3, 0.5], c: [0.6, 0.4, 0.1] },
  color: { color: [0.1, 0.35, 0.3] },
  palette: { differ: 8 },
  varyColor: { hue: 120, chroma: 80, lightness: 30 },
  adjustColor: { hue: 140 },
  blendColors: { mode: 'softLight' },
  finish: { roughness: 0.6 },
  bySet: { setA: 'Replaced scales' },
  picture: {},
  value: { value: 0.6 },
}
/** Kinds whose picture would be one flat gray. */
const WITHOUT = new Set([RESULT, 'picture', 'value'])

function lookFor(kind: NodeKind): { look: Look; id: string } {
  const start = addNode(emptyLook(), kind.kind, [0, 0])
  const { id } = start
  let { look } = start
  for (const [name, value] of Object.entries(SHOWN[kind.kind] ?? {})) look = setParam(look, id, name, value)
  if (kind.kind === 'echo') {
    const noise = addNode(look, 'noise', [0, 0], { size: 40 })
    return { look: setParam(noise.look, id, 'of', `${noise.id}/value`), id }
  }
  Object.entries(kind.inputs).forEach(([name, d], i) => {
    const type = inputType(nodeOf(look, id)!, d)
    const from = (k: string, params: Record<string, ParamValue>, port: string) => {
      const added = addNode(look, k, [0, 0], params)
      const gives = port === 'finish' || port === 'color' ? port : 'value'
      if (converts(gives, type)) look = connect(added.look, { node: added.id, port }, { node: id, port: name })
    }
    if (name === 'bend' || name === 'ragged' || name === 'where') return
    if (type === 'finish') from('finish', { baseColor: i % 2 ? [0.5, 0.42, 0.3] : [0.05, 0.2, 0.22] }, 'finish')
    else if (type === 'color')
      from(
        i ? 'ramp' : 'palette',
        i
          ? {
              stops: [
                { at: 0, color: [0.6, 0.5, 0.2] },
                { at: 1, color: [0.1, 0.1, 0.3] },
              ],
            }
          : {},
        'color',
      )
    else if (['value', 'a', 'mask', 'amount', 'by', 'hueBy', 'lightnessBy'].includes(name))
      from(
        name.endsWith('By') || name === 'by' ? 'partRandom' : 'noise',
        name.endsWith('By') || name === 'by' ? {} : { size: 40, contrast: 2 },
        'value',
      )
  })
  return { look, id }
}

/** A small picture of each kind on the kiosk roof, as PNG files by name. */
export async function pictures(): Promise<Map<string, Uint8Array>> {
  const piece = new Workpiece(kioskRoof().mesh, { ...kioskRoofPreparation(), maps: [] })
  const edges = computeMap(new Geometry(piece.analysis.mesh, piece.analysis.parts), {
    kind: 'convexity',
    name: 'edges',
    radius: 0.02,
  })!
  piece.setComputed([edges])
  const analyzer = new Analyzer(await loadKernels(), piece.tables)
  const made = new Map<string, Uint8Array>()
  for (const kind of KINDS.filter(k => !WITHOUT.has(k.kind))) {
    const { look, id } = lookFor(kind)
    const pixels = analyzer.analyze(look).swatches[id]
    if (pixels)
      made.set(
        `${kind.kind}.png`,
        encode({ width: SWATCH_WIDTH, height: SWATCH_HEIGHT, data: Uint8Array.from(pixels), channels: 4 }),
      )
  }
  return made
}
export const hasPicture = (kind: NodeKind): boolean => !WITHOUT.has(kind.kind)
