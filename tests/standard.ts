import { createRequire } from 'node:module'
import { readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { pathToFileURL } from 'node:url'

interface Element {
  getNamePath(): string
}
interface Document {
  setDataLibrary(library: Document): void
  validate(found: { message?: string }): boolean
}
interface Shader {
  getSourceCode(stage: string): string
}
interface Generator {
  generate(name: string, element: Element, context: object): Shader
}
interface Library {
  getVersionString(): string
  createDocument(): Document
  readFromXmlString(document: Document, xml: string, searchPath: string): Promise<void>
  writeToXmlString(document: Document): string
  loadStandardLibraries(context: object): Document
  findRenderableElement(document: Document): Element
  getExceptionMessage(error: number): string
  EsslShaderGenerator: { create(): Generator }
  GenContext: new (generator: Generator) => object
}

export interface Standard {
  version: string
  /** What the standard's library finds wrong with a document, one line each; nothing where it is valid. */
  faults(xml: string): Promise<string[]>
  /** The document as the library writes it. */
  rewritten(xml: string): Promise<string>
  /** The GLSL that the library makes of the first material. @throws Error with its reason */
  shader(xml: string): Promise<string>
}

/** MaterialX's own library (libMaterialX, with the standard's node definitions), compiled to WebAssembly. */
export async function standard(): Promise<Standard> {
  const require = createRequire(import.meta.url)
  const folder = join(dirname(require.resolve('@needle-tools/materialx/package.json')), 'bin')
  const path = (name: string) => join(folder, name)
  // The module is written for CommonJS and for ES modules at once, and looks for what only the first has.
  Object.assign(globalThis, { require, __dirname: folder, __filename: path('JsMaterialXGenShader.js') })
  const { default: open } = (await import(/* @vite-ignore */ pathToFileURL(path('JsMaterialXGenShader.js')).href)) as {
    default: (options: object) => Promise<Library>
  }
  const mx = await open({
    wasmBinary: readFileSync(path('JsMaterialXGenShader.wasm')),
    getPreloadedPackage: () => Uint8Array.from(readFileSync(path('JsMaterialXGenShader.data.txt'))).buffer,
  })
  const generator = mx.EsslShaderGenerator.create()
  const context = new mx.GenContext(generator)
  const library = mx.loadStandardLibraries(context)
  const read = async (xml: string): Promise<Document> => {
    const document = mx.createDocument()
    document.setDataLibrary(library)
    await mx.readFromXmlString(document, xml, '')
    return document
  }
  return {
    version: mx.getVersionString(),
    async faults(xml) {
      const found: { message?: string } = {}
      const valid = (await read(xml)).validate(found)
      return valid ? [] : (found.message ?? 'not valid').trim().split('\n')
    },
    rewritten: async xml => mx.writeToXmlString(await read(xml)),
    async shader(xml) {
      const element = mx.findRenderableElement(await read(xml))
      try {
        return generator.generate('surface', element, context).getSourceCode('pixel')
      } catch (error) {
        throw typeof error === 'number' ? new Error(mx.getExceptionMessage(error)) : error
      }
    },
  }
}
