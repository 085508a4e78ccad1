import type { WholeValues } from '#core/evaluate/gather'
import type { MeshTables } from '#core/evaluate/tables'
import type { Look } from '#core/graph/look'
import type { Kernels } from '#core/kernels/kernels'
import type { RigName } from '#core/trace/rigs'
import { rigLight, type Light, type Sharpness } from './environment'
import type { Sight } from './eyes'
import type { Pane } from './pane'
import { readPicture } from './readPicture'
import { shapeOf, ShownLook } from './shownLook'
import type { Passes } from './standing'

/** What the stage shows now, and on which view tiles are drawn; no tables while it can draw none. */
interface StageNow {
  tables: MeshTables | undefined
  viewKey: string
  /** Of the light about the vertical, in degrees. */
  turn: number
  pane: Pane
}

/** Small pictures of looks that are not the one on the stage, from its camera and in its light. */
export class SheetTiles {
  private asked = 0
  /** Whether what the sheet's look needs of the whole surface was found exactly. */
  private isExact = false
  private readonly rigs = new Map<RigName, Promise<Light>>()

  constructor(
    private readonly passes: Passes,
    private readonly kernels: Kernels,
    private readonly sharpness: Sharpness,
    private readonly now: () => StageNow,
  ) {}

  /**
   * A small picture of a look that is not the one on the stage, from the same camera in the same light. The surface is
   * found once for all looks.
   * @param width about how wide it is to be, in device pixels
   * @param count pictures with shifted pixels that make it
   * @param gather brings the values of a look that have to be found out elsewhere; exactly, or soon, as for a first
   * picture
   * @param light another light than the stage's
   * @param sight another place than the stage's to see it from; the light stays with the camera, so that the mesh seems
   * to turn
   * @returns null where something newer came in between
   */
  async take(
    look: Look,
    width: number,
    count: number,
    gather: (look: Look, exact: boolean) => Promise<WholeValues>,
    light?: { rig: RigName; turn: number },
    sight: Sight = {},
  ): Promise<ImageData | null> {
    const { passes } = this
    const { tables, viewKey, turn: standing, pane } = this.now()
    if (!tables) return null
    // Of two at once the newer one counts: they would take the room for pictures away from one another.
    const number = ++this.asked
    const newest = (): boolean => this.asked === number
    passes.looks.sheet ??= this.lookOfSheet(tables)
    const { sheet } = passes.looks
    // A look that is there already is not evaluated again for another light.
    const there = sheet.ready && sheet.lowered?.look === look
    const exact = count > 1
    const waits = there ? sheet.lowered!.waits && exact && !this.isExact : sheet.setLook(look)
    if (waits) sheet.give(shapeOf(look), await gather(look, exact))
    if (waits || !there) this.isExact = exact || !waits
    if (this.now().tables !== tables) return null
    const wanted = (): boolean => this.now().viewKey === viewKey && passes.looks.sheet === sheet && newest()
    const rig = light && (await this.rigOf(light.rig))
    if (!wanted()) return null
    const turn = (light?.turn ?? standing) - (sight.turn ?? 0)
    const lit = { ...(rig && { environment: rig.texture, key: rig.key }), turn }
    const target = await pane.tile(Math.max(1, Math.round(pane.size.x / width)), count, wanted, lit, sight)
    if (!target) return null
    return readPicture(passes.renderer, target)
  }

  private lookOfSheet(tables: MeshTables): ShownLook {
    const look = new ShownLook(this.kernels, this.passes.backend, 'sheet', () => {})
    look.setMesh(tables, false)
    return look
  }

  private rigOf(name: RigName): Promise<Light> {
    const old = this.rigs.get(name)
    if (old) return old
    const made = rigLight(this.passes.renderer, name, this.sharpness)
    this.rigs.set(name, made)
    return made
  }

  /** No more tiles for now: what they needed is given back. */
  end(): void {
    for (const coming of this.rigs.values()) void coming.then(({ texture }) => texture.dispose())
    this.rigs.clear()
    this.passes.looks.sheet?.dispose()
    this.passes.looks.sheet = undefined
    this.now().pane.dropSheet()
  }
}
