import type { Recipe } from '../graph/look'
import { node, recipe } from './write'

const at = (column: number, row: number): [number, number] => [column * 204, row * 236]
/**
 * The recipes that come with the application. A geometry map is named by `?` and its kind: whoever takes a recipe in
 * puts the name of a map of that kind there (see `fillMaps`).
 */
export const RECIPES: readonly Recipe[] = [
  recipe('Edge wear', 'Rubs a finish away along the edges, more here and less there, and lays another bare.', [
    node('edges', 'geometryMap', at(0, 0), { map: '?convexity' }),
    node('where', 'noise', at(0, 1), { size: 8, detail: 5, strength: 0.6, contrast: 2.2, seed: 1 }, 'Where it was touched'),
    node('ragged', 'combine', at(1, 0), { mode: 'multiply' }, 'Edges there'),
    node('cover', 'coverage', at(2, 0), { share: 6, softness: 0.08 }, 'How much'),
    node('bare', 'finish', at(2, 1), { baseColor: [0.5, 0.48, 0.45], metalness: 1, roughness: 0.3 }, 'Bare'),
    node('layer', 'layer', at(3, 0), {}, 'Worn'),
  ], ['edges.value > ragged.a', 'where.value > ragged.b', 'ragged.value > cover.value', 'cover.value > layer.mask', 'bare.finish > layer.above'], {
    inputs: ['Coat = layer.below'],
    settings: ['Share = cover.share', 'Softness = cover.softness', 'Break-up = where.size', 'Bare color = bare.baseColor', 'Bare metalness = bare.metalness', 'Bare roughness = bare.roughness', 'Edges = edges.map', 'Seed = where.seed'],
    outputs: ['Finish = layer.finish', 'Mask = cover.value'],
  }),
  recipe('Recess dirt', 'Lays dirt into grooves and where surfaces come close, smudged and rough.', [
    node('hollow', 'geometryMap', at(0, 0), { map: '?concavity' }),
    node('closed', 'geometryMap', at(0, 1), { map: '?occlusion' }),
    node('both', 'combine', at(1, 0), { mode: 'lighten' }, 'Hollow or closed off'),
    node('smudges', 'grunge', at(1, 1), { pattern: 'smudges', size: 10, amount: 0.62, softness: 0.8, seed: 1 }),
    node('broken', 'combine', at(2, 0), { mode: 'multiply', amount: 0.75 }, 'Broken up'),
    node('cover', 'coverage', at(3, 0), { share: 22, softness: 0.7 }, 'How much'),
    node('dirt', 'finish', at(3, 1), { baseColor: [0.05, 0.036, 0.024], roughness: 0.92 }, 'Dirt'),
    node('layer', 'layer', at(4, 0), { amount: 0.9 }, 'Dirty'),
  ], ['hollow.value > both.a', 'closed.value > both.b', 'both.value > broken.a', 'smudges.value > broken.b', 'broken.value > cover.value', 'cover.value > layer.mask', 'dirt.finish > layer.above'], {
    inputs: ['Below = layer.below'],
    settings: ['Share = cover.share', 'Softness = cover.softness', 'Amount = layer.amount', 'Dirt color = dirt.baseColor', 'Dirt roughness = dirt.roughness', 'Break-up = smudges.size', 'Hollows = hollow.map', 'Occlusion = closed.map', 'Seed = smudges.seed'],
    outputs: ['Finish = layer.finish', 'Mask = cover.value'],
  }),
  recipe('Damp foot', 'Darkens and smooths the foot of the mesh, up to a ragged line.', [
    node('line', 'noise', at(0, 0), { size: 25, detail: 5, contrast: 1.6, seed: 1 }, 'Ragged line'),
    node('foot', 'positionGradient', at(1, 0), { start: 0.02, end: 0.25, softness: 1, flip: true, raggedness: 0.25 }, 'Foot'),
    node('wet', 'finish', at(1, 1), { baseColor: [0.018, 0.02, 0.018], roughness: 0.12, sets: ['baseColor', 'roughness'] }, 'Wet'),
    node('layer', 'layer', at(2, 0), { channels: 'each', baseColorAmount: 0.55, roughnessAmount: 0.85 }, 'Damp'),
  ], ['line.value > foot.ragged', 'foot.value > layer.mask', 'wet.finish > layer.above'], {
    inputs: ['Below = layer.below'],
    settings: ['Height = foot.end', 'Start = foot.start', 'Raggedness = foot.raggedness', 'Darker = layer.baseColorAmount', 'Smoother = layer.roughnessAmount', 'Line = line.size', 'Seed = line.seed'],
    outputs: ['Finish = layer.finish', 'Mask = foot.value'],
  }),
  recipe('Dust on top', 'Lets dust settle on what faces up, thinner where it is swept.', [
    node('up', 'facing', at(0, 0), { x: 0, y: 1, z: 0 }, 'Facing up'),
    node('level', 'levels', at(1, 0), { inLow: 0.62, inHigh: 0.98, gamma: 0.8 }, 'Flat enough'),
    node('swept', 'grunge', at(1, 1), { pattern: 'blotches', size: 22, amount: 0.6, softness: 0.9, seed: 1 }, 'Not swept'),
    node('settled', 'combine', at(2, 0), { mode: 'multiply', amount: 0.7 }, 'Settled'),
    node('dust', 'finish', at(2, 1), { baseColor: [0.33, 0.29, 0.23], roughness: 0.97 }, 'Dust'),
    node('layer', 'layer', at(3, 0), { amount: 0.7 }, 'Dusty'),
  ], ['up.value > level.value', 'level.value > settled.a', 'swept.value > settled.b', 'settled.value > layer.mask', 'dust.finish > layer.above'], {
    inputs: ['Below = layer.below'],
    settings: ['Amount = layer.amount', 'From slope = level.inLow', 'Swept = swept.amount', 'Patches = swept.size', 'Dust color = dust.baseColor', 'Seed = swept.seed'],
    outputs: ['Finish = layer.finish', 'Mask = settled.value'],
  }),
  recipe('Two-tone blotches', 'Breaks a color up into two tones in broad, soft patches.', [
    node('second', 'adjustColor', at(0, 0), { lightness: -7, chroma: 85, hue: 6 }, 'Second tone'),
    node('patches', 'noise', at(0, 1), { size: 30, detail: 4, contrast: 1.4, seed: 1 }, 'Patches'),
    node('cover', 'coverage', at(1, 1), { share: 45, softness: 0.6 }, 'How much'),
    node('mix', 'mix', at(2, 0), {}, 'Two tones'),
  ], ['patches.value > cover.value', 'second.color > mix.b', 'cover.value > mix.amount'], {
    inputs: ['Color = mix.a, second.color'],
    settings: ['Share = cover.share', 'Softness = cover.softness', 'Size = patches.size', 'Lighter = second.lightness', 'Chroma = second.chroma', 'Hue = second.hue', 'Seed = patches.seed'],
    outputs: ['Color = mix.out', 'Mask = cover.value'],
  }),
  recipe('Drips', 'Runs stains down from above, longer here and shorter there.', [
    node('drips', 'grunge', at(0, 0), { pattern: 'drips', size: 9, amount: 0.5, softness: 0.6, seed: 1 }),
    node('length', 'noise', at(0, 1), { size: 14, detail: 2, contrast: 2, seed: 2 }, 'How far they ran'),
    node('fall', 'positionGradient', at(1, 1), { space: 'object', start: 0.1, end: 0.95, softness: 0.5, raggedness: 0.5 }, 'From the top'),
    node('run', 'combine', at(2, 0), { mode: 'multiply' }, 'Run out'),
    node('stain', 'finish', at(2, 1), { baseColor: [0.11, 0.055, 0.026], roughness: 0.8, sets: ['baseColor', 'roughness'] }, 'Stain'),
    node('layer', 'layer', at(3, 0), { amount: 0.75 }, 'Stained'),
  ], ['length.value > fall.ragged', 'drips.value > run.a', 'fall.value > run.b', 'run.value > layer.mask', 'stain.finish > layer.above'], {
    inputs: ['Below = layer.below'],
    settings: ['Amount = layer.amount', 'How many = drips.amount', 'Size = drips.size', 'Length = fall.start', 'Stain color = stain.baseColor', 'Seed = drips.seed'],
    outputs: ['Finish = layer.finish', 'Mask = run.value'],
  }),
  recipe('Sun fade', 'Bleaches a color where the sun reaches: from one side and above, each part a little differently.', [
    node('sun', 'facing', at(0, 0), { x: 0.55, y: 0.75, z: 0.35 }, 'Toward the sun'),
    node('each', 'partRandom', at(0, 1), { seed: 1 }, 'Each part'),
    node('reach', 'levels', at(1, 0), { inLow: 0.45, inHigh: 1 }, 'Sunlit'),
    node('uneven', 'levels', at(1, 1), { outLow: 0.45, outHigh: 1 }, 'Uneven'),
    node('fade', 'combine', at(2, 0), { mode: 'multiply' }, 'Fade'),
    node('faded', 'adjustColor', at(2, 1), { lightness: 16, chroma: 45 }, 'Faded'),
    node('mix', 'mix', at(3, 0), {}, 'Sun-faded'),
  ], ['sun.value > reach.value', 'each.value > uneven.value', 'reach.value > fade.a', 'uneven.value > fade.b', 'fade.value > mix.amount', 'faded.color > mix.b'], {
    inputs: ['Color = mix.a, faded.color'],
    settings: ['Strength = uneven.outHigh', 'At least = uneven.outLow', 'Lighter = faded.lightness', 'Chroma left = faded.chroma', 'Sun X = sun.x', 'Sun Y = sun.y', 'Sun Z = sun.z', 'Seed = each.seed'],
    outputs: ['Color = mix.out', 'Mask = fade.value'],
  }),
  recipe('Per-part drift', 'Lets each part drift a little in hue, chroma and lightness; parts of a group drift together.', [
    node('draw', 'partRandom', at(0, 0), { how: 'count', follow: 0.3, seed: 1 }, 'Each part'),
    node('vary', 'varyColor', at(1, 0), { hue: 16, chroma: 24, lightness: 9 }, 'Drift'),
  ], ['draw.value > vary.hueBy', 'draw.second > vary.chromaBy', 'draw.third > vary.lightnessBy'], {
    inputs: ['Color = vary.color'],
    settings: ['Hue = vary.hue', 'Chroma = vary.chroma', 'Lightness = vary.lightness', 'Follow the group = draw.follow', 'How = draw.how', 'Seed = draw.seed'],
    outputs: ['Color = vary.color', 'Draw = draw.value'],
  }),
  recipe('Scratched coat', 'Lays a coat over a finish and scratches it, down to what is below, with the depth of the coat.', [
    node('scratches', 'grunge', at(0, 0), { pattern: 'scratches', size: 12, amount: 0.42, softness: 0.25, sits: 'part', seed: 1 }),
    node('keep', 'invert', at(1, 0), {}, 'Where the coat holds'),
    node('film', 'finish', at(2, 1), { sets: ['height'], height: 1, heightScale: 0.12 }, 'Thickness of the coat'),
    node('coat', 'layer', at(2, 0), { opens: 'coat' }, 'Coat over it'),
    node('layer', 'layer', at(3, 0), {}, 'With its depth'),
  ], ['scratches.value > keep.value', 'keep.value > coat.mask', 'keep.value > layer.mask', 'coat.finish > layer.below', 'film.finish > layer.above'], {
    inputs: ['Below = coat.below', 'Coat = coat.above'],
    settings: ['Amount = scratches.amount', 'Size = scratches.size', 'Softness = scratches.softness', 'Depth = film.heightScale', 'Seed = scratches.seed'],
    outputs: ['Finish = layer.finish', 'Mask = scratches.value'],
  }),
]
