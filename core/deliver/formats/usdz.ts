import { defineFormat } from './declare'
import { USD_CARRIES, usdLayer } from './usdLayer'

export default defineFormat({
  word: 'usdz',
  section: 'meshes',
  title: 'USD package',
  help: 'The same with its pictures in one file (.usdz).',
  ending: '.usdz',
  carries: USD_CARRIES,
  reads: 'inside',
  needsUvs: true,
  async files(leaving) {
    const { writeUsdz } = await import('../../exchange/writeUsdz')
    const { stem } = leaving
    const layer = { name: `${stem}.usda`, text: await usdLayer(leaving, false) }
    return [[`${stem}.usdz`, writeUsdz(layer, await leaving.documentPictures())]]
  },
})
