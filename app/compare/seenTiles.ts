import { RIGS, type RigName } from '#core/trace/rigs'
import type { JudgedTile } from './useSheet'

/** How often as far as on the stage the look is seen from on a sheet of distances. */
const AWAY = [0.5, 0.75, 1, 1.5, 2, 3, 4, 6, 8]

/** The look in the light of every rig, each turned so many times about the vertical. */
export const lightTiles = (turns: number): JudgedTile[] =>
  (Object.keys(RIGS) as RigName[]).flatMap(rig =>
    Array.from({ length: turns }, (_, i): JudgedTile => {
      // To 180 and on from -180, as the light's own setting has it.
      const around = (i * 360) / turns
      const turn = around > 180 ? around - 360 : around
      return {
        id: `light ${rig} ${turn}`,
        title: turns > 1 ? `${RIGS[rig].title}, ${turn}°` : RIGS[rig].title,
        of: look => look,
        light: { rig, turn },
      }
    }),
  )

/** The look from nearer and farther. */
export const distanceTiles: readonly JudgedTile[] = AWAY.map(away => ({
  id: `away ${away}`,
  title: away === 1 ? 'As on the stage' : `${away} times as far`,
  of: look => look,
  away,
}))
