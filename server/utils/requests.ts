import type { H3Event } from 'h3'
import * as z from 'zod'
import { DEEPEST, nestsDeeper } from '../../node/nesting'

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

/** Bytes of a JSON body where nothing else is said. */
const JSON_LIMIT = 2 ** 18

/**
 * Reads a JSON body.
 * @param limit in bytes; a longer body is refused while it arrives
 */
export async function body<T>(event: H3Event, schema: z.ZodType<T>, limit = JSON_LIMIT): Promise<T> {
  const bytes = await bytesOf(event, limit, 'The request')
  if (nestsDeeper(bytes, DEEPEST))
    throw refuse(400, `The request is not right: its body nests deeper than ${DEEPEST} levels.`)
  let raw: unknown
  try {
    raw = JSON.parse(bytes.toString('utf8'))
  } catch {
    throw refuse(400, 'The request is not right: its body is not JSON.')
  }
  const read = schema.safeParse(raw)
  if (!read.success) {
    const issue = read.error.issues[0]!
    throw refuse(400, `The request is not right: ${issue.path.join('.') || 'its body'}: ${issue.message}.`)
  }
  return read.data
}

const sizeInWords = (bytes: number): string =>
  bytes < 2 ** 20 ? `${Math.round(bytes / 2 ** 10)} KB` : `${Math.round(bytes / 2 ** 20)} MB`

/** How long a body that was refused may go on arriving before its connection is cut, in milliseconds. */
const LINGER = 3000

/** Reads the body's bytes, at most `limit` of them: more is refused at the first byte too many, however it is sent. */
export function bytesOf(event: H3Event, limit: number, what = 'The file'): Promise<Buffer> {
  const { req } = event.node
  const tooLarge = (): Error => {
    // What still arrives is thrown away unseen for a while: a connection that is cut at once takes the answer with it.
    req.removeAllListeners('data')
    req.resume()
    setTimeout(() => {
      if (!req.complete) req.destroy()
    }, LINGER).unref()
    return refuse(413, `${what} is larger than ${sizeInWords(limit)}, which is the limit.`)
  }
  return new Promise((resolve, reject) => {
    if (Number(getHeader(event, 'content-length') ?? 0) > limit) {
      reject(tooLarge())
      return
    }
    const pieces: Buffer[] = []
    let size = 0
    req.on('data', (piece: Buffer) => {
      size += piece.length
      if (size > limit) {
        pieces.length = 0
        reject(tooLarge())
      } else {
        pieces.push(piece)
      }
    })
    req.on('end', () => resolve(Buffer.concat(pieces, Math.min(size, limit))))
    req.on('error', reject)
    req.on('close', () => reject(refuse(400, 'The request was cut off.')))
  })
}

export const nameSchema = z.string().trim().min(1).max(120)

const revisionNumber = z.coerce.number().int().min(1)
/** The revision that a query names (`?revision=3`); nothing where none is named. */
export function revisionAsked(event: H3Event): number | undefined {
  const { revision } = getQuery(event)
  if (revision === undefined) return undefined
  const read = revisionNumber.safeParse(revision)
  if (!read.success) throw refuse(400, 'A revision is a whole number from 1.')
  return read.data
}

/** The look that a query names (`?look=`); nothing where none is named. */
export function lookAsked(event: H3Event): string | undefined {
  const { look } = getQuery(event)
  if (look === undefined) return undefined
  const read = uuid.safeParse(look)
  if (!read.success) throw refuse(404, 'The project has no such look.')
  return read.data
}
