import { limits } from '../utils/limits'

/** What a mesh file may hold, so that the interface can say so before it begins. */
export default defineEventHandler(() => limits())
