// What `npm test` builds beside its checks.
import { build } from './lib.mjs'

build()
