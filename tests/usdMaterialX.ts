/** Types of MaterialX for those of USD. */
const TYPES: Record<string, string> = {
  bool: 'boolean',
  float: 'float',
  color3f: 'color3',
  float2: 'vector2',
  float3: 'vector3',
}
/** What a node makes whose name does not end with it. */
const MADE: Record<string, string> = {
  multiply_color3FA: 'color3',
  normalmap_float: 'vector3',
  displacement_float: 'displacementshader',
}

/**
 * The MaterialX network of the first material of a USD layer as a MaterialX document, by the names of its definitions:
 * `ND_image_color3` is the node `image` of type `color3`.
 */
export function materialXOf(layer: string): string {
  const [material] = /def Material "[^]*?\n {8}\}\n {4}\}\n/.exec(layer) ?? [layer]
  const nodes = [...material.matchAll(/def Shader "(mtlx_\w+)"\s*\{([^]*?)outputs:out\s*\}/g)].map(([, name, body]) => {
    const id = /info:id = "ND_(\w+)"/.exec(body!)![1]!
    const at = id.lastIndexOf('_')
    const inputs: string[] = []
    for (const [, type, input, from] of body!.matchAll(/(\w+) inputs:(\w+)\.connect = <[^>]*\/(\w+)\.outputs:out>/g))
      inputs.push(`<input name="${input}" type="${TYPES[type!]}" nodename="${from}" />`)
    for (const [, type, input, value] of body!.matchAll(/(float|color3f|bool) inputs:(\w+) = \(?([^)\n]+)/g))
      inputs.push(`<input name="${input}" type="${TYPES[type!]}" value="${value}" />`)
    for (const [, input, value] of body!.matchAll(/string inputs:(\w+) = "(\w+)"/g))
      inputs.push(`<input name="${input}" type="string" value="${value}" />`)
    for (const [, value, space] of body!.matchAll(/asset inputs:file = @([^@]+)@(?: \(\s*colorSpace = "(\w+)")?/g))
      inputs.push(`<input name="file" type="filename" value="${value}"${space ? ` colorspace="${space}"` : ''} />`)
    const kind = id.slice(0, at)
    return `<${kind} name="${name}" type="${MADE[id] ?? id.slice(at + 1)}" nodedef="ND_${id}">${inputs.join('')}</${kind}>`
  })
  const ends = [...material.matchAll(/outputs:mtlx:(\w+)\.connect = <[^>]*\/(\w+)\.outputs:out>/g)].map(
    ([, end, from]) => `<input name="${end}shader" type="${end}shader" nodename="${from}" />`,
  )
  return [
    '<?xml version="1.0"?><materialx version="1.39" colorspace="lin_rec709">',
    ...nodes,
    `<surfacematerial name="M" type="material">${ends.join('')}</surfacematerial>`,
    '</materialx>',
  ].join('\n')
}
