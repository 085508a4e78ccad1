// Deliberate faults, one at a time: `npm run mutants` puts each into a copy of the code and says which test finds it.
// `first` names test files that are likely to; where they do not, all unit tests are run.

/** @type {{ file: string; fault: string; from: string; to: string; first: string[] }[]} */
export const MUTANTS = []
const of = (file, first) => (fault, from, to) => MUTANTS.push({ file, fault, from, to, first })

const usd = of('core/exchange/usdPreview.ts', ['roundTrips', 'documents'])
const usdMesh = of('core/exchange/usdMesh.ts', ['roundTrips', 'documents'])
usd('the height of USD has no bias', '[height.bias, 0, 0, 0]', '[0, 0, 0, 0]')
usd('the height of USD is scaled by half', '[height.scale, 1, 1, 1]', '[height.scale / 2, 1, 1, 1]')
usd('the normal of USD has no bias', '[-1, -1, -1, 0]', '[0, 0, 0, 0]')
usd(
  'the roughness of USD is wired into metallic',
  "'roughness', to.picture('roughness'",
  "'metallic', to.picture('roughness'",
)
usdMesh('v of USD runs down', '(i % 2 ? 1 - x : x)', 'x')
usd(
  'colors of USD are read as numbers',
  "use.space === 'srgb' ? 'sRGB' : 'raw'",
  "use.space === 'srgb' ? 'raw' : 'raw'",
)
usdMesh(
  'values of parts are written for each corner',
  'if (perPart && partOfTriangle &&',
  'if (false && partOfTriangle &&',
)
usd('pictures of USD are clamped', 'token inputs:wrapT = "repeat"', 'token inputs:wrapT = "clamp"')
usd('the emission of USD has no strength', 'strength === 1 ?', 'strength !== 0 ?')

const turned = of('core/exchange/turned.ts', ['readers'])
turned('each triangle is turned for itself', 'shell => (sums[shell]! < 0 ? 1 : 0)', '(_, t) => (along[t]! < 0 ? 1 : 0)')
turned('a whole piece is turned at once', 'joined.find(triangles[t * 3]!)', '0')
turned('triangles that run against their normals stay', 'if (along[t]! < 0) doubted = true', '')
of('core/exchange/joinPieces.ts', ['readers'])(
  'a mirror and normals do not both turn',
  'mirrored === (wrong?.[t / 3] === 1)',
  '!mirrored && wrong?.[t / 3] !== 1',
)
const framing = of('core/mesh/framing.ts', ['framing'])
framing('a floor is seen from its edge', '(ABOVE.flat - ABOVE.upright) * flat', '0')
framing('a first look is from the left', 'unit([0.32,', 'unit([-0.32,')
framing('a wide picture is framed as a square one', '(tall * aspect)', 'tall')
const view = of('core/evaluate/view.ts', ['analysis'])
view('small parts count as much as large ones', '(sum, { area }) => sum + area, 0) / 2', 'sum => sum, 0) / 2')
view('a swatch looks at the middle, whatever is there', 'if (score <= best) continue', 'if (score < Infinity) continue')
view('up is down in a search for the fullest view', 'y: middle.y - (y', 'y: middle.y + (y')
of('core/evaluate/footprints.ts', ['stagePasses', 'still'])(
  'the front is where the corners run clockwise',
  'toEye < 0 ? 1 : 0',
  'toEye > 0 ? 1 : 0',
)

const subject = of('core/deliver/subject.ts', ['roundTrips', 'documents'])
subject(
  'the height of MaterialX is not shifted',
  "float('subtract', channels.height, 0.5)",
  "float('subtract', channels.height, 0)",
)
subject(
  'the height of MaterialX is scaled by half',
  '2 * largest.height)\n    if (channels.emission',
  'largest.height)\n    if (channels.emission',
)
subject('the emission of a GLB has no strength', 'emissiveStrength: this.largest.emission', 'emissiveStrength: 1')
subject('opacity is left out of a GLB', "...(baseColor && this.sets('opacity') && { opacity: true })", '...{}')
subject('documents read the height twice', "this.sets('height') && relief !== 'normal'", "this.sets('height')")
subject(
  'the color of what passes through a GLB runs blue to red',
  "['translucency.r', 'translucency.g', 'translucency.b', 'translucency']",
  "['translucency.b', 'translucency.g', 'translucency.r', 'translucency']",
)
of('core/exchange/compressGlb.ts', ['roundTrips'])(
  'values on the vertices are quantized, too',
  '/^(POSITION|NORMAL|TANGENT|TEXCOORD_\\d)$/',
  '/./',
)
subject(
  'metalness and roughness are swapped without UVs',
  'const [metalness, roughness, ...through]',
  'const [roughness, metalness, ...through]',
)
subject(
  'lanes of a vertex map are turned around',
  'out[v * columns.length + k] = c[v]!',
  'out[v * columns.length + columns.length - 1 - k] = c[v]!',
)

const glb = of('core/exchange/glbMaterials.ts', ['roundTrips', 'bake', 'documents'])
glb('a GLB with opacity is drawn as solid', "made.setAlphaMode('BLEND')", "made.setAlphaMode('OPAQUE')")
glb(
  'the metalness factor takes the roughness',
  '.setMetallicFactor(metallicRoughness ? 1 : factors.metalness)',
  '.setMetallicFactor(metallicRoughness ? 1 : factors.roughness)',
)
glb('the emissive factor is black', '.setEmissiveFactor([1, 1, 1])', '.setEmissiveFactor([0, 0, 0])')
of('core/exchange/writeGlb.ts', ['roundTrips', 'bake', 'documents'])(
  'every triangle is of the first tile',
  'const tile = tileOf(t)\n',
  'const tile = tileOf(firstTriangle)\n',
)

const mtlx = of('core/exchange/writeMaterialX.ts', ['roundTrips', 'documents'])
mtlx(
  'colors of MaterialX are read as linear',
  "space === 'srgb' ? 'srgb_texture' : 'lin_rec709'",
  "space === 'srgb' ? 'lin_rec709' : 'lin_rec709'",
)
mtlx(
  'millimeters are meters in MaterialX',
  'name="scale" type="float" value="0.001"',
  'name="scale" type="float" value="1"',
)
mtlx(
  'roughness of the glTF surface goes into metallic',
  "roughness: 'roughness',\n    occlusion",
  "roughness: 'metallic',\n    occlusion",
)

const ply = of('core/exchange/writePly.ts', ['roundTrips', 'documents'])
ply('v of PLY runs down', '(i % 2 ? 1 - x : x)', 'x')

const relief = of('core/bake/relief.ts', ['roundTrips', 'bake'])
relief('normals lean the wrong way along u', 'const ox = -(', 'const ox = (')
relief('normals lean the wrong way along v', 'const oy = -(', 'const oy = (')
relief('a millimeter of height is a centimeter', '* 0.001) / step', '* 0.01) / step')

const lanes = of('core/bake/lanes.ts', ['bake', 'roundTrips', 'documents'])
lanes(
  'occlusion is turned around',
  'out[i] = 1 - (a + (b - a) * u[i]! + (c - a) * v[i]!)',
  'out[i] = a + (b - a) * u[i]! + (c - a) * v[i]!',
)
lanes(
  'the largest height may be exceeded',
  "rounded(largestOf('height') * 1.02 || 1)",
  "rounded(largestOf('height') * 0.5 || 1)",
)
lanes(
  'a fingerprint leaves the numbers out',
  "if (i.op === 'param') return read(i.ref)",
  "if (i.op === 'param') return 0",
)

const exr = of('core/bake/exr.ts', ['bake', 'roundTrips'])
exr(
  'channels of EXR are not in the order of their names',
  '(channels[a]! < channels[b]! ? -1 : 1)',
  '(channels[a]! < channels[b]! ? 1 : -1)',
)
exr('lines of EXR are numbered from one', 'int(row + from)', 'int(row + from + 1)')
const png = of('core/bake/png.ts', ['bake'])
png('16 bits of PNG say that they are 8', 'depth, TYPES', '8, TYPES')
png('linear PNG says that it is sRGB', "space === 'srgb'\n", "space !== 'srgb'\n")

const keys = of('core/mesh/keys.ts', ['keys', 'parts'])
keys(
  'ties between parts are left to chance',
  'a.cost - b.cost || a.part - b.part || a.entry - b.entry',
  'a.cost - b.cost || b.part - a.part || a.entry - b.entry',
)
keys('new parts may take a key that is there', 'for (let n = 1; used.has(p.key); n++)', 'for (let n = 1; false; n++)')
keys('other units leave areas as they are', 'area: by(table.area, factor ** 2)', 'area: by(table.area, factor)')
keys('an entry is given away twice', '      taken[entry] = 1\n', '')

const preparation = of('core/mesh/preparation.ts', ['preparing', 'geometry', 'keys'])
preparation('the id of a map leaves the refinement out', '    p.edge,\n    settings,', '    settings,')
preparation('the id of a map leaves the weld distance out', '    p.weld,\n    p.edge,', '    p.edge,')

const sets = of('core/mesh/partSets.ts', ['parts', 'preparing'])
sets('parts taken out by hand are in', 'if (minus.has(p.key)) return 0', 'if (minus.has(p.key)) return 1')
sets('any rule is enough where all must hold', "set.match === 'all' ?", "set.match !== 'all' ?")
sets('above means below', "rule.is === 'above' ? value > rule.value", "rule.is === 'above' ? value < rule.value")
const measures = of('core/mesh/measures.ts', ['keys', 'parts', 'preparing', 'nodes', 'kinds'])
measures('volume is six times too large', ' + az * (bx * dy - by * dx)) / 6', ' + az * (bx * dy - by * dx))')
measures('flatness is turned around', '1 - sides[n]![2]! / sides[n]![1]!', 'sides[n]![2]! / sides[n]![1]!')
const ownSpace = of('core/exchange/ownSpace.ts', ['hierarchy'])
ownSpace('mirrored faces are written inside out', 'if (linear.determinant() < 0)', 'if (linear.determinant() > 1e9)')
ownSpace('normals go back by the inverse', '.applyMatrix3(turned)', '.applyMatrix3(linear)')
ownSpace('nodes stand in the world alone', 'within === undefined ? own : own.premultiply(worldOf(within))', 'own')
const usdTree = of('core/exchange/usdTree.ts', ['hierarchy'])
usdTree('what differs between instances is lost', '!== textOf(lines)', '=== textOf(lines)')
usdTree('a prim is moved to the foot of its matrix', 'slice(k * 4, k * 4 + 4)', 'filter((_, i) => i % 4 === k)')
const units = of('core/mesh/preparation.ts', ['hierarchy'])
units('nodes keep their places in other units', 'i === 12 || i === 13 || i === 14', 'i > 15')
const recipes = of('core/exchange/surfaceGraph.ts', ['procedural'])
recipes('settings that values of parts depend on are shown', '(domain !== UNIFORM && domain !== SURFACE)', 'false')
recipes('settings of recipes are numbers', '|| this.reach(ref, id, readers)', '|| false')
const definitions = of('core/exchange/mxGraph.ts', ['procedural'])
definitions('definitions go in circles', 'if (node.group && left.has(node.group))', 'if (false)')
definitions('a setting is lost with its definition', 'setting ? { ...input, value: setting.value } : input', 'input')
const contacts = of('core/mesh/contacts.ts', ['keys', 'parts', 'preparing'])
contacts('parts touch only where they overlap', 'near(parts, distance), distance / 2)', 'near(parts, distance), 0)')

const places = of('core/geometry/places.ts', ['geometry'])
places('facing is turned around', '0.5 + (n[v * 3]! * x', '0.5 - (n[v * 3]! * x')
places('the angle around the long axis runs backward', 'Math.atan2(w, u)', 'Math.atan2(u, w)')
const border = of('core/geometry/border.ts', ['geometry'])
border(
  'the distance to the border is counted from inside',
  'Math.min(1, x / distance)',
  '1 - Math.min(1, x / distance)',
)
const curvature = of('core/geometry/curvature.ts', ['geometry'])
curvature('curvature is smoothed over twice the radius', 'solve((radius * radius) / 2,', 'solve(radius * radius * 2,')
curvature('every direction of search forgets the last one', 'share = ratios(next, rr)', 'share = [0, 0, 0]')
of('core/geometry/islands.ts', ['geometry'])(
  'vertices of an island have the weights of others',
  'let from = matrix.starts[i]!',
  'let from = matrix.starts[n]!',
)
of('core/geometry/geometry.ts', ['geometry'])(
  'what stands out at one radius is taken for another',
  'if (this.stood?.radius === radius)',
  'if (this.stood)',
)
of('app/shared/unhurried.ts', ['unhurried'])(
  'what is out of date is found to its end',
  'if (this.round !== mine) return null',
  'if (this.round < mine) return null',
)
const costly = of('app/stage/costlyValues.ts', ['costlyValues'])
costly(
  'hasty values wait for exact ones',
  "if (pace === 'hasty') await found",
  "if (pace !== 'hasty' || seen) await found",
)
costly('exact values that were given up are not asked for again', 'this.due.exact = true\n        this.f', 'this.f')
const analyzer = of('core/evaluate/analysis.ts', ['analysis'])
analyzer('whoever looks in between makes exact values hasty', 'yield\n    gatherer.pace = pace', 'yield')
of('core/evaluate/diffuse.ts', ['gathered'])('what is softened is sharpened', 'x[i]! += solver.d', 'x[i]! -= solver.d')
of('core/evaluate/moveEdge.ts', ['gathered'])(
  'ways go along edges alone',
  'if (done[w]) {',
  'if (done[w] && !done[v]) {',
)
const ray = of('core/kernels/assembly/rays.ts', ['geometry'])
ray('boxes are as small as their roundings', '<f32>(ox + offX)', '<f32>(ox - offX)')
ray('a number that is zero is not off', 'OFF_AT_LEAST: f64 = 1e-20', 'OFF_AT_LEAST: f64 = 0')
ray('what is nearest on an edge is as far from its other end', 'ax + abX * v, ay', 'bx - abX * v, ay')
ray(
  'of several that are equally near the last one stays',
  'if (!(way < least)) continue',
  'if (!(way <= least)) continue',
)
ray('a ray that goes backward comes to the far sides first', 'sideX = ix < 0 ? 48 : 0', 'sideX = dx < 0 ? 48 : 0')
of('core/geometry/wideTree.ts', ['geometry'])(
  'boxes are taken from the other children',
  'outFloats[at + k * LANES + lane] = floats[child * 8 + k]!',
  'outFloats[at + k * LANES + (lane ^ 1)] = floats[child * 8 + k]!',
)

const layer = of('core/nodes/layer.ts', ['channels', 'nodes'])
layer('heights replace one another', "name === 'height' ? 'add' : 'blend'", "name === 'height' ? 'blend' : 'blend'")
layer('the higher surface loses', "way === 'higher' ? b.max(under, x)", "way === 'higher' ? b.min(under, x)")
layer(
  'a hard mask has its edge elsewhere',
  "b.op('less', [b.constant(0.5), mask])",
  "b.op('less', [b.constant(0.2), mask])",
)
const gradient = of('core/nodes/positionGradient.ts', ['nodes', 'shaping'])
gradient(
  'a gradient is flipped',
  'b.mix(up, b.sub(one, up), number(`flip${suffix}`))',
  'b.mix(b.sub(one, up), up, number(`flip${suffix}`))',
)
gradient(
  'a tilted gradient runs the other way',
  "Y: b.op('sin', [radians('tilt')])",
  "Y: b.op('cos', [radians('tilt')])",
)
const ramp = of('core/nodes/ramp.ts', ['nodes', 'kinds', 'shaping'])
ramp(
  'stops are mixed in linear light where OKLab is asked for',
  "const lab = choice('between') === 'oklab'",
  'const lab = false',
)
ramp(
  'a hard edge has its colors the other way around',
  "b.sub(b.constant(1), b.op('less', [x, to.at])),",
  "b.op('less', [x, to.at]),",
)
const vary = of('core/nodes/varyColor.ts', ['nodes'])
vary(
  'hue turns the other way',
  'b.mul(gain, b.sub(b.mul(A, cos), b.mul(B, sin)))',
  'b.mul(gain, b.add(b.mul(A, cos), b.mul(B, sin)))',
)
const color = of('core/program/color.ts', ['kinds', 'nodes', 'palette'])
color(
  'bringing a color into the gamut bends its hue',
  '[light, b.mul(A, fit), b.mul(B, fit)]',
  '[light, b.mul(A, fit), B]',
)
color(
  'a color outside the gamut is cut off',
  "const fit = b.op('fitChroma', [light, A, B])",
  'const fit = b.constant(1)',
)
const coverage = of('core/nodes/coverage.ts', ['gathered', 'nodes'])
coverage('coverage is that of the rest', 'const cut = cutAt(share)', 'const cut = cutAt(b.sub(b.constant(1), share))')
const random = of('core/nodes/partRandom.ts', ['nodes', 'kinds', 'shaping', 'look'])
random('another roll is the same roll', 'b.add(b.mul(roll, b.constant(8)), b.constant(stream))', 'b.constant(stream)')
random('the second draw is the first', 'second: value(one(1))', 'second: value(one(0))')
random(
  'signed draws are only positive',
  'b.sub(b.mul(one(0), b.constant(2)), b.constant(1))',
  'b.mul(one(0), b.constant(2))',
)
const stripes = of('core/nodes/stripes.ts', ['kinds', 'nodes', 'standard'])
stripes(
  'stripes cover what lies between them',
  "b.sub(b.constant(1), b.op('smoothstep', [b.sub(share, half)",
  "b.add(b.constant(0), b.op('smoothstep', [b.sub(share, half)",
)

const compare = of('core/color/compare.ts', ['roundTrips'])
compare('the 99 of 100 are 50', 'sorted.length * 0.99', 'sorted.length * 0.5')
const light = of('core/trace/light.ts', ['light', 'trace'])
light(
  'a turned light turns the other way',
  'return [x * this.cosine - z * this.sine, y, x * this.sine + z * this.cosine]',
  'return [x * this.cosine + z * this.sine, y, -x * this.sine + z * this.cosine]',
)
light('the sky stands on its head', 'const down = v * Math.PI', 'const down = (1 - v) * Math.PI')
const shade = of('core/light/shade.ts', ['still'])
shade('the shadow lights', 'falling[k]! -= held * Math.min', 'falling[k]! += held * Math.min')
shade(
  'metal mirrors without its color',
  'const [metal, multipleOfMetal] = scattered(base)',
  'const [metal, multipleOfMetal] = scattered(DIELECTRIC)',
)
shade('the mesh is turned the other way', 'd[0]! * cosine + d[2]! * sine', 'd[0]! * cosine - d[2]! * sine')
shade('contact darkens emission alone', 'return diffuse * seen + mirrors * seenMirror', 'return diffuse + mirrors')
const shadows = of('core/light/shadowMap.ts', ['still'])
shadows(
  'what is nearer to the light is in shadow',
  'found > 0 && found < way - slack ? found : 0',
  'found > 0 && found > way + slack ? found : 0',
)
shadows(
  'shadows are always sharp',
  'clamp((slope * (way - sum / blockers)) / extent, 0.75 / SIZE, 0.08)',
  '0.75 / SIZE',
)
const contact = of('core/light/contact.ts', ['still'])
contact('the horizon sinks', 'return dot3(eye, there) - level', 'return level - dot3(eye, there)')
contact('contacts reach anywhere', 'const way = (far * (j + 1)) / STEPS', 'const way = (j + 1) / STEPS')
const prefiltered = of('core/light/prefiltered.ts', ['still'])
prefiltered(
  'light falls from below',
  'const cos = x * texels[i]! + y * texels[i + 1]! + z * texels[i + 2]!',
  'const cos = x * texels[i]! - y * texels[i + 1]! + z * texels[i + 2]!',
)
prefiltered(
  'texels in the corners of the cube count as much as in the middle',
  'Math.max(...d.map(Math.abs)) ** 3, ...color',
  '1, ...color',
)
const plates = of('core/trace/light.ts', ['still'])
plates('a plate shines along itself', '!(along > 0 && along < near)', '!(along > 0) || along > near')
const reflected = of('core/light/albedo.ts', ['still'])
reflected('what grazes reflects no more', 'bias += grazing * weight', 'bias += 0 * weight')
const whole = of('core/evaluate/gather.ts', ['gathered'])
whole(
  'shares of one value are mixed up',
  'this.put(this.entries.get(r)!, found[k]!)',
  'this.put(this.entries.get(r)!, found[0]!)',
)

const bsdf = of('core/trace/bsdf.ts', ['trace'])
bsdf('roughness is not squared', 'Math.max(1e-3, roughness * roughness)', 'Math.max(1e-3, roughness)')
const trace = of('core/trace/trace.ts', ['trace'])
trace('light found both ways counts twice', 'density ? density / (density + sky.density(along)) : 1', '1')
const obj = of('core/exchange/readObj.ts', ['readers'])
obj('v of OBJ runs down', 'uvs.push(1 - (', 'uvs.push(0 + (')
obj('vertex colors of OBJ are linear', 'decodeSrgb(numbers[3 + k]!)', 'numbers[3 + k]!')
obj('corners from the end begin one too late', 'have[kind]! + named', 'have[kind]! + named + 1')
const plainNumbers = of('core/exchange/plainNumbers.ts', ['readers'])
plainNumbers('numbers of OBJ have the other exponent', 'power += this.exponent()', 'power -= this.exponent()')
plainNumbers('numbers of OBJ are rounded twice', 'value / POWERS[-power]!', 'value * (1 / POWERS[-power]!)')
plainNumbers('long numbers lose their last digits', 'value > MOST)', 'value > MOST * 100)')
const gathered = of('core/exchange/pieceBuilder.ts', ['readers'])
gathered('smoothing groups are taken for normals', 'normal < 0 ? -smooth : normal', 'normal < 0 ? smooth - 1 : normal')
gathered(
  'corners alike but for their group are one',
  'normal < 0 ? -smooth : normal, group)',
  'normal < 0 ? -smooth : normal, 0)',
)

const identity = of('core/bake/lanes.ts', ['identity'])
identity('numbers of parts in pictures begin with 0', 'of(i) + 1', 'of(i)')
identity(
  'the group is the number of the object',
  'group: (i: number) => list[i]!.group',
  'group: (i: number) => list[i]!.object',
)
const usdz = of('core/exchange/writeUsdz.ts', ['usd'])
usdz('files in a package are not aligned', '(ALIGNED - (before % ALIGNED)) % ALIGNED', '0')
const known = of('core/mesh/keys.ts', ['keys'])
known('a turned mesh is mirrored', 'c[axis]! * signs[k]!', 'c[axis]!')
known('sizes are not turned along', 's => axes.map(axis => s[axis]!)', 's => s')
known(
  'groups do not come back',
  'if (mesh && !own && groups && group)',
  'if (false && mesh && !own && groups && group)',
)
const rolled = of('core/graph/recipe.ts', ['variants'])
rolled('all nodes are rolled where one is named', '!only || only.has(n.id)', 'true')
const numbers = of('core/color/compareNumbers.ts', ['commands'])
numbers(
  'pictures of other depths are compared as they are',
  'a.values[at]! / a.full - b.values[at]! / b.full',
  'a.values[at]! - b.values[at]!',
)
const taken = of('core/dense/transfer.ts', ['dense'])
taken('what stands out lies back', '(x - hits.places[i * 3 + k]!) *', '(hits.places[i * 3 + k]! - x) *')
taken('rays begin on the surface', 'at[k]! + n[k]! * outward)', 'at[k]! + n[k]! * 0)')
taken('the back of a surface is met', 'outward + inward, true)', 'outward + inward, false)')
taken('a part has the cage of all', 'cages[p.key] ?? { outward, inward }', '({ outward, inward })')
of('core/dense/curvature.ts', ['surfaceMaps'])(
  'what bulges is hollow',
  'values[q > 0 ? 0 : 1]!',
  'values[q > 0 ? 1 : 0]!',
)
of('core/dense/occlusionPicture.ts', ['surfaceMaps'])(
  'occlusion counts in full whatever the file says',
  '1 + (source.strength ?? 1) *',
  '1 + 1 *',
)
of('core/program/lower.ts', ['surfaceMaps'])(
  'the dense height is in the slope twice',
  'if (stands !== undefined && !normals)',
  'if (stands !== undefined)',
)
of('core/nodes/result.ts', ['surfaceMaps'])(
  "the mesh's own normals come before those that a look names",
  "choice('normals') || own",
  "own || choice('normals')",
)
const seen = of('core/kernels/assembly/surface.ts', ['stagePasses'])
seen('rows of wide triangles begin too late', 'Math.ceil(end) - 1)', 'Math.ceil(end) + 1)')
seen('rows of wide triangles end where they begin', 'if (slope > 0) from', 'if (slope < 0) from')
seen(
  'the weights of two corners are swapped',
  'const u = e1 / sum\n        const v = e2 / sum',
  'const u = e2 / sum\n        const v = e1 / sum',
)
seen(
  'the farthest is seen',
  'if (depth < near || depth >= load<f64>(there)) continue\n        if (before) {\n          const word',
  'if (depth < near || depth <= load<f64>(there)) continue\n        if (before) {\n          const word',
)
seen('the ground is seen from below, too', 'if (top <= gy || bottom >= top) continue', 'if (top == bottom) continue')
seen('the ground reaches as far along one axis', 'Math.abs(atZ - gz) > reach', 'Math.abs(atZ - gx) > reach')
of('core/kernels/surface.ts', ['stagePasses'])(
  'another mesh with the same triangles is taken for the one before',
  'if (this.positions === positions && this.indices === indices) {',
  'if (this.indices === indices) {',
)
of('core/evaluate/rasterize.ts', ['stagePasses'])(
  'hidden parts are those that are shown',
  'marks[t] = hidden[partOfTriangle[t]!] ?? 0',
  'marks[t] = 1 - (hidden[partOfTriangle[t]!] ?? 0)',
)
of('core/nodes/densePart.ts', ['surfaceMaps'])(
  'parts of the dense mesh are drawn by half of their names',
  "b.op('cell3', [b.mul(own, b.constant(NUMBERS)), seed, stream])",
  "b.op('cell3', [b.mul(own, b.constant(4096)), seed, stream])",
)
const far = of('core/evaluate/pyramid.ts', ['pyramid'])
far('colors are averaged as they are encoded', 'linear ? RAW : LINEAR', 'RAW')
far('a picture is read over its narrower side', 'const texels = Math.max(', 'const texels = Math.min(')
const bent = of('core/dense/normalPicture.ts', ['normalPictures'])
bent('a mirrored island is as any other', 'tangents[t * 12 + 3]! < 0 ? -1 : 1', '1')
bent('green grows the other way', "green === 'down' ? -1 : 1", "green === 'down' ? 1 : -1")
const carried = of('core/graph/fileMaterials.ts', ['fileMaterials'])
carried('metalness and roughness are swapped', "channel(both, 'blue')", "channel(both, 'green')")
carried('pictures are turned the other way', '(-turn * 180)', '(turn * 180)')
carried('a picture moves the other way', 'moveX: -move[0]', 'moveX: move[0]')
const joined = of('core/bake/relief.ts', ['dense'])
joined('the slope is not turned with the picture', 'const turn = pz > 1e-4 ?', 'const turn = pz > 1e4 ?')

const mover = of('core/compare/earthMover.ts', ['sheet'])
mover('what is moved back costs once more', 'work += (back ? -amount : amount) * cost', 'work += amount * cost')
mover('nothing that was moved is ever taken back', 'if (moved[i]![j]! > NOTHING &&', 'if (moved[i]![j]! > 2 &&')

const sheets = of('core/compare/sheet.ts', ['sheet', 'commands'])
sheets(
  'a sweep goes column by column',
  'return down.flatMap(row =>\n    across.map(column => {',
  'return across.flatMap(column =>\n    down.map(row => {',
)
sheets(
  'colors are swept in linear light',
  '[toLab(sweep.from as Triple), toLab(sweep.to as Triple)]',
  '[sweep.from as Triple, sweep.to as Triple]',
)

const followed = of('core/evaluate/followed.ts', ['followed', 'analysis'])
followed(
  'points that were not looked at miss a change',
  'for (const { stale } of this.followed) for',
  'for (const { stale } of [...this.followed].slice(0, 1)) for',
)
followed(
  'what is gathered anew touches nothing',
  'for (const ref of this.gathered) now.set',
  'for (const ref of []) now.set',
)
const gathers = of('core/evaluate/gather.ts', ['followed', 'gathered'])
gathers(
  'exact statistics are found out anew while the hands move',
  '(entry.accuracy ?? 0) < accuracy',
  'entry.accuracy !== accuracy',
)
gathers('a drag shows masks before they are softened', '(!entry.version || entry.hasty === true)', 'true')

const states = of('core/compare/combine.ts', ['sheet'])
states('a channel comes from the wrong one of two states', 'look = take(look, first)', 'look = take(look, second)')
states(
  'what drives two channels is not told',
  'if (wanted.length < driven.length)',
  'if (wanted.length > driven.length)',
)
states(
  'settings are tried in one of two states alone',
  'one.includes(c) || two.includes(c)',
  'one.includes(c) && two.includes(c)',
)
const handed = of('core/compare/takeParts.ts', ['sheet'])
handed('parts that are not meant are pinned too', 'wanted.has(key) && ', '')
handed('a part keeps the pin that it had', '[...kept, ...own]', '[...own, ...kept]')
of('core/nodes/palette.ts', ['sheet'])(
  'a pinned color is counted from the other end',
  "b.mul(pinned('pins', 'value')!, last)",
  "b.sub(last, b.mul(pinned('pins', 'value')!, last))",
)
of('core/graph/pins.ts', ['sheet'])('pointing at a part stops at the last color', 'at > last ? 0 :', 'at > last ? 1 :')
sheets('ratios are as far apart as differences', 'from * (to / from) ** share', 'from + (to - from) * share')
const keeps = of('node/store/tidy.ts', ['server/tidy'])
keeps('looks are thinned with one another', 'group(own, r => r.look)', "group(own, () => '')")
keeps('the newest revision goes with its look', 'old.filter(number => number !== newest)', 'old')
of('node/store/projectFile.ts', ['server/tidy'])(
  'revisions of a project file lose their looks',
  'lookId: look.newId',
  'lookId: own[0]!.newId',
)
of('core/deliver/forLook.ts', ['deliverySettings'])(
  'another look is asked for what it does not have',
  'if (error instanceof LaneError) return false',
  'if (error instanceof LaneError) return true',
)
of('node/render/lettering.ts', ['lettering'])('letters are filled where they have holes', 'y1 > y0 ? 1 : -1', '1')

const network = of('core/exchange/usdMaterialX.ts', ['roundTrips', 'standard'])
network(
  'metalness and roughness change places in the network',
  "wire('float', 'base_metalness'",
  "wire('float', 'specular_roughness'",
)
network('the network leaves the strength of emission out', 'shortest(surface.emission.strength)', 'shortest(1)')
network(
  'the displacement of the network has no bias',
  "sum('raised', 'add', scaled, bias)",
  "sum('raised', 'add', scaled, 0)",
)
network(
  'the base color of the network is read as linear',
  "const encoded = type === 'color3' && space === 'srgb'",
  'const encoded = false',
)

const ranks = of('core/evaluate/quantiles.ts', ['quantiles', 'kinds'])
ranks(
  'numbers below zero stand in the wrong order where quantiles are found',
  'bits ^ ((bits >> 31) & 0x7fffffff)',
  'bits',
)
ranks('a quantile is told from below', 'shares.map(share => Math', 'shares.map(share => n - Math')

of('core/mesh/edges.ts', ['geometry'])(
  'edges are told apart by one of their ends',
  '=== low && room[edge * 2 + 1] === high',
  '=== low',
)
of('core/geometry/refine.ts', ['geometry'])(
  'triangles that were split once are not looked at again',
  'if (out === before + 3) settled',
  'settled',
)

of('core/evaluate/tables.ts', ['tables'])(
  'the box of a mesh ends where its size says, wherever it begins',
  'max: [minX + sizeX,',
  'max: [sizeX,',
)
of('core/evaluate/analysis.ts', ['followed'])(
  'what is found ahead takes all the time that it can',
  "gatherer.pace = 'hasty'",
  "gatherer.pace = 'exact'",
)
of('app/shared/handOver.ts', ['columns'])(
  'an array that stands in two places is handed over as two',
  'copies.get(value) ?? value.slice()',
  'value.slice()',
)
of('core/evaluate/followed.ts', ['analysis'])(
  'values count as found though parameters changed while they were',
  'if (taken !== this.taken) return new Set()',
  'if (taken !== this.taken) break',
)
of('core/evaluate/analysis.ts', ['analysis'])(
  'swatches that were given up are not made smooth any more',
  'const wanted = new Set(due)\n    const isDear',
  'const wanted = new Set(due)\n    due.clear()\n    const isDear',
)
of('core/graph/strip.ts', ['strip'])(
  'a step is laid where the strip has no place',
  'Math.max(0, Math.min(strip.steps.length, place))',
  'place',
)
contacts(
  'triangles are compared in a cell that only one of them lies in',
  'Math.max(at(t, k), at(s, k))',
  'Math.min(at(t, k), at(s, k))',
)
contacts(
  'parts that do not touch are looked at once',
  'isKnown = a === b || touching.has(pair)',
  'isKnown = a === b || isKnown || touching.has(pair)',
)
of('core/mesh/measures.ts', ['preparing'])(
  'parts that were measured before their neighbors were found have none',
  'return { ...old.measures, neighbors }',
  'return { ...old.measures, neighbors: new Float64Array(neighbors.length) }',
)
const gathering = of('core/evaluate/gather.ts', ['analysis'])
gathering(
  'a value that was begun with other parameters is gone on with',
  'entry.due = true\n      entry.work = undefined',
  'entry.due = true',
)
gathering('what was there before is taken for what comes soon', 'if (!entry.due && (hasty ||', 'if ((hasty ||')
of('core/evaluate/workpiece.ts', ['preparing'])(
  'the search for contacts goes on where the mesh was before',
  'if (moved || preparation.contact !== this.preparation.contact) this',
  'if (!moved && preparation.contact !== this.preparation.contact) this',
)
of('app/shared/unhurried.ts', ['unhurried'])(
  'work on a state goes on though another one is asked for',
  'if (of !== this.of) this.hurry()',
  '',
)
of('core/graph/edit.ts', ['look'])(
  'a wire takes along what is known of the port that it was drawn from',
  'from: plain(from), to: plain(to)',
  'from, to',
)

const declared = of('server/rights/declare.ts', ['server/people'])
declared(
  'a token does what only people at a browser may',
  'if (declared.byHand && person.token !== undefined)',
  'if (false)',
)
declared('a lock holds what it lets pass', "declared.lock !== 'holds'", "declared.lock === 'holds'")
declared(
  'a route that changes something need not say what it does',
  'if (changes !== (declared.does !== undefined))',
  'if (changes && declared.does === null)',
)
of('server/utils/addresses.ts', ['server/people'])(
  'an escape that is escaped hides an address',
  'const DECODINGS = 3',
  'const DECODINGS = 1',
)
const tried = of('node/store/tries.ts', ['server/people'])
tried(
  'a right password takes back the tries of its whole network',
  'inArray(tries.id, own)',
  'inArray(tries.key, counts(trier).map(([k]) => k))',
)
tried('a browser of before counts with strangers', 'if (device) return', 'if (!device) return')
tried('each address of an IPv6 network counts by itself', '.slice(0, 4)', '.slice(0, 8)')
const tokened = of('node/store/tokens.ts', ['server/people'])
tokened('a token does what its user may, whatever its scope', 'role: lesser(found.role, scope)', 'role: found.role')
tokened('a token never ends', 'if (!found || found.ends <= now)', 'if (!found)')
const personnel = of('node/store/users.ts', ['server/people'])
personnel('the last who may manage may be given another role', "role !== undefined && role !== 'manage'", 'false')
personnel(
  'tokens outlive a password',
  'await rows.delete(tokens).where(eq(tokens.user, user.name))\n      await',
  'await',
)
of('node/store/sessions.ts', ['server/people'])(
  'a session that has ended lets in',
  'gt(sessions.ends, now)',
  'gt(sessions.ends, 0)',
)
of('node/store/trail.ts', ['server/people'])(
  'a page of the trail begins with the last of the one before',
  'lt(trail.id, before)',
  'lte(trail.id, before)',
)
of('app/people/placeHere.ts', ['server/people'])(
  'a path with two slashes leads elsewhere',
  " && !pathname.startsWith('//')",
  '',
)
const access = of('node/store/access.ts', ['server/people'])
access(
  'a project that is not open to all is open with the own role',
  "if (project.access === 'all' || asker.role === 'manage'",
  "if (project.access !== 'none' || asker.role === 'manage'",
)
access('whoever made a project locks themselves out', 'owns(project, asker) ? [...given, asker.role] : given', 'given')
access(
  'anybody who works says whom a project is open to',
  "(role === 'work' && owns(project, asker))",
  "role === 'work'",
)
access('of several roles the least counts', 'ROLES[Math.max(', 'ROLES[Math.min(')
of('node/nesting.ts', ['nesting'])(
  'brackets in strings count as depth',
  'if (byte === BACKSLASH) i++',
  'if (byte === BACKSLASH) isInString = false',
)
of('node/store/projectFile.ts', ['server/tidy'])(
  'what stands twice in a project file is taken twice',
  'if (seen.has(name)) return name',
  '',
)
of('node/store/blobs.ts', ['server/store'])(
  'a file that is damaged comes whole',
  "if (sum.digest('hex') !== hash) throw",
  "if (sum.digest('hex') === '') throw",
)
