import { readFileSync, writeFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { declarationIn } from './server/rights/declare'

/** Refuses to build a route that does not declare who may ask it. */
const declaredRights = {
  name: 'declared rights',
  transform(_: string, id: string): void {
    const path = /\/server\/api\/.*\.ts$/.exec(id)?.[0]
    if (path) declarationIn(path.slice(1), readFileSync(id, 'utf8'))
  },
}

/** What the server's own framework is told. Its types are not known where this file is checked. */
const server: object = {
  nitro: {
    errorHandler: fileURLToPath(new URL('./server/errors/answer.ts', import.meta.url)),
    // Some plugins wait before the server begins to listen.
    esbuild: { options: { target: 'es2022' } },
    rollupConfig: { plugins: [declaredRights] },
    // Of what lies in many files, or in large ones, a server that starts reads only what it uses.
    externals: { inline: ['three', 'zod', 'drizzle-orm', '@libsql/core', '@libsql/client', '@opentelemetry/api'] },
  },
  routeRules: {
    '/**': {
      headers: {
        'x-content-type-options': 'nosniff',
        'referrer-policy': 'same-origin',
        'x-frame-options': 'DENY',
        'cross-origin-opener-policy': 'same-origin',
        'permissions-policy': 'camera=(), microphone=(), geolocation=()',
      },
    },
  },
}

/** The rooms of `app`: each has what belongs to one subject, and templates name its components without their room. */
const ROOMS = [
  'stage',
  'graph',
  'steps',
  'mesh',
  'collect',
  'compare',
  'deliver',
  'project',
  'people',
  'settings',
  'shared',
]

export default defineNuxtConfig({
  compatibilityDate: '2026-01-01',
  ssr: false,
  telemetry: false,
  devtools: { enabled: false },
  modules: ['@nuxt/ui', '@pinia/nuxt'],
  components: ROOMS.map(room => ({ path: `~/${room}`, pathPrefix: false, extensions: ['vue'] })),
  imports: { dirs: ROOMS.map(room => `${room}/use*.ts`) },
  pinia: { storesDirs: [] },
  css: ['~/assets/main.css'],
  ui: { fonts: false },
  colorMode: { preference: 'light', fallback: 'light', storageKey: 'ubblet-theme' },
  icon: {
    // Drawn where they stand: as masks, each would bring along a style sheet of its own when it is seen first.
    mode: 'svg',
    collections: ['lucide'],
    provider: 'none',
    clientBundle: { scan: true, includeCustomCollections: true, sizeLimitKb: 256 },
    fallbackToApi: false,
  },
  alias: {
    '#core': fileURLToPath(new URL('./core', import.meta.url)),
    '#demo': fileURLToPath(new URL('./demo', import.meta.url)),
  },
  app: {
    head: {
      title: 'Ubblet',
      htmlAttrs: { lang: 'en' },
      // Within the page: it is there before anybody knows under which path the application lies.
      link: [
        {
          rel: 'icon',
          type: 'image/svg+xml',
          href: `data:image/svg+xml,${encodeURIComponent(readFileSync(new URL('./public/mark.svg', import.meta.url), 'utf8'))}`,
        },
      ],
      meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1' }],
    },
  },
  experimental: { appManifest: false },
  // The development server asks for a server entry even where pages are not rendered on the server; it never runs it.
  $development: {
    vite: {
      environments: {
        ssr: {
          build: { rollupOptions: { input: { server: fileURLToPath(new URL('./app/app.vue', import.meta.url)) } } },
        },
      },
    },
  },
  // Nobody reads them: how large files are when they are packed, and maps of the server's code.
  vite: { worker: { format: 'es' }, build: { chunkSizeWarningLimit: 1500, reportCompressedSize: false } },
  sourcemap: false,
  ...server,
  typescript: { strict: true, typeCheck: false },
  hooks: {
    // The interface asks the server by a function of its own. Types of the routes would bring along the whole server,
    // which is checked for itself.
    ready(nuxt) {
      // Types of the interface are there before anything is built of it: whoever checks them need not wait for that.
      nuxt.hook('build:before', () => writeFileSync(fileURLToPath(new URL('./.nuxt/typed', import.meta.url)), ''))
      nuxt.hook('prepare:types', ({ references }) => {
        const ofServer = (r: (typeof references)[number]): boolean => 'path' in r && /nitro/.test(r.path)
        for (const r of references.filter(ofServer)) references.splice(references.indexOf(r), 1)
      })
    },
  },
})
