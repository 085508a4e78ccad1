// npm run figures: what can be counted of the code, for docs/architecture.md.
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs'
import { dirname, join, normalize } from 'node:path'
import './lib.mjs'

const ROOMS = ['app', 'cli', 'core', 'demo', 'node', 'scripts', 'server', 'tests']
const CODE = /\.(ts|mjs|vue)$/

function filesIn(folder) {
  return readdirSync(folder).flatMap(name => {
    const path = join(folder, name)
    if (statSync(path).isDirectory()) return name === 'generated' ? [] : filesIn(path)
    return CODE.test(name) ? [path] : []
  })
}
const files = ROOMS.flatMap(filesIn)
const texts = new Map(files.map(f => [f, readFileSync(f, 'utf8')]))

// ---- Lines ----
const lines = [...texts.values()].flatMap(t => t.split('\n')).filter(l => l.trim())
const long = lines.filter(l => l.length > 120).length

// ---- Controls that are the browser's own ----
const NATIVE = ['button', 'input', 'select', 'textarea', 'table', 'progress', 'details', 'dialog']
const templates = files
  .filter(f => f.endsWith('.vue'))
  .map(f => /<template>[\s\S]*<\/template>/.exec(texts.get(f))?.[0])
const native = NATIVE.map(tag => [
  tag,
  templates.reduce((n, t) => n + (t?.match(new RegExp(`<${tag}[\\s>]`, 'g'))?.length ?? 0), 0),
])
const ours = templates.reduce((n, t) => n + (t?.match(/<U[A-Z]\w+/g)?.length ?? 0), 0)

// ---- Circles of imports (R. Tarjan, "Depth-first search and linear graph algorithms", 1972) ----
const IMPORT = /(?:^|\n)\s*(?:import|export)\s+(type\s)?[^'"\n]*?(?:\{[^}]*\}[^'"]*?)?from\s+['"]([^'"]+)['"]/g
function target(from, name) {
  if (!/^[#.]/.test(name)) return undefined
  const place = name.startsWith('#') ? name.slice(1) : normalize(join(dirname(from), name))
  return [place, `${place}.ts`, `${place}/index.ts`].find(p => texts.has(p))
}
const imports = new Map(
  files.map(f => [
    f,
    [...texts.get(f).matchAll(IMPORT)]
      .filter(([, type]) => !type)
      .map(m => target(f, m[2]))
      .filter(Boolean),
  ]),
)
const circles = []
const number = new Map()
const lowest = new Map()
const stack = []
function visit(file) {
  number.set(file, number.size)
  lowest.set(file, number.get(file))
  stack.push(file)
  for (const next of imports.get(file)) {
    if (!number.has(next)) {
      visit(next)
      lowest.set(file, Math.min(lowest.get(file), lowest.get(next)))
    } else if (stack.includes(next)) lowest.set(file, Math.min(lowest.get(file), number.get(next)))
  }
  if (lowest.get(file) !== number.get(file)) return
  const circle = stack.splice(stack.indexOf(file))
  if (circle.length > 1) circles.push(circle)
}
for (const file of files) if (!number.has(file)) visit(file)

// ---- How much of the code is tests, and what deliberate faults they find ----
const inTests = [...texts].filter(([f]) => f.startsWith('tests/')).flatMap(([, t]) => t.split('\n')).length
const all = [...texts.values()].flatMap(t => t.split('\n')).length
const mutants = existsSync('test-results/mutants.json')
  ? JSON.parse(readFileSync('test-results/mutants.json', 'utf8'))
  : null

console.log(
  JSON.stringify(
    {
      files: files.length,
      lines: lines.length,
      meanLine: Number((lines.reduce((n, l) => n + l.length, 0) / lines.length).toFixed(1)),
      linesOver120: long,
      shareOver120: Number((long / lines.length).toFixed(4)),
      shareOfTests: Number((inTests / all).toFixed(2)),
      nativeControls: Object.fromEntries(native),
      libraryComponents: ours,
      circles: circles.length,
      circle: circles,
      mutants: mutants && `${mutants.found} of ${mutants.faults} found by unit tests`,
    },
    null,
    2,
  ),
)
