import type { GlbSurface } from '../../exchange/writeGlb'
import { defineFormat, variantName } from './declare'

export default defineFormat({
  word: 'glb',
  section: 'meshes',
  title: 'GLB',
  help: 'Mesh, pictures and material in one file, for any glTF viewer or renderer.',
  ending: '.glb',
  carries: {
    baseColor: 'picture or `COLOR_0`',
    metalRough: 'packed picture',
    occlusion: 'if there is a map `occlusion`',
    normal: 'picture, with tangents',
    emission: 'picture, strength',
    opacity: 'alpha',
    translucency: 'packed picture (KHR_materials_diffuse_transmission)',
    values: '`_NAME`',
    variants: 'KHR_materials_variants',
  },
  embeds: true,
  needsUvs: true,
  refuses({ variants, colorIn }) {
    if (variants < 2 || colorIn !== 'vertices') return undefined
    return 'A GLB has room for the vertex colors of one variant only; deliver textures, or one variant at a time.'
  },
  async files(leaving) {
    const { stem, lookName, delivered, subjects, tiles, values, vertexColors, keys, compression } = leaving
    const { writeGlb } = await import('../../exchange/writeGlb')
    const variants = await Promise.all(
      subjects.map(async ({ name, subject }, variant) => {
        const surfaces = new Map<number, GlbSurface>()
        for (const tile of tiles.length ? tiles : [1001])
          surfaces.set(tile, subject.glbSurface(tiles.length ? await leaving.embedded(variant, tile) : []))
        return { name: variantName(leaving, name), tiles: surfaces }
      }),
    )
    const glb = await writeGlb(delivered.mesh, lookName, {
      variants,
      tileOf: delivered.tileOf,
      ...(vertexColors && { vertexColors }),
      ...(values.length && { maps: values }),
      ...(delivered.tangents && { tangents: delivered.tangents }),
      ...(keys && { keys }),
      compression,
    })
    return [[`${stem}.glb`, glb]]
  },
})
