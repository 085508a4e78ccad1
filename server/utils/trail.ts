import type { H3Event } from 'h3'
import { Readable } from 'node:stream'
import * as z from 'zod'
import { trailLines, trailOf } from '../../node/store/trail'
import { refuse } from './requests'
import { useRows } from './store'

/** Entries of one answer. */
const PAGE = 100
const askedSchema = z.object({
  before: z.coerce.number().int().min(1).optional(),
  lines: z.string().optional(),
})

/**
 * A page of the trail, the newest first (`?before=` goes on from an entry). With `?lines`, all of it as lines of JSON.
 */
export async function sendTrail(event: H3Event, project?: string): Promise<unknown> {
  const asked = askedSchema.safeParse(getQuery(event))
  if (!asked.success) throw refuse(400, 'The trail goes on before an entry: a whole number from 1.')
  const { before, lines } = asked.data
  const rows = await useRows()
  if (lines === undefined)
    return trailOf(rows, {
      most: PAGE,
      ...(project !== undefined && { project }),
      ...(before !== undefined && { before }),
    })
  setResponseHeader(event, 'content-type', 'application/jsonl')
  setResponseHeader(event, 'content-disposition', 'attachment; filename="trail.jsonl"')
  return sendStream(event, Readable.from(trailLines(rows, project)))
}
