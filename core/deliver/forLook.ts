import { LaneError, lanesOfPort } from '../bake/lanes'
import type { Look } from '../graph/look'
import type { DeliverySettings } from './settings'

/** Whether a look has a lane: one of a port (`port:NODE/PORT`, maybe `.r`) only where it has that port. */
function has(look: Look, lane: string): boolean {
  const port = /^port:(.+\/[^/.]+)/.exec(lane)?.[1]
  if (!port) return true
  try {
    return lanesOfPort(look, port).includes(lane)
  } catch (error) {
    if (error instanceof LaneError) return false
    throw error
  }
}

/**
 * Settings of a delivery as another look of the project can have them: without variants, pictures and vertex maps that
 * only the look has for which they were chosen.
 */
export function settingsFor(look: Look, settings: DeliverySettings): DeliverySettings {
  const whole = ({ lanes }: { lanes: readonly string[] }): boolean => lanes.every(lane => has(look, lane))
  return {
    ...settings,
    variants: settings.variants.filter(name => look.variants?.some(v => v.name === name)),
    extra: settings.extra.filter(whole),
    vertexMaps: settings.vertexMaps.filter(whole),
  }
}
