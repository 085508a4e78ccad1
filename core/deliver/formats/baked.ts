import { defineFormat, materialName } from './declare'

export default defineFormat({
  word: 'baked',
  section: 'materials',
  title: 'Baked',
  help: 'Reads everything from pictures.',
  ending: '.mtlx',
  carries: {
    baseColor: 'picture',
    metalRough: 'pictures',
    occlusion: 'picture (glTF surface)',
    normal: 'picture, if chosen',
    height: 'displacement, if chosen',
    emission: 'picture',
    opacity: 'picture',
    translucency: 'picture (OpenPBR surface)',
    variants: 'a material each',
  },
  reads: 'beside',
  async files(leaving) {
    const { writeMaterialX } = await import('../../exchange/writeMaterialX')
    const materials = leaving.subjects.map(({ name, subject }, v) =>
      subject.bakedMaterial(materialName(leaving, name), leaving.picture(v)),
    )
    return [[`${leaving.stem}.mtlx`, writeMaterialX(materials)]]
  },
})
