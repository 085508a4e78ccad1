import { paramOf } from '../../graph/kinds'
import type { ValueCheck } from './declare'

export default {
  about: "the picture of the mesh's own normals",
  run(checked) {
    const { mesh, pictures } = checked.tables
    const { ownNormals } = mesh
    if (!ownNormals || pictures?.some(p => p.name === ownNormals)) return
    for (const n of checked.ofKind('result')) {
      if (paramOf(n, 'normals')) continue
      checked.warn(
        n,
        `The mesh is to lie on the normals of "${ownNormals}", and the project has no picture of that name: the normals of its vertices are used.`,
      )
    }
  },
} satisfies ValueCheck
