// npm run setup: what the command line needs.
import { setup } from './lib.mjs'

setup()
console.log('Ready: ./bin/ubblet --help')
