import * as Comlink from 'comlink'
import { Crew } from '../shared/crew'
import { evaluator } from '../shared/evaluation'
import type { StageApi } from './stage.worker'

/** Whether a worker could not be loaded, or has stumbled: then none of them is kept. */
let failed = false

const newCrew = (): Crew<StageApi> =>
  new Crew<StageApi>(() => {
    const worker = new Worker(new URL('./stage.worker.ts', import.meta.url), { type: 'module' })
    worker.addEventListener('error', () => {
      failed = true
    })
    return worker
  })

/** Workers that no stage has. They stay for the next one: what they have read and compiled serves every project. */
let resting: Crew<StageApi> | undefined

/**
 * Workers that evaluate for a stage. They know nothing of what another one had them do, and get each mesh that is
 * shared from now on; nobody else does.
 */
export function takeCrew(count: number): Crew<StageApi> {
  const crew = resting ?? newCrew()
  resting = undefined
  while (crew.all.length < count) crew.add()
  const places = crew.all.map(api => {
    const { port1, port2 } = new MessageChannel()
    void api.connect(Comlink.transfer(port1, [port1]))
    return port2
  })
  void evaluator.shareWith(Comlink.transfer(places, places))
  return crew
}

/** Gives back workers, which forget what they hold. */
export function putBack(crew: Crew<StageApi>): void {
  const isKept = !resting && !failed
  failed = false
  if (!isKept) return crew.dismiss()
  for (const api of crew.all) void api.rest()
  resting = crew
}
