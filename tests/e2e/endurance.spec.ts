import { expect } from '@playwright/test'
import { spawnSync } from 'node:child_process'
import { alone as test } from './day'

test('two servers, fifty clients, a database held by others, kills and stops: nothing that was answered is lost', () => {
  test.setTimeout(900_000)
  const done = spawnSync(process.execPath, ['scripts/endurance.mjs', '5'], { encoding: 'utf8', timeout: 600_000 })
  console.log(done.stdout, done.stderr)
  expect(done.stdout).toContain('\n0 problems')
  expect(done.status).toBe(0)
})
