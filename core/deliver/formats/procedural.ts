import { defineFormat, materialName, proceduralFile } from './declare'

export default defineFormat({
  word: 'procedural',
  section: 'materials',
  title: 'Procedural',
  help: 'Patterns as standard nodes, part and vertex values from the delivered mesh.',
  ending: '.mtlx',
  suffix: '.procedural.mtlx',
  carries: {
    baseColor: 'nodes',
    metalRough: 'nodes',
    height: 'displacement',
    emission: 'nodes',
    opacity: 'nodes',
    translucency: 'nodes (OpenPBR surface)',
    values: 'read from the delivered mesh',
  },
  with: { meshes: ['glb'] },
  refuses({ variants }) {
    if (variants < 2) return undefined
    return 'A procedural material reads the values of one variant from the mesh; deliver its variants one at a time.'
  },
  async files(leaving) {
    const { writeMaterialX } = await import('../../exchange/writeMaterialX')
    const { subjects } = leaving
    const material = subjects[0]!.subject.procedural!.build(materialName(leaving, ''), leaving.picture(0))
    return [[proceduralFile(leaving), writeMaterialX([material])]]
  },
})
