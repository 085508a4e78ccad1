// npm run dev: the application with reloading, on the loopback address.
import { must, setup } from './lib.mjs'

setup()
must(process.execPath, [
  'node_modules/nuxt/bin/nuxt.mjs',
  'dev',
  '--host',
  process.env.HOST ?? '127.0.0.1',
  '--port',
  process.env.PORT ?? '4300',
])
