import type { Look } from '../core/graph/look'
import type { Mesh } from '../core/mesh/mesh'
import type { Preparation } from '../core/mesh/preparation'
import { floatRack } from './floatRack'
import { floatRackLook } from './floatRackLook'
import { kioskRoof } from './kioskRoof'
import { kioskRoofLook } from './kioskRoofLook'
import { mooringWinch } from './mooringWinch'
import { mooringWinchLook } from './mooringWinchLook'
import { floatRackPreparation, kioskRoofPreparation, mooringWinchPreparation } from './preparations'

/** What a generator made, by its own count. */
export interface DemoCounts { objects: number, groups: number, parts: number, tiles: number, ofNote: Record<string, number> }

export interface Demo {
  file: string
  title: string
  make(): { mesh: Mesh, counts: DemoCounts }
  preparation(): Preparation
  look(): Look
}

/** The ferry pier: three meshes, each with its preparation and a look. */
export const DEMOS: readonly Demo[] = [
  { file: 'float-rack', title: 'Float rack', make: floatRack, preparation: floatRackPreparation, look: floatRackLook },
  { file: 'kiosk-roof', title: 'Kiosk roof', make: kioskRoof, preparation: kioskRoofPreparation, look: kioskRoofLook },
  { file: 'mooring-winch', title: 'Mooring winch', make: mooringWinch, preparation: mooringWinchPreparation, look: mooringWinchLook },
]
