import * as z from 'zod'
import { setGroup } from '../../../node/store/access'
import { userNameSchema } from '../../../node/store/passwords'
import { route } from '../../rights/route'
import { body, refuse } from '../../utils/requests'
import { useStore } from '../../utils/store'

const schema = z.strictObject({ members: z.array(z.string().max(100)).max(1000) })

/** Makes a group, or changes who is in it. */
export default route({ may: 'manage', byHand: true, does: 'changed a group' }, async event => {
  const named = userNameSchema.safeParse(decodeURIComponent(getRouterParam(event, 'name') ?? ''))
  if (!named.success) throw refuse(400, `This cannot be: ${named.error.issues[0]!.message}.`)
  const { members } = await body(event, schema)
  const missing = await setGroup(await useStore(), named.data, members)
  if (missing !== undefined) throw refuse(422, `There is no user "${missing}".`)
  event.context.detail = `${named.data}: ${members.join(', ') || 'nobody'}`
  return { name: named.data, members }
})
