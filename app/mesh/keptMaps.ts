import { declarationOf, type MapSettings } from '#core/geometry/maps'
import type { VertexMap } from '#core/mesh/mesh'
import { request } from '../shared/request'

type Kept = Pick<VertexMap, 'components' | 'values'>
/** What the server answered, or will, by the maps' ids. */
const asked = new Map<string, Promise<Kept | null>>()

async function fetched(id: string, settings: MapSettings): Promise<Kept | null> {
  const kept = await request<ArrayBuffer | null>(`/api/maps/${id}`).catch(() => null)
  if (!kept?.byteLength) return null
  return { components: declarationOf(settings).components, values: new Float32Array(kept) }
}

/** A geometry map that was computed before, by whomever; null where the server has none. It is asked once for each. */
export async function keptMap(id: string, settings: MapSettings): Promise<VertexMap | null> {
  const coming = asked.get(id) ?? fetched(id, settings)
  asked.set(id, coming)
  const kept = await coming
  return kept && { name: settings.name, ...kept }
}

/** Keeps a map for the next time; a server that does not answer costs only the computing then. */
export function keepMap(id: string, { values, components }: VertexMap): void {
  asked.set(id, Promise.resolve({ values, components }))
  request(`/api/maps/${id}`, { method: 'PUT', bytes: values.slice().buffer }).catch(() => {})
}
