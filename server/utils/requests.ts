import { and, eq, isNull } from 'drizzle-orm'
import type { H3Event } from 'h3'
import { z } from 'zod'
import { useDatabase } from '../database/client'
import { projects } from '../database/schema'

/** An answer that says in one sentence what is wrong. */
export const refuse = (statusCode: number, message: string, data?: unknown) =>
  createError({ statusCode, statusMessage: 'Refused', message, data })

const uuid = z.uuid()
export function projectId(event: H3Event): string {
  const id = uuid.safeParse(getRouterParam(event, 'id'))
  if (!id.success) throw refuse(404, 'There is no such project.')
  return id.data
}

const mapKey = z.string().regex(/^[0-9a-f]{64}$/)
export function mapId(event: H3Event): string {
  const id = mapKey.safeParse(getRouterParam(event, 'id'))
  if (!id.success) throw refuse(404, 'There is no such geometry map.')
  return id.data
}

/** The project named in the path. Removed projects count only where they are asked for. */
export async function findProject(event: H3Event, removed = false) {
  const db = await useDatabase(), id = projectId(event)
  const [project] = await db.select().from(projects).where(removed ? eq(projects.id, id) : and(eq(projects.id, id), isNull(projects.removed)))
  if (!project) throw refuse(404, 'There is no such project.')
  return project
}

export async function body<T>(event: H3Event, schema: z.ZodType<T>): Promise<T> {
  const raw: unknown = await readBody(event).catch(() => undefined)
  const read = schema.safeParse(raw)
  if (!read.success) {
    const issue = read.error.issues[0]!
    throw refuse(400, `The request is not right: ${issue.path.join('.') || 'its body'}: ${issue.message}.`)
  }
  return read.data
}

/** Reads the body's bytes, at most `limit` of them. */
export async function bytesOf(event: H3Event, limit: number): Promise<Buffer> {
  const tooLarge = () => refuse(413, `The file is larger than ${Math.round(limit / 2 ** 20)} MB, which is the limit.`)
  if (Number(getHeader(event, 'content-length') ?? 0) > limit) throw tooLarge()
  const chunks: Buffer[] = []
  let size = 0
  for await (const chunk of event.node.req as AsyncIterable<Buffer>) {
    size += chunk.length
    if (size > limit) throw tooLarge()
    chunks.push(chunk)
  }
  return Buffer.concat(chunks, size)
}

export const nameSchema = z.string().trim().min(1).max(120)
