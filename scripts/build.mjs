// Takes some of the steps of a build, each after the other: `node scripts/build.mjs [STEP ...]`, or all of them.
import { build, STEPS } from './lib.mjs'

const names = process.argv.slice(2)
const unknown = names.find(name => !STEPS[name])
if (unknown) {
  console.error(`There are ${Object.keys(STEPS).join(', ')}; not ${unknown}.`)
  process.exit(2)
}
if (names.length) for (const name of names) STEPS[name]()
else build()
