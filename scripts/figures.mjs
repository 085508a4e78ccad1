// npm run figures: what can be counted of the code, for docs/architecture.md.
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs'
import { dirname, join, normalize } from 'node:path'
import ts from 'typescript'
import './lib.mjs'

const ROOMS = ['app', 'cli', 'core', 'demo', 'modules', 'node', 'scripts', 'server', 'tests']
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

// ---- Functions that do not fit a screen ----
const SCREEN = 70
const SMALL = 4
/**
 * Lines of a function that are its own: neither empty nor a comment, nor of a function within it that is more than a
 * few lines, nor of a table that it returns.
 */
function ownLines(source, lines, fn) {
  const lineOf = at => source.getLineAndCharacterOfPosition(at).line
  const own = new Set()
  const bodyOf = node => [lineOf(node.getStart(source)), lineOf(node.end)]
  const [first, last] = bodyOf(fn)
  for (let i = first; i <= last; i++) if (lines[i].trim() && !/^\s*(\/\/|\/?\*)/.test(lines[i])) own.add(i)
  const leaveOut = node => {
    const [from, to] = bodyOf(node)
    if (to - from < SMALL) return false
    for (let i = from + 1; i <= to; i++) own.delete(i)
    return true
  }
  const isTable = node =>
    (ts.isArrayLiteralExpression(node) || ts.isObjectLiteralExpression(node)) &&
    (ts.isReturnStatement(node.parent) || ts.isParenthesizedExpression(node.parent) || node.parent === fn)
  const visitIn = node => {
    if (node !== fn && ((ts.isFunctionLike(node) && node.body) || isTable(node)) && leaveOut(node)) return
    ts.forEachChild(node, visitIn)
  }
  visitIn(fn)
  return own.size
}
/** Lines that are not broken: texts for people, shaders and patterns lie on them. */
function unbroken(source) {
  const found = new Set()
  const find = node => {
    if (
      ts.isStringLiteralLike(node) ||
      ts.isTemplateExpression(node) ||
      node.kind === ts.SyntaxKind.RegularExpressionLiteral
    ) {
      const [first, last] = [node.getStart(source), node.end].map(at => source.getLineAndCharacterOfPosition(at).line)
      for (let i = first; i <= last; i++) found.add(i)
    } else ts.forEachChild(node, find)
  }
  find(source)
  return found
}
const longLines = []
const longFunctions = []
for (const [file, text] of texts) {
  const script = file.endsWith('.vue') ? (/<script[^>]*>([\s\S]*?)<\/script>/.exec(text)?.[1] ?? '') : text
  const kind = file.endsWith('.mjs') ? ts.ScriptKind.JS : ts.ScriptKind.TS
  const source = ts.createSourceFile(file, script, ts.ScriptTarget.Latest, true, kind)
  const lines = script.split('\n')
  const whole = unbroken(source)
  lines.forEach((line, i) => {
    if (line.length > 120 && !whole.has(i) && !line.includes('://')) longLines.push(`${file}:${i + 1}`)
  })
  // Kernels are long lists of arithmetic.
  if (/^(tests|core\/kernels\/assembly)\//.test(file)) continue
  const find = node => {
    if (ts.isFunctionLike(node) && node.body && ownLines(source, lines, node) > SCREEN)
      longFunctions.push(`${file} ${node.name?.getText(source) ?? node.parent.name?.getText?.(source) ?? ''}`.trim())
    ts.forEachChild(node, find)
  }
  find(source)
}

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
      linesThatCouldBeBroken: longLines,
      shareOver120: Number((long / lines.length).toFixed(4)),
      shareOfTests: Number((inTests / all).toFixed(2)),
      nativeControls: Object.fromEntries(native),
      libraryComponents: ours,
      functionsOverAScreen: longFunctions.length,
      longFunctions,
      circles: circles.length,
      circle: circles,
      mutants: mutants && `${mutants.found} of ${mutants.faults} found by unit tests`,
    },
    null,
    2,
  ),
)
