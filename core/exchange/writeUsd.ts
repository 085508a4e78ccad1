import type { Mesh } from '../mesh/mesh'
import { plainName } from './names'
import type { MeshValues } from './usdMesh'
import { usdMaterial, type UsdSurface } from './usdPreview'
import { namer, quoted } from './usdText'
import { treeLines } from './usdTree'

/**
 * Writes a mesh as an OpenUSD text layer (.usda): meters, Y up, the nodes that the file had as prims, one Mesh prim per
 * object in the space of its own, points welded where positions are equal; what the file had once and placed several
 * times is a reference to the first, with what is different. Values are primvars with the coarsest interpolation that
 * holds them: `constant` where an object has one value, `uniform` (per face) for values of parts, `vertex` where all
 * corners at a point agree, else `faceVarying`, as normals and UVs (`st`, t upward) are. Surfaces are
 * UsdPreviewSurface materials, and the same as MaterialX networks.
 */
export function writeUsd(mesh: Mesh, title: string, parts: Partial<MeshValues & UsdLook> = {}): string {
  const { surfaces = [], procedural, primvars = [], partOfTriangle, keys, sets = [] } = parts
  const root = plainName(title)
  const looks = `/${root}/Looks`
  const free = namer()
  const names = surfaces.map(s => free(s.name))
  const choices = names.map((name): Choice => ({ name, bound: `${looks}/${name}`, lines: [] }))
  if (procedural) choices.push(proceduralChoice(procedural, `/${root}`))
  const set = procedural ? 'material' : 'look'
  const lines = [
    '#usda 1.0',
    '(',
    `    defaultPrim = "${root}"`,
    '    doc = "Written by Ubblet"',
    '    metersPerUnit = 1',
    '    upAxis = "Y"',
    ')',
    '',
    `def Xform "${root}" (`,
    '    kind = "component"',
    ...(choices.length ? ['    prepend apiSchemas = ["MaterialBindingAPI"]'] : []),
    ...(choices.length > 1 ? choosing(set, choices) : []),
    ')',
    '{',
    '    uniform token purpose = "default"',
  ]
  // A single look is bound where the mesh is; of several, the variant that is chosen binds one.
  if (choices.length === 1) lines.push(`    rel material:binding = <${choices[0]!.bound}>`)
  for (const line of treeLines(mesh, { primvars, partOfTriangle, keys, sets }, `/${root}`, ['Looks', PROCEDURAL]))
    lines.push(`    ${line}`)
  lines.push('    def Scope "Looks"', '    {')
  surfaces.forEach((s, i) => lines.push(...usdMaterial(s, names[i]!, `${looks}/${names[i]}`).map(l => `        ${l}`)))
  lines.push('    }', ...(choices.length > 1 ? variantLines(set, choices) : []), '}', '')
  return lines.join('\n')
}

/** The surfaces of a layer. */
export interface UsdLook {
  surfaces: readonly UsdSurface[]
  /** A material of a MaterialX document, which can be chosen in place of a single surface. */
  procedural: { document: string; material: string }
}

/** A variant: the material that it binds, and what else stands in it. */
interface Choice {
  name: string
  bound: string
  lines: readonly string[]
}
/** The scope that a document is brought into. */
const PROCEDURAL = 'Procedural'

/** The document is read only where it is chosen: not every reader of USD reads MaterialX. */
function proceduralChoice({ document, material }: UsdLook['procedural'], root: string): Choice {
  return {
    name: 'procedural',
    bound: `${root}/${PROCEDURAL}/Materials/${plainName(material)}`,
    lines: [`def Scope "${PROCEDURAL}" (`, `    prepend references = @./${document}@</MaterialX>`, ')', '{', '}'],
  }
}

const choosing = (set: string, choices: readonly Choice[]): string[] => [
  '    variants = {',
  `        string ${set} = ${quoted(choices[0]!.name)}`,
  '    }',
  `    prepend variantSets = "${set}"`,
]
const variantLines = (set: string, choices: readonly Choice[]): string[] => [
  `    variantSet "${set}" = {`,
  ...choices.flatMap(({ name, bound, lines }) => [
    `        ${quoted(name)} {`,
    `            rel material:binding = <${bound}>`,
    ...lines.map(l => `            ${l}`),
    '        }',
  ]),
  '    }',
]
