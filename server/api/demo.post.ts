import type { H3Event } from 'h3'
import { existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import * as z from 'zod'
import { denseSetupSchema } from '#core/dense/setup'
import { LookSchema } from '#core/graph/look'
import { preparationSchema } from '#core/mesh/preparation'
import { putBlob } from '../../node/store/blobs'
import { geometryMaps } from '../../node/store/schema'
import type { Store } from '../../node/store/store'
import { startThread } from '../../node/thread'
import { authorOf } from '../utils/people'
import { checkPicture } from '../utils/pictures'
import { createProject, type DenseMesh, type FirstLook, type PictureRef, type ProjectSummary } from '../utils/projects'
import { body, refuse } from '../utils/requests'
import { demoFolder, scriptOf } from '../utils/scripts'
import { useStore, write } from '../utils/store'
import { route } from '../rights/route'

const requestSchema = z.strictObject({ file: z.string().max(40).optional() })
const bytes = z.instanceof(Uint8Array)
const denseSchema = z.object({
  name: z.string(),
  glb: bytes,
  keys: z.string(),
  triangles: z.number(),
  parts: z.number(),
  setup: denseSetupSchema,
})
const demoSchema = z.object({
  title: z.string(),
  file: z.string(),
  glb: bytes,
  keys: z.string(),
  triangles: z.number(),
  parts: z.number(),
  preparation: preparationSchema,
  looks: z.array(LookSchema).min(1),
  /** The dense mesh, and what was taken from it. */
  dense: denseSchema.optional(),
  taken: z.array(z.object({ name: z.string(), bytes })),
})
type Demo = z.infer<typeof demoSchema> & { maps?: { id: string; bytes: Buffer }[]; pictures?: Buffer[] }
const writtenSchema = demoSchema.omit({ glb: true, keys: true, dense: true, taken: true }).extend({
  maps: z.array(z.string()),
  pictures: z.array(z.string()),
  dense: denseSchema.omit({ glb: true, keys: true }).optional(),
  taken: z.array(z.string()),
})
/** The last one made stands first on the home page. */
const ORDER = ['mooring-winch-cast', 'mooring-winch', 'kiosk-roof', 'float-rack']

/** The demo as the build has written it, with its geometry maps and pictures; nothing where it has not. */
function written(file: string | undefined): Demo[] | undefined {
  const folder = demoFolder()
  const names = ORDER.filter(name => !file || name === file)
  if (!names.length || !names.every(name => existsSync(join(folder, `${name}.json`)))) return undefined
  return names.map(name => {
    const file = (ending: string) => readFileSync(join(folder, `${name}.${ending}`))
    const { maps, pictures, dense, taken, ...rest } = writtenSchema.parse(JSON.parse(file('json').toString('utf8')))
    return {
      ...rest,
      glb: file('glb'),
      keys: file('keys.json').toString('utf8'),
      dense: dense && { ...dense, glb: file('dense.glb'), keys: file('dense.keys.json').toString('utf8') },
      taken: taken.map(picture => ({ name: picture, bytes: file(picture) })),
      maps: maps.map(id => ({ id, bytes: readFileSync(join(folder, `${id}.map`)) })),
      pictures: pictures.map(p => readFileSync(join(folder, p))),
    }
  })
}

/** How long making the demo may take, in milliseconds. */
const LONGEST = 180_000

/** The demo meshes with their looks, made on a thread, which ends when it takes too long or whoever asked has left. */
function made(event: H3Event, file: string | undefined): Promise<Demo[]> {
  return new Promise((resolve, reject) => {
    const demos: Demo[] = []
    const worker = startThread(
      scriptOf('demo-job'),
      { role: 'demo', file },
      { answers: demoSchema, hear: demo => void demos.push(demo), fail: reject, megabytes: 2048 },
    )
    const end = (why: string) => (): void => {
      reject(refuse(503, why))
      void worker.terminate()
    }
    const left = end('Whoever asked for the demo has left.')
    const timer = setTimeout(end('Making the demo took too long; nothing was made.'), LONGEST)
    event.node.res.once('close', left)
    worker.once('exit', () => {
      clearTimeout(timer)
      event.node.res.off('close', left)
      resolve(demos)
    })
  })
}

/** The row of a dense mesh, whose files are put into the store. */
async function keptDense(
  store: Store,
  { name, glb, keys, triangles, parts, setup }: NonNullable<Demo['dense']>,
): Promise<Omit<DenseMesh, 'project'>> {
  return {
    name,
    hash: await putBlob(store, glb, 'application/octet-stream'),
    keysHash: await putBlob(store, Buffer.from(keys), 'application/json'),
    triangles,
    parts,
    setup: JSON.stringify(setup),
    added: Date.now(),
  }
}

/** Makes a project for each demo mesh, with its looks, or for the one named; answers with the first. */
export default route({ may: 'work', does: 'made the demo projects' }, async event => {
  const { file } = await body(event, requestSchema)
  const store = await useStore()
  const projects: ProjectSummary[] = []
  for (const demo of written(file) ?? (await made(event, file))) {
    const mesh = {
      meshHash: await putBlob(store, demo.glb, 'application/octet-stream'),
      keysHash: await putBlob(store, Buffer.from(demo.keys), 'application/json'),
      meshName: demo.file,
      triangles: demo.triangles,
      parts: demo.parts,
    }
    const now = Date.now()
    for (const { id, bytes } of demo.maps ?? []) {
      const hash = await putBlob(store, bytes, 'application/octet-stream')
      await write(rows => rows.insert(geometryMaps).values({ id, hash, made: now }).onConflictDoNothing())
    }
    const looks: FirstLook[] = []
    for (const [i, look] of demo.looks.entries()) {
      const picture = demo.pictures?.[i]
      looks.push({ look, thumbnailHash: picture ? await putBlob(store, picture, 'image/png') : null })
    }
    const author = authorOf(event) ?? undefined
    const { preparation } = demo
    const pictures: PictureRef[] = []
    for (const { name, bytes } of demo.taken)
      pictures.push({ name, hash: await putBlob(store, bytes, checkPicture(name, Buffer.from(bytes))) })
    const dense = demo.dense && (await keptDense(store, demo.dense))
    const beginning = { looks, preparation, mesh, author, pictures, dense }
    projects.push(await createProject(`Ferry pier: ${demo.title.toLowerCase()}`, beginning))
  }
  const first = projects.at(-1)
  if (!first) throw refuse(404, 'There is no such demo.')
  return first
})
