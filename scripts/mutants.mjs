// npm run mutants: puts deliberate faults into a copy of the code, one at a time, and says which unit test finds each.
// Each argument is a piece of a file's name or of a description: the faults that have one of them are tried.
import { execFileSync, spawn } from 'node:child_process'
import {
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs'
import { cpus, tmpdir } from 'node:os'
import { join } from 'node:path'
import { ROOT, setup } from './lib.mjs'

setup()
const { MUTANTS } = await import('../tests/mutants.mjs')
const words = process.argv.slice(2).map(w => w.toLowerCase())
const chosen = MUTANTS.filter(m => !words.length || words.some(w => `${m.file} ${m.fault}`.toLowerCase().includes(w)))

const LINKED = ['node_modules', 'dist', '.nuxt', '.output']
const LEFT = ['.git', '.data', 'test-results']
/** A copy that faults are put into, with the packages of this one. */
function copyOf() {
  const folder = mkdtempSync(join(tmpdir(), 'ubblet-mutants-'))
  for (const name of readdirSync(ROOT)) {
    if (LINKED.includes(name)) symlinkSync(join(ROOT, name), join(folder, name))
    else if (!LEFT.includes(name)) cpSync(join(ROOT, name), join(folder, name), { recursive: true })
  }
  return folder
}

/** Runs unit tests until one fails. @returns what failed, or nothing */
function firstFailure(folder, files) {
  return new Promise(resolve => {
    const report = join(folder, 'report.json')
    rmSync(report, { force: true })
    const run = spawn(
      process.execPath,
      ['node_modules/vitest/vitest.mjs', 'run', '--bail=1', '--reporter=json', `--outputFile=${report}`, ...files],
      { cwd: folder, stdio: 'ignore', env: { ...process.env, UBBLET_FAULT: 'in' } },
    )
    run.once('exit', status => {
      if (status === 0) return resolve(undefined)
      if (!existsSync(report)) return resolve('the tests did not start')
      const { testResults } = JSON.parse(readFileSync(report, 'utf8'))
      const file = testResults.find(f => f.status === 'failed')
      const test = file?.assertionResults.find(a => a.status === 'failed')
      resolve(test ? `${file.name.split('/').pop()}: ${test.fullName}` : `${file?.name.split('/').pop()} did not load`)
    })
  })
}

/** Writes a file of the copy; kernels are compiled from theirs. */
function put(folder, file, text) {
  writeFileSync(join(folder, file), text)
  if (file.startsWith('core/kernels/assembly/'))
    execFileSync(process.execPath, ['scripts/kernels.mjs'], { cwd: folder, stdio: 'ignore' })
}

async function tried(folder, { file, from, to, first }) {
  const text = readFileSync(join(ROOT, file), 'utf8')
  if (text.split(from).length !== 2) return { failed: 'The code that the fault changes is not there once.' }
  put(
    folder,
    file,
    text.replace(from, () => to),
  )
  const likely = first.map(name => `tests/unit/${name}.test.ts`)
  let found = await firstFailure(folder, likely)
  if (!found) {
    found = await firstFailure(folder, ['tests/unit/'])
    put(folder, file, text)
    // A test that fails without the fault, too, has not found it.
    if (found && (await firstFailure(folder, [`tests/unit/${found.split(':')[0]}`])))
      return { failed: `${found} fails without it` }
  }
  put(folder, file, text)
  return { found }
}

const results = []
const waiting = [...chosen]
async function work() {
  const folder = copyOf()
  for (let mutant = waiting.shift(); mutant; mutant = waiting.shift()) {
    const { found, failed } = await tried(folder, mutant)
    results.push({ file: mutant.file, fault: mutant.fault, found, failed })
    console.log(
      `${found ? 'found ' : 'MISSED'}  ${mutant.fault}${found ? `\n        by ${found}` : ''}${failed ? `\n        ${failed}` : ''}`,
    )
  }
  rmSync(folder, { recursive: true, force: true })
}
await Promise.all(Array.from({ length: Math.min(cpus().length, chosen.length) }, work))
const found = results.filter(r => r.found).length
mkdirSync('test-results', { recursive: true })
writeFileSync('test-results/mutants.json', JSON.stringify({ faults: results.length, found, results }, null, 2))
console.log(`${found} of ${results.length} faults are found by unit tests`)
process.exit(found === results.length ? 0 : 1)
