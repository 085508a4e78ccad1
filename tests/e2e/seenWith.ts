import type { Switches } from '../../app/stage/standing'

/** Where the application is while it is tested. */
export const PORT = Number(process.env.UBBLET_TEST_PORT ?? 4391)
export const ADDRESS = `http://127.0.0.1:${PORT}`

/** What a browser holds that was here before, with the stage switched so. */
export const seenWith = (stage: Switches) => ({
  cookies: [],
  origins: [{ origin: ADDRESS, localStorage: [{ name: 'ubblet stage', value: JSON.stringify(stage) }] }],
})
