import { readdirSync } from 'node:fs'
import { readFile } from 'node:fs/promises'
import { basename, dirname, join, relative } from 'node:path'
import { addVitePlugin, defineNuxtModule } from 'nuxt/kit'
import { build, type Metafile, type Plugin as Step } from 'esbuild'
import type { Plugin } from 'vite'
import { threeInParts } from '../scripts/bundling.mjs'

/** `new URL('./some.worker.ts', import.meta.url)`, as the application names its workers. */
const NAMED = /new URL\('(\.[^']*\.worker\.ts)', import\.meta\.url\)/g

/** Packages that run elsewhere, too, ask for these there alone. */
const withoutNode: Step = {
  name: 'without node',
  setup(bundle) {
    bundle.onResolve({ filter: /^(node:.*|fs|path|module|crypto|url|worker_threads)$/ }, ({ path }) => ({
      path,
      namespace: 'nothing',
    }))
    bundle.onLoad({ filter: /.*/, namespace: 'nothing' }, () => ({ contents: 'export default {}' }))
  },
}

/** How packages name a file that lies beside their own. */
const BESIDE = /new URL\("([^"]+)",\s*import\.meta\.url\)/g
const WITH_FILES = /node_modules\/(watlas|@jsquash\/webp)\/.*\.js$/

/** Files that come along: `import url from 'some.wasm?url'`, and those beside the code of packages. */
const files: Step = {
  name: 'files',
  setup(bundle) {
    bundle.onLoad({ filter: WITH_FILES }, async ({ path }) => {
      const imports: string[] = []
      const code = (await readFile(path, 'utf8')).replace(BESIDE, (_, name: string) => {
        imports.push(`import ubFile${imports.length} from './${name}'`)
        return `new URL(ubFile${imports.length - 1}, import.meta.url)`
      })
      return { contents: [...imports, code].join('\n'), loader: 'js' }
    })
    bundle.onResolve({ filter: /\.wasm\?url$/ }, async ({ path, resolveDir, kind }) => {
      const found = await bundle.resolve(path.replace('?url', ''), { resolveDir, kind })
      return { ...found, namespace: 'address' }
    })
    bundle.onLoad({ filter: /.*/, namespace: 'address' }, ({ path }) => ({
      contents: `import path from ${JSON.stringify(path)}; export default new URL(path, import.meta.url).href`,
      resolveDir: dirname(path),
    }))
  },
}

/** Every worker of the application. */
const workersIn = (folder: string): string[] =>
  readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .filter(name => name.endsWith('.worker.ts'))
    .map(name => join(folder, name))

interface Bundled {
  files: { name: string; bytes: Uint8Array }[]
  /** Names of files by the worker's source. */
  nameOf: Map<string, string>
}

/** The workers as files that lie beside one another: what several of them need is in pieces that they share. */
async function bundled(root: string, alias: Record<string, string>): Promise<Bundled> {
  const { outputFiles, metafile } = await build({
    entryPoints: workersIn(join(root, 'app')),
    absWorkingDir: root,
    outdir: 'workers',
    entryNames: '[name]-[hash]',
    chunkNames: 'workers-[hash]',
    assetNames: '[name]-[hash]',
    bundle: true,
    splitting: true,
    format: 'esm',
    target: 'es2022',
    minify: true,
    legalComments: 'none',
    loader: { '.wasm': 'file' },
    define: { 'process.env.NODE_ENV': '"production"' },
    alias,
    plugins: [threeInParts, withoutNode, files],
    write: false,
    metafile: true,
    logLevel: 'warning',
  })
  const names = new Set(outputFiles.map(f => basename(f.path)))
  for (const file of outputFiles.filter(f => f.path.endsWith('.js')))
    for (const [, name] of file.text.matchAll(BESIDE))
      if (!names.has(name!))
        throw new Error(`A package of the workers reads ${name} from beside its own file: it has to be among those.`)
  return {
    files: outputFiles.map(({ path, contents }) => ({ name: basename(path), bytes: contents })),
    nameOf: namesIn(root, metafile),
  }
}
const namesIn = (root: string, { outputs }: Metafile): Map<string, string> =>
  new Map(
    Object.entries(outputs).flatMap(([path, { entryPoint }]) =>
      entryPoint?.endsWith('.worker.ts') ? [[join(root, entryPoint), basename(path)]] : [],
    ),
  )

/**
 * Bundles the workers of a build all at once and by esbuild: the way of Vite, which takes each for an application of
 * its own, takes a third of the whole build's time.
 */
function workers(root: string, alias: Record<string, string>): Plugin {
  let assets = ''
  /** What Rollup calls the file of each worker. */
  const known = new Map<string, string>()
  return {
    name: 'ubblet:workers',
    apply: 'build',
    enforce: 'pre',
    configResolved({ build: { assetsDir } }) {
      assets = assetsDir
    },
    async buildStart() {
      const { files, nameOf } = await bundled(root, alias)
      const emitted = new Map(
        files.map(({ name, bytes }) => [
          name,
          this.emitFile({ type: 'asset', fileName: join(assets, name), source: bytes }),
        ]),
      )
      for (const [source, name] of nameOf) known.set(source, emitted.get(name)!)
    },
    transform(code, id) {
      if (!code.includes('.worker.ts')) return undefined
      return code.replace(NAMED, (_, path: string) => {
        const file = known.get(join(dirname(id), path))
        if (!file) this.error(`${relative(root, id)} names a worker that is not there: ${path}.`)
        return `import.meta.ROLLUP_FILE_URL_${file}`
      })
    },
  }
}

export default defineNuxtModule({
  meta: { name: 'workers' },
  setup(_, nuxt) {
    const { '#core': core, '#demo': demo } = nuxt.options.alias
    addVitePlugin(workers(nuxt.options.rootDir, { '#core': core!, '#demo': demo! }), { server: false })
  },
})
