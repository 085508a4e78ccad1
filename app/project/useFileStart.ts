import { setParam } from '#core/graph/edit'
import { startFromFile, type FileStart } from '#core/graph/fileMaterials'
import { RESULT } from '#core/nodes'
import { decodeNormals } from '../collect/pictures'
import type { Laying } from '../mesh/dense.worker'
import type { ProjectDocument } from './entries'

/** Notes that a toast has room for. */
const MOST_NOTES = 4

/**
 * Starting from the materials of the mesh's file: its pictures become the project's, its materials finishes of the
 * look.
 */
export function useFileStart() {
  const project = useProject()
  const surface = useSurfaceMaps()
  const toast = useToast()
  const starting = ref(false)
  /** Whether the file says anything of its materials. */
  const can = computed(() => Boolean(project.opened?.mesh.surfaces?.length) && !project.readOnly)

  /** Answers whether it was done; what could not be is told. */
  async function start(): Promise<boolean> {
    const { opened } = project
    if (!opened || starting.value) return false
    starting.value = true
    try {
      const before = { look: project.look, preparation: project.preparation }
      const names = project.pictures.map(p => p.name)
      const made = startFromFile(before, opened.mesh, opened.parts, names)
      for (const { name, type, bytes } of made.pictures) {
        const problem = await project.addPicture(new File([bytes as Uint8Array<ArrayBuffer>], name, { type }))
        if (problem) made.notes.push(problem)
      }
      const document = await onMaps(made)
      project.editDocument("Start from the file's materials", () => document)
      project.settle()
      tell(made.notes)
      return true
    } catch (error) {
      toast.add({ title: 'Nothing was taken from the file', description: (error as Error).message, color: 'error' })
      return false
    } finally {
      starting.value = false
    }
  }

  /** The mesh with the file's picture of normals as its own, and the look on that of occlusion, where it has any. */
  async function onMaps({ look, preparation, normals, occlusions, notes }: FileStart): Promise<ProjectDocument> {
    const { id } = look.nodes.find(n => n.kind === RESULT)!
    const bent = await laid('normals', normals, notes)
    const shut = await laid('occlusion', occlusions, notes)
    const onMesh = bent ? setParam(look, id, 'normals', undefined) : look
    return {
      look: shut ? setParam(onMesh, id, 'occlusion', shut) : onMesh,
      preparation: bent ? { ...preparation, normals: bent } : preparation,
    }
  }

  /** One picture of the whole mesh from those of its materials. @returns its name, where there is one */
  async function laid(how: Laying, list: FileStart['normals'], notes: string[]): Promise<string | undefined> {
    if (!list.length) return undefined
    try {
      const sources = await Promise.all(
        list.map(async ({ material, texture }) => {
          const { bytes, type, use: _, ...lies } = texture
          const picture = await decodeNormals('', new Blob([bytes as Uint8Array<ArrayBuffer>], { type }))
          return { ...lies, material, picture }
        }),
      )
      const made = await surface.fromMaterials(how, sources, `file ${how}.exr`)
      if ('ok' in made) return made.ok
      notes.push(`Its pictures of ${how} were left out. ${made.error}`)
    } catch {
      notes.push(`Its pictures of ${how} cannot be read and were left out.`)
    }
    return undefined
  }

  function tell(notes: readonly string[]): void {
    const more = notes.length - MOST_NOTES
    const shown = more > 0 ? [...notes.slice(0, MOST_NOTES), `And ${more} more.`] : notes
    toast.add({
      title: "The look begins with the file's materials",
      description: shown.join(' ') || 'All that the file says of them was taken over.',
      duration: notes.length ? 20_000 : 6_000,
      actions: [{ label: 'Undo', variant: 'outline', color: 'neutral', onClick: () => project.undo() }],
    })
  }
  return { can, starting, start }
}
