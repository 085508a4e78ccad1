import { z } from 'zod'
import { writeGlb } from '#core/exchange/writeGlb'
import { keyTable } from '#core/mesh/keys'
import { findParts } from '#core/mesh/parts'
import { DEMOS } from '#demo/index'
import { putBlob } from '../utils/blobs'
import { createProject, type ProjectSummary } from '../utils/projects'
import { body } from '../utils/requests'

const schema = z.strictObject({ file: z.string().max(40).optional() })

/** Makes a project for each look of each demo mesh, or of the one named; answers with the first. */
export default defineEventHandler(async (event) => {
  const { file } = await body(event, schema), made: ProjectSummary[] = []
  // The last one made stands first on the home page.
  for (const demo of DEMOS.filter(d => !file || d.file === file).reverse()) {
    const { mesh, counts } = demo.make()
    const meshHash = await putBlob(Buffer.from(await writeGlb(mesh, demo.title)), 'application/octet-stream')
    const keysHash = await putBlob(Buffer.from(JSON.stringify(keyTable(mesh, findParts(mesh)))), 'application/json')
    for (const look of demo.looks.map(make => make()).reverse()) {
      const first = look.name === demo.looks[0]!().name
      made.push(await createProject(`Ferry pier: ${demo.title.toLowerCase()}${first ? '' : `, ${look.name.toLowerCase()}`}`, look, demo.preparation(),
        { meshHash, keysHash, meshName: `${demo.file}.glb`, triangles: mesh.indices.length / 3, parts: counts.parts }))
    }
  }
  const first = made.at(-1)
  if (!first) throw createError({ statusCode: 404, statusMessage: 'Refused', message: 'There is no such demo.' })
  return first
})
