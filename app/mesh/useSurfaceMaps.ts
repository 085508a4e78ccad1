import { defineStore } from 'pinia'
import type { LaidPicture } from '#core/dense/laidPicture'
import type { Green } from '#core/dense/normalPicture'
import { isSeen } from '#core/evaluate/pictures'
import { setParam } from '#core/graph/edit'
import { RESULT } from '#core/nodes'
import type { Laying } from './dense.worker'

/** What a result may take from a surface map of the whole mesh. */
export const LAID = ['normals', 'heights', 'occlusion'] as const
export type Laid = (typeof LAID)[number]

/** The finest tile that pictures of materials are laid on, in texels, and the coarsest. */
const FINEST = 4096
const COARSEST = 256

/** Surface maps: numbers that lie on the mesh texel by texel, and what the look lies on. */
export const useSurfaceMaps = defineStore('surfaceMaps', () => {
  const project = useProject()
  const dense = useDense()
  /** The names of all of them. */
  const names = computed(() => project.pictures.filter(p => !isSeen(p)).map(p => p.name))
  const result = computed(() => project.look.nodes.find(n => n.kind === RESULT))
  const laid = computed(
    () =>
      Object.fromEntries(LAID.map(what => [what, String(result.value?.params[what] ?? '')])) as Record<Laid, string>,
  )

  /** The picture of the mesh's own normals, on which every look lies that names no other; '' where there is none. */
  const ownNormals = computed(() => project.preparation.normals ?? '')
  function setOwnNormals(name: string): void {
    project.prepare("Choose the mesh's own normals", ({ normals: _, ...rest }) =>
      name ? { ...rest, normals: name } : rest,
    )
    project.settle()
  }
  /** The normals that the open look lies on; '' for those of the vertices. */
  const normals = computed(() => laid.value.normals || ownNormals.value)

  /** Adds one to the project. @returns a sentence where it cannot be done */
  const add = (name: string, bytes: Uint8Array): Promise<string | null> =>
    project.addPicture(new File([bytes as Uint8Array<ArrayBuffer>], name))

  /** Lays the look on a map, or on what the mesh itself has where there is no name. */
  function lay(what: Laid, name: string): void {
    const { value } = result
    if (value) project.edit(`Lay the look on ${what}`, l => setParam(l, value.id, what, name || undefined))
    project.settle()
  }

  /**
   * Makes one map of the whole mesh from pictures of its materials.
   * @returns the name of the picture that was made, or a sentence
   */
  async function fromMaterials(
    how: Laying,
    sources: readonly (LaidPicture & { green?: Green })[],
    name: string,
  ): Promise<{ ok: string } | { error: string }> {
    const { opened } = project
    if (!opened) return { error: 'There is no mesh.' }
    const largest = Math.max(COARSEST, ...sources.map(s => Math.max(s.picture.width, s.picture.height)))
    const size = Math.min(FINEST, 2 ** Math.ceil(Math.log2(largest)))
    const plain = sources.map(s => ({ green: 'up', ...s, picture: { ...s.picture } }))
    const answer = await dense.work(`laying ${how} on the mesh`, (api, progress) =>
      api.lay(how, opened.mesh, plain, size, progress),
    )
    if (!answer) return { error: 'It was stopped.' }
    if ('error' in answer) return answer
    const problem = await add(name, answer.ok)
    return problem ? { error: problem } : { ok: name }
  }

  /** Takes small convexity and concavity from a picture of normals. @param radius in meters */
  async function curvatureOf(name: string, radius: number): Promise<void> {
    const { opened } = project
    const picture = project.pictures.find(p => p.name === name)
    if (!opened || !picture) return
    const answer = await dense.work('looking at the normals', (api, progress) =>
      api.curvature(opened.mesh, opened.parts, { ...picture }, radius, progress),
    )
    if (!answer || 'error' in answer) return
    const stem = name.replace(/\.[^.]*$/, '')
    for (const what of ['convexity', 'concavity'] as const) {
      const problem = await add(`${stem} ${what}.exr`, answer.ok[what])
      if (problem) dense.problem = problem
    }
  }

  return { names, laid, ownNormals, setOwnNormals, normals, add, lay, fromMaterials, curvatureOf }
})
