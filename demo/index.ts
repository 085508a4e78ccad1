import type { Look } from '../core/graph/look'
import type { Mesh } from '../core/mesh/mesh'
import type { Preparation } from '../core/mesh/preparation'
import { floatRack } from './floatRack'
import { floatRackLook } from './floatRackLook'
import { floatRackNightLook } from './floatRackNightLook'
import { kioskRoof } from './kioskRoof'
import { kioskRoofLook } from './kioskRoofLook'
import { kioskRoofMossLook } from './kioskRoofMossLook'
import { mooringWinch } from './mooringWinch'
import { mooringWinchBlueLook } from './mooringWinchBlueLook'
import { mooringWinchCastLook } from './mooringWinchCastLook'
import { mooringWinchDense } from './mooringWinchDense'
import { mooringWinchLook } from './mooringWinchLook'
import { floatRackPreparation, kioskRoofPreparation, mooringWinchPreparation } from './preparations'

/** What a generator made, by its own count. */
export interface DemoCounts {
  objects: number
  groups: number
  parts: number
  patches: number
  tiles: number
  ofNote: Record<string, number>
}

export interface Demo {
  file: string
  title: string
  make(): { mesh: Mesh; counts: DemoCounts }
  preparation(): Preparation
  /** The mesh that detail is taken from, where there is one; its looks read pictures of `demoPictures`. */
  dense?: () => Mesh
  /** The first is what the demo opens with. */
  looks: readonly (() => Look)[]
}

/**
 * The ferry pier: three meshes, each with its preparation and two looks, and one of them again under its dense
 * original.
 */
export const DEMOS: readonly Demo[] = [
  {
    file: 'float-rack',
    title: 'Float rack',
    make: floatRack,
    preparation: floatRackPreparation,
    looks: [floatRackLook, floatRackNightLook],
  },
  {
    file: 'kiosk-roof',
    title: 'Kiosk roof',
    make: kioskRoof,
    preparation: kioskRoofPreparation,
    looks: [kioskRoofLook, kioskRoofMossLook],
  },
  {
    file: 'mooring-winch',
    title: 'Mooring winch',
    make: () => mooringWinch(),
    preparation: mooringWinchPreparation,
    looks: [mooringWinchLook, mooringWinchBlueLook],
  },
  {
    file: 'mooring-winch-cast',
    title: 'Mooring winch, as cast',
    make: () => mooringWinch(),
    preparation: () => ({ ...mooringWinchPreparation(), edge: null, maps: [] }),
    dense: mooringWinchDense,
    looks: [mooringWinchCastLook],
  },
]
