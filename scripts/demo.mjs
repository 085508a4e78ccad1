// npm run demo: installs, builds, starts the server, fills an empty database with the demo, prints the address.
import { spawn } from 'node:child_process'
import { setTimeout as wait } from 'node:timers/promises'
import { createServer } from 'node:net'
import { build } from './lib.mjs'

build()

/** The wished-for port, or the next free one. */
const free = port =>
  new Promise((resolve, reject) => {
    const probe = createServer()
    probe.once('error', error => (error.code === 'EADDRINUSE' ? resolve(free(port + 1)) : reject(error)))
    probe.listen(port, host, () => probe.close(() => resolve(port)))
  })
const host = process.env.HOST ?? '127.0.0.1'
const port = await free(Number(process.env.PORT ?? 4300))
const address = `http://${host === '0.0.0.0' ? '127.0.0.1' : host}:${port}`
const server = spawn(process.execPath, ['.output/server/index.mjs'], {
  stdio: ['ignore', 'ignore', 'inherit'],
  env: { ...process.env, HOST: host, PORT: String(port) },
})
server.once('exit', code => process.exit(code ?? 1))
for (const signal of ['SIGINT', 'SIGTERM']) process.once(signal, () => server.kill(signal))

const call = (path, method = 'GET') =>
  fetch(address + path, {
    method,
    headers: { 'content-type': 'application/json' },
    ...(method === 'POST' && { body: '{}' }),
  })
for (let i = 0; ; i++) {
  try {
    const answer = await call('/api/projects')
    if (answer.status === 401) {
      console.log(
        `\n  Ubblet    ${address}\n  Sign in there; the home page has a button that adds the demo.\n\n  Ctrl+C stops it.`,
      )
      break
    }
    const projects = await answer.json()
    const demo =
      projects.find(p => !p.removed && p.mesh?.name === 'float-rack.glb') ??
      (await (await call('/api/demo', 'POST')).json())
    console.log(`\n  Ubblet    ${address}\n  The demo  ${address}/project/${demo.id}\n\n  Ctrl+C stops it.`)
    break
  } catch (error) {
    if (i > 100) throw error
    await wait(200)
  }
}
