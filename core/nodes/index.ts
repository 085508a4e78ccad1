import color from './color'
import type { NodeKind } from './declare'
import finish from './finish'
import levels from './levels'
import math from './math'
import mix from './mix'
import noise from './noise'
import partRandom from './partRandom'
import partSet from './partSet'
import positionGradient from './positionGradient'
import ramp from './ramp'
import result from './result'
import value from './value'
import varyColor from './varyColor'
import vertexMap from './vertexMap'

/** Every node kind, in the order of the menu. The list is all that the registry knows of a kind. */
export const KINDS: readonly NodeKind[] = [partRandom, partSet, vertexMap, positionGradient, noise, value, levels, math, color,
  ramp, varyColor, mix, finish, result]

const byName = new Map(KINDS.map(k => [k.kind, k]))
export const kindOf = (name: string): NodeKind | undefined => byName.get(name)
export const RESULT = result.kind
