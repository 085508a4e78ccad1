import { randomBytes, randomUUID } from 'node:crypto'
import * as z from 'zod'
import { tokens } from '../../../node/store/schema'
import { allow, tokenHash } from '../../utils/people'
import { body, nameSchema, refuse } from '../../utils/requests'
import { write } from '../../utils/store'

/** Makes a token for a script, which may do what its user may. It is shown in this answer, and never again. */
export default defineEventHandler(async event => {
  const { name } = allow(event, 'look')
  if (!name) throw refuse(409, 'This server is used by this machine alone; scripts need no token.')
  const { title } = await body(event, z.strictObject({ title: nameSchema }))
  const token = `ub_${randomBytes(32).toString('base64url')}`
  const row = { id: randomUUID(), user: name, title, hash: tokenHash(token), made: Date.now() }
  await write(rows => rows.insert(tokens).values(row))
  return { id: row.id, title, token }
})
