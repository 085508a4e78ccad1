import { expect, test } from '@playwright/test'
import { spawnSync } from 'node:child_process'

test('killing the server in the middle of deliveries breaks none and loses no look', () => {
  test.setTimeout(300_000)
  const done = spawnSync(process.execPath, ['scripts/endurance.mjs', '5'], { encoding: 'utf8' })
  expect(done.stdout).toContain(', 0 problems')
  expect(done.status).toBe(0)
})
