import type { Mesh } from '../mesh/mesh'
import { plainName } from './names'
import { usdMesh, type MeshValues } from './usdMesh'
import { usdMaterial, type UsdSurface } from './usdPreview'
import { namer, quoted } from './usdText'

/**
 * Writes a mesh as an OpenUSD text layer (.usda): meters, Y up, one Mesh prim per object inside the prims that the file
 * had it in, points welded where positions are equal. Values are primvars with the coarsest interpolation that holds
 * them: `constant` where an object has one value, `uniform` (per face) for values of parts, `vertex` where all corners
 * at a point agree, else `faceVarying`, as normals and UVs (`st`, t upward) are. Surfaces are
 * UsdPreviewSurface materials, and the same as MaterialX networks.
 */
export function writeUsd(
  mesh: Mesh,
  title: string,
  {
    surfaces = [],
    primvars = [],
    partOfTriangle,
    keys,
    sets = [],
  }: Partial<MeshValues & { surfaces: UsdSurface[] }> = {},
): string {
  const root = plainName(title)
  const looks = `/${root}/Looks`
  const free = namer()
  const names = surfaces.map(s => free(s.name))
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
    ...(surfaces.length ? ['    prepend apiSchemas = ["MaterialBindingAPI"]'] : []),
    ...(surfaces.length > 1 ? variantChoice(names) : []),
    ')',
    '{',
  ]
  // A single look is bound where the mesh is; of several, the variant that is chosen binds one.
  if (surfaces.length === 1) lines.push(`    rel material:binding = <${looks}/${names[0]}>`)
  lines.push(...treeLines(mesh, { primvars, partOfTriangle, keys, sets }))
  lines.push('    def Scope "Looks"', '    {')
  surfaces.forEach((s, i) => lines.push(...usdMaterial(s, names[i]!, `${looks}/${names[i]}`).map(l => `        ${l}`)))
  lines.push('    }', ...(surfaces.length > 1 ? variants(names, looks) : []), '}', '')
  return lines.join('\n')
}

const variantChoice = (names: readonly string[]): string[] => [
  '    variants = {',
  `        string look = ${quoted(names[0]!)}`,
  '    }',
  '    prepend variantSets = "look"',
]
const variants = (names: readonly string[], looks: string): string[] => [
  '    variantSet "look" = {',
  ...names.flatMap(name => [
    `        ${quoted(name)} {`,
    `            rel material:binding = <${looks}/${name}>`,
    '        }',
  ]),
  '    }',
]

/** A prim that the file had objects in, and those that it had in there. */
interface Branch {
  folders: Map<string, Branch>
  objects: Mesh['objects']
}

/** The objects of a mesh within the prims that the file had them in. */
function treeLines(mesh: Mesh, values: MeshValues): string[] {
  const branch = (): Branch => ({ folders: new Map(), objects: [] })
  const top = branch()
  for (const object of mesh.objects) {
    let at = top
    for (const parent of object.parents ?? []) {
      if (!at.folders.has(parent)) at.folders.set(parent, branch())
      at = at.folders.get(parent)!
    }
    at.objects.push(object)
  }
  const lines: string[] = []
  const visit = ({ folders, objects }: Branch, indent: string, free = namer()): void => {
    for (const [name, inner] of folders) {
      lines.push(`${indent}def Xform "${free(name)}"`, `${indent}{`)
      visit(inner, `${indent}    `)
      lines.push(`${indent}}`)
    }
    for (const object of objects) {
      lines.push(`${indent}def Mesh "${free(object.name)}"`, `${indent}{`)
      lines.push(...usdMesh(mesh, object, values).map(line => `${indent}    ${line}`), `${indent}}`)
    }
  }
  const free = namer()
  free('Looks')
  visit(top, '    ', free)
  return lines
}
