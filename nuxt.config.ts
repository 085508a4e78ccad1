import { fileURLToPath } from 'node:url'

export default defineNuxtConfig({
  compatibilityDate: '2026-01-01',
  ssr: false,
  telemetry: false,
  devtools: { enabled: false },
  modules: ['@nuxt/ui', '@pinia/nuxt'],
  css: ['~/assets/main.css'],
  ui: { fonts: false },
  colorMode: { preference: 'light', fallback: 'light', storageKey: 'ubblet-theme' },
  icon: { provider: 'none', clientBundle: { scan: true, includeCustomCollections: true, sizeLimitKb: 256 }, fallbackToApi: false },
  alias: { '#core': fileURLToPath(new URL('./core', import.meta.url)), '#demo': fileURLToPath(new URL('./demo', import.meta.url)) },
  app: {
    head: {
      title: 'Ubblet', htmlAttrs: { lang: 'en' },
      meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1' }],
      link: [{ rel: 'icon', type: 'image/svg+xml', href: '/mark.svg' }],
    },
  },
  experimental: { appManifest: false },
  // The development server asks for a server entry even where pages are not rendered on the server; it never runs it.
  $development: { vite: { environments: { ssr: { build: { rollupOptions: { input: { server: fileURLToPath(new URL('./app/app.vue', import.meta.url)) } } } } } } },
  vite: { worker: { format: 'es' }, build: { chunkSizeWarningLimit: 1500 } },
  typescript: { strict: true, typeCheck: false },
})
