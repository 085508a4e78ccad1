import { partsAtVertices } from '../delivered'
import { defineFormat } from './declare'

export default defineFormat({
  word: 'ply',
  section: 'meshes',
  title: 'PLY',
  help: 'Mesh with named values and colors at its vertices.',
  ending: '.ply',
  carries: {
    baseColor: '`red green blue`',
    metalRough: 'as values',
    occlusion: 'as values',
    height: 'as values',
    emission: 'as values',
    opacity: 'as values',
    translucency: 'as values',
    values: 'named properties',
  },
  async files({ stem, delivered, subjects, values, vertexColors, keys }) {
    const { writePly } = await import('../../exchange/writePly')
    const atVertices = keys && Array.from(partsAtVertices(delivered), p => keys[p]!)
    const colors = vertexColors ?? subjects[0]!.subject.vertexColors()
    return [[`${stem}.ply`, writePly(delivered.mesh, values, colors, atVertices)]]
  },
})
