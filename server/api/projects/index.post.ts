import { z } from 'zod'
import { createProject } from '../../utils/projects'
import { body, nameSchema } from '../../utils/requests'

export default defineEventHandler(async event => createProject((await body(event, z.strictObject({ name: nameSchema }))).name))
