import adjustColor from './adjustColor'
import blendColors from './blendColors'
import bySet from './bySet'
import cells from './cells'
import color from './color'
import combine from './combine'
import coverage from './coverage'
import curve from './curve'
import type { NodeKind } from './declare'
import echo from './echo'
import facing from './facing'
import finish from './finish'
import fitRange from './fitRange'
import geometryMap from './geometryMap'
import growShrink from './growShrink'
import grunge from './grunge'
import invert from './invert'
import join from './join'
import layer from './layer'
import levels from './levels'
import math from './math'
import mix from './mix'
import noise from './noise'
import palette from './palette'
import partMeasure from './partMeasure'
import partRandom from './partRandom'
import partSet from './partSet'
import picture from './picture'
import position from './position'
import positionGradient from './positionGradient'
import ramp from './ramp'
import remap from './remap'
import result from './result'
import separate from './separate'
import soften from './soften'
import steps from './steps'
import stripes from './stripes'
import switchKind from './switch'
import tiles from './tiles'
import uv from './uv'
import value from './value'
import varyColor from './varyColor'
import vertexMap from './vertexMap'
import zone from './zone'

/** Every node kind, in the order of the menu. The list is all that the registry knows of a kind. */
export const KINDS: readonly NodeKind[] = [
  partRandom,
  partMeasure,
  partSet,
  vertexMap,
  geometryMap,
  facing,
  position,
  positionGradient,
  zone,
  uv,
  noise,
  cells,
  grunge,
  stripes,
  tiles,
  picture,
  value,
  coverage,
  levels,
  curve,
  remap,
  fitRange,
  steps,
  invert,
  soften,
  growShrink,
  combine,
  math,
  switchKind,
  color,
  ramp,
  palette,
  varyColor,
  adjustColor,
  blendColors,
  mix,
  separate,
  join,
  finish,
  layer,
  bySet,
  result,
  echo,
]

const byName = new Map(KINDS.map(k => [k.kind, k]))
export const kindOf = (name: string): NodeKind | undefined => byName.get(name)
export const RESULT = result.kind
