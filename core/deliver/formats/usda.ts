import { defineFormat } from './declare'
import { USD_CARRIES, usdLayer } from './usdLayer'

export default defineFormat({
  word: 'usda',
  section: 'meshes',
  title: 'USD',
  help: 'Mesh with primvars, and a preview surface and a MaterialX network that read the pictures.',
  ending: '.usda',
  carries: USD_CARRIES,
  reads: 'beside',
  needsUvs: true,
  files: async leaving => [[`${leaving.stem}.usda`, await usdLayer(leaving, true)]],
})
