// Types of components: `node scripts/components.mjs PROJECT SOURCES INTO [options of the compiler]`. Each component
// becomes the TypeScript that Vue's package for editors makes of it, in a folder that mirrors the sources; the compiler
// that is itself compiled checks both folders as one, and what it finds is told where it is in the component.
import { spawnSync } from 'node:child_process'
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { dirname, join, relative, resolve } from 'node:path'
import {
  createParsedCommandLine,
  createVueLanguagePlugin,
  shouldReportDiagnostics,
  SourceMap,
} from '@vue/language-core'
import ts from 'typescript'

const [project, sources, into] = process.argv.slice(2, 5).map(path => resolve(path))
const more = process.argv.slice(5)
const COMPILER = join(import.meta.dirname, '../node_modules/typescript-native/bin/tsc')
const FOUND = /^(?<file>.+)\((?<line>\d+),(?<column>\d+)\): error TS(?<code>\d+): /

const { options, vueOptions } = createParsedCommandLine(ts, ts.sys, project)
const vue = createVueLanguagePlugin(ts, options, vueOptions, path => path)

/** The TypeScript of a component, and from where in it each piece comes. */
function typeScriptOf(component) {
  const text = readFileSync(component, 'utf8')
  // It names files by where it lies itself.
  const virtual = join(into, relative(sources, component))
  const root = vue.createVirtualCode(virtual, 'vue', ts.ScriptSnapshot.fromString(text))
  const { code, extension } = vue.typescript.getServiceScript(root)
  const made = code.snapshot.getText(0, code.snapshot.getLength())
  return { component, path: virtual + extension, text, made, mappings: code.mappings }
}

/** Lays the TypeScript of all components out. @returns it by its paths */
function layOut() {
  rmSync(into, { recursive: true, force: true })
  const paths = readdirSync(sources, { recursive: true }).filter(path => path.endsWith('.vue'))
  const all = paths.map(path => typeScriptOf(join(sources, path)))
  for (const { path, made } of all) {
    mkdirSync(dirname(path), { recursive: true })
    writeFileSync(path, made)
  }
  return new Map(all.map(c => [c.path, c]))
}

/** The project that takes both folders for one, beside the one that it extends. @returns its path */
function mirrored() {
  const home = dirname(project)
  const { include = ['**/*'], exclude, compilerOptions = {} } = ts.readConfigFile(project, ts.sys.readFile).config
  const [from, to] = [sources, into].map(folder => `./${relative(home, folder)}`)
  const inSources = path => !relative(sources, resolve(home, path)).startsWith('..')
  const both = path => [path, `./${relative(home, join(into, relative(sources, resolve(home, path))))}`]
  const aliases = Object.entries(compilerOptions.paths ?? {}).map(([name, targets]) => [
    name,
    targets.flatMap(path => (inSources(path) ? both(path) : [path])),
  ])
  const path = join(home, 'tsconfig.components.json')
  const config = {
    extends: project,
    compilerOptions: { rootDirs: [from, to], paths: Object.fromEntries(aliases) },
    include: [...include, `${to}/**/*`],
    exclude,
  }
  writeFileSync(path, JSON.stringify(config, null, 2))
  return path
}

/** Where in its component a finding is: none where it is of what was made around it, which nobody wrote. */
function placeOf({ text, made, mappings }, { line, column, code }) {
  const before = made.split('\n', line - 1).reduce((length, text) => length + text.length + 1, 0)
  const isTold = data => shouldReportDiagnostics(data, 'ts', code)
  const [place] = new SourceMap(mappings).toSourceLocation(before + Number(column) - 1, isTold)
  if (!place) return undefined
  const lines = text.slice(0, place[0]).split('\n')
  return `(${lines.length},${lines.at(-1).length + 1})`
}

const components = layOut()
const { status, stdout, stderr } = spawnSync(
  process.execPath,
  // One thread of it: several would each find out the same about the packages.
  [COMPILER, '--noEmit', '--pretty', 'false', '--singleThreaded', '-p', mirrored(), ...more],
  { encoding: 'utf8', maxBuffer: 2 ** 28 },
)
process.stderr.write(stderr)

/** What is told: findings in components where they are there, all others as they are. */
const told = []
let isTold = true
for (const line of stdout.split('\n').filter(Boolean)) {
  const found = FOUND.exec(line)?.groups
  const component = found && components.get(resolve(found.file))
  // What goes on over several lines is indented.
  if (component) {
    const place = placeOf(component, found)
    isTold = place !== undefined
    if (isTold) told.push(line.replace(/^.+?\(\d+,\d+\)/, () => relative(process.cwd(), component.component) + place))
  } else {
    if (!line.startsWith(' ')) isTold = true
    if (isTold) told.push(line)
  }
}
if (told.length) console.log(told.join('\n'))
// One that has come to its end has said why it is not 0, and nothing else.
const hasEnded = status === 0 || (status !== null && stdout && !stderr)
process.exit(hasEnded && !told.length ? 0 : 1)
